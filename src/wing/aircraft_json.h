#pragma once
#include <filesystem>
#include <nlohmann/json.hpp>

#include "wing/aircraft.h"

namespace cvane::wing {

/// The file of an aircraft: schema 1, fields in docs/files.md. What is left out is as in a new Aircraft, so that a file
/// written by hand can be short.
nlohmann::json toJson(const Aircraft& aircraft);
/// Checked as well. Throws InputError: a field that is unknown or of another kind, written by a newer version, or what
/// check() refuses. @param where  for the error: the file's name
Aircraft aircraftFrom(const nlohmann::json& json, const std::string& where);

/// Throws InputError as above; it cannot be read.
Aircraft readAircraft(const std::filesystem::path& file);
/// Replaces the file in one step. Throws InputError: it cannot be written.
void writeAircraft(const Aircraft& aircraft, const std::filesystem::path& file);

}  // namespace cvane::wing
