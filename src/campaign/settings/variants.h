#pragma once
#include "campaign/settings/settings.h"

namespace cvane::campaign {

/// The settings of a configuration in a set-up: the base with both patches. Empty names stand for the base itself.
/// Throws InputError: no variant of that name, a patch that makes no settings.
Settings resolved(const Settings& base, const std::string& configuration, const std::string& setUp,
                  const std::string& where = "campaign.json");

/// Takes settings as they were changed while a configuration and a set-up were looked at: what belongs to the model's
/// side goes into the configuration's patch, what belongs to the tunnel's into the set-up's; all else, and what has no
/// variant, into the base.
Settings withVariantChanged(const Settings& base, const std::string& configuration, const std::string& setUp,
                            const Settings& changed);

/// The smallest merge patch (RFC 7396) that leads from one value to another.
nlohmann::json mergePatchBetween(const nlohmann::json& from, const nlohmann::json& to);

/// Whether a group of campaign.json belongs to the model's side ("model", "reference", "devices") or to the tunnel's
/// ("tunnel", "grid", "flow", "air").
bool isModelSide(const std::string& group);
bool isTunnelSide(const std::string& group);

/// Throws InputError: the last name is empty, holds other signs than letters, digits, blanks, "-", "_", "." or "+", is
/// "base", or is there twice.
void checkVariantName(const std::vector<Variant>& variants, const std::string& where);

/// Kinds of variants: where they are listed and where the schedule names them.
enum class VariantKind { Configuration, SetUp };

/// Gives one another name wherever it is named, or takes it out with the groups, single points and held lifts that are
/// of it alone. Throws InputError: there is none of that name; the new one cannot be taken.
void renameVariant(Settings& settings, VariantKind kind, const std::string& from, const std::string& to,
                   const std::string& where);
void removeVariant(Settings& settings, VariantKind kind, const std::string& name, const std::string& where);

}  // namespace cvane::campaign
