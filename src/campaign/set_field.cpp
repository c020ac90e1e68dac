#include "campaign/set_field.h"

#include <fmt/format.h>

#include "base/errors.h"
#include "campaign/points.h"

namespace cvane::campaign {

void setField(Settings& settings, const std::string& assignment) {
    const auto fail = [&](const std::string& what, const std::string& todo) { throw base::InputError(what, assignment, todo); };
    const auto eq = assignment.find('=');
    const auto dot = assignment.find('.');
    if (eq == std::string::npos || dot == std::string::npos || dot > eq) fail("is not of the form group.field=value.", "Name the field as in campaign.json.");
    const std::string group = assignment.substr(0, dot), field = assignment.substr(dot + 1, eq - dot - 1), value = assignment.substr(eq + 1);
    auto j = toJson(settings);
    if (!j.contains(group) || !j[group].is_object() || !j[group].contains(field)) {
        std::string known;
        if (j.contains(group) && j[group].is_object())
            for (const auto& [k, v] : j[group].items()) known += (known.empty() ? "" : ", ") + k;
        fail("there is no such field.", known.empty() ? "The groups are model, reference, air, tunnel, grid, flow, schedule." : "This group has: " + known + ".");
    }
    auto& target = j[group][field];
    if (value == "auto" && (target.is_null() || group == "reference")) {
        target = nullptr;
    } else if (target.is_string()) {
        target = value;
    } else if (target.is_array() || field == "moment_centre_m") {
        if (field == "parts") fail("parts are hidden with the command \"parts\".", "");
        if (field == "finer_places" || field == "finer_parts") fail("is a list.", "Use the command \"finer\".");
        target = parseList(value, assignment);
    } else if (target.is_boolean()) {
        if (value != "true" && value != "false") fail("is neither true nor false.", "Type true or false.");
        target = value == "true";
    } else {
        const auto list = parseList(value, assignment);
        if (list.size() != 1) fail("takes one number.", "");
        if (target.is_number_integer() && list[0] == static_cast<double>(static_cast<long>(list[0])))
            target = static_cast<long>(list[0]);
        else
            target = list[0];
    }
    settings = settingsFromJson(j, assignment);
}

}  // namespace cvane::campaign
