#pragma once
#include <string>
#include <string_view>

namespace cvane::base {

/// The text with control characters and bytes that are not UTF-8 replaced by "?": safe on a terminal, in JSON and in a
/// window.
std::string printable(std::string_view text);

/// A word of a comma-separated table: in quotes where it needs them (RFC 4180).
std::string csvWord(const std::string& word);

/// Words in lines of so many letters at most, but for longer words, broken at blanks.
/// @param indent  of every line but the first
std::string wrapped(std::string_view words, std::size_t width, std::string_view indent);

bool isUtf8(std::string_view text);

}  // namespace cvane::base
