#pragma once
#include <nlohmann/json.hpp>

#include "flow/case.h"

namespace cvane::flow {

/// A case as its files have it, in SI but for the wind's angles, which are in degrees. What is given by functions is
/// left out.
nlohmann::json toJson(const Case& c);
/// What is not there keeps its default, so that a case of an older version is read by a newer one. Throws
/// nlohmann::json::exception: a value of another kind; base::InputError: a word that is none of those known.
Case caseFromJson(const nlohmann::json& j);

}  // namespace cvane::flow
