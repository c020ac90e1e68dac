#pragma once
#include "campaign/settings/field.h"
#include "campaign/settings/settings.h"

namespace cvane::campaign {

/// A group of campaign.json: its settings, and its lists of named things.
struct Group {
    std::string name;
    std::vector<Row<Settings>> rows;
};

/// A list of like things in campaign.json. Named ones are an object by name, so that a merge patch can change one of
/// them.
struct List {
    std::string group, name;
    std::string keyedBy;  ///< what the names are those of: "part", "disc"; empty: an array
    Affects affects = Affects::Flow;
    std::string help;
    std::vector<Field> fields;  ///< of each thing
    std::function<nlohmann::json(const Settings&)> get;
    /// Checks and takes. Throws InputError naming the field.
    std::function<void(Settings&, const nlohmann::json&, const std::string& where)> put;
};

/// The one table of settings: from it come the files, their errors, the command line, keys, forms and docs/files.md.
const std::vector<Group>& settingGroups();
const std::vector<List>& settingLists();

/// The setting "group.field". Throws InputError with the nearest name: there is none.
const Row<Settings>& settingNamed(const std::string& path, const std::string& where);

/// Settings that affect what is asked for and are not at their default, for keys: a setting that is added later leaves
/// old keys alone.
nlohmann::json changedFrom(const Settings& defaults, const Settings& settings, const std::vector<Affects>& affects);

/// A flow's item as campaign.json holds it.
nlohmann::json itemInJson(const FlowItem& item);

/// The tables of docs/files.md.
std::string settingsInMarkdown();

}  // namespace cvane::campaign
