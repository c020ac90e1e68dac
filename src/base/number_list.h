#pragma once
#include <string>
#include <vector>

namespace cvane::base {

/// What a range without its step, first:last, is.
enum class Step { OneIfLeftOut, Asked };

/// Numbers as they are typed: parted by commas, semicolons or blanks, each a number or a range first:last:step, both
/// ends taken in. "2, 4:10:2" -> 2 4 6 8 10.
/// @param where  what the numbers are for, told in errors
/// Throws InputError: nothing there, words, a step that does not lead to its end, more than 2,000 numbers.
std::vector<double> numbersIn(const std::string& text, const std::string& where, Step step = Step::OneIfLeftOut);

/// As above where one number is meant. Throws InputError for more as well.
double numberIn(const std::string& text, const std::string& where);

}  // namespace cvane::base
