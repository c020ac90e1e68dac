#pragma once
#include <nlohmann/json.hpp>
#include <string>

#include "base/errors.h"
#include "base/time_left.h"

namespace cvane::cli {

/// One JSON object as a line.
std::string line(const nlohmann::json& value);

/// News on the screen: for programs one JSON line each, for people words, and a line that is written over where it is a
/// terminal.
void tell(const nlohmann::json& news, bool forPrograms, const base::TimeLeft& left);

/// Says what went wrong, as a sentence or as JSON with an id. @param input  what, where and what to do, when the user
/// can mend it
/// @return `code`
int fail(bool forPrograms, const char* id, const std::string& sentence, const base::InputError* input, int code);

}  // namespace cvane::cli
