#pragma once
#include <nlohmann/json.hpp>
#include <string>

namespace cvane::campaign {

/// campaign.json of schema 1 in the form of the present one: lists of named things become objects by name.
/// Throws InputError: something in it is not what it should be.
nlohmann::json fromSchema1(const nlohmann::json& old, const std::string& where);

}  // namespace cvane::campaign
