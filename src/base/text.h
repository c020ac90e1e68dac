#pragma once
#include <string>
#include <string_view>

namespace cvane::base {

/// The text with control characters and bytes that are not UTF-8 replaced by "?": safe on a terminal, in JSON and in a
/// window.
std::string printable(std::string_view text);

bool isUtf8(std::string_view text);

}  // namespace cvane::base
