#pragma once
#include <string>

namespace cvane::shape {

/// Goes through a PLY file from end to end before it is given to its reader: a header that fits its content, corners
/// that are finite numbers, faces of three corners or more whose numbers are those of points. @param where  for the
/// error: the file's name Throws InputError naming what does not fit and where.
void checkPly(const std::string& bytes, const std::string& where);

}  // namespace cvane::shape
