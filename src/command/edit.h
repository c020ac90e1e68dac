#pragma once
#include <filesystem>
#include <functional>
#include <string>

#include "base/progress.h"
#include "campaign/plan/points.h"
#include "campaign/store/campaign.h"
#include "command/action.h"

namespace cvane::command {

/// The arguments that every action on a campaign's settings has: the campaign, and the variant whose patch takes the
/// change.
std::vector<Argument> editArguments(std::vector<Argument> own);

/// Opens the campaign that the arguments name, lets `change` work on the settings as the named configuration and set-up
/// make them, and saves what it changed where it belongs. Throws InputError: what cannot be opened, changed or saved;
/// settings out of their range.
void edit(const nlohmann::json& arguments, const std::function<void(campaign::Campaign& resolved)>& change);

/// Settings that were changed as a configuration and set-up make them, put back where the change belongs.
/// Throws InputError: it belongs to neither of them.
campaign::Settings folded(const campaign::Settings& base, const std::string& configuration, const std::string& setUp,
                          const campaign::Settings& changed);

/// Throws InputError: no part has that name.
shape::Part& partNamed(campaign::Settings& settings, const std::string& name);

std::string textIn(const nlohmann::json& arguments, const char* name);
std::vector<std::string> textsIn(const nlohmann::json& arguments, const char* name);

/// The folder of the run that is shown of a point. Throws InputError: it has not been run.
std::filesystem::path runOf(const campaign::Campaign& c, const campaign::Point& point);

/// Three numbers; `otherwise` where they are not given.
Vec3 vectorIn(const nlohmann::json& arguments, const char* name, const Vec3& otherwise);

/// Progress of a long step as news.
base::Progress progressTo(const Talk& talk);

}  // namespace cvane::command
