#include "campaign/settings/set_field.h"

#include <fmt/format.h>

#include "base/errors.h"
#include "base/number_list.h"
#include "base/text.h"
#include "campaign/settings/earlier_names.h"
#include "campaign/settings/fields.h"

namespace cvane::campaign {
using nlohmann::json;

void setField(Settings& settings, const std::string& assignment) {
    const auto fail = [&](const std::string& what, const std::string& todo) {
        throw base::InputError(what, base::printable(assignment), todo);
    };
    const auto eq = assignment.find('=');
    const auto dot = assignment.find('.');
    if (eq == std::string::npos || dot == std::string::npos || dot > eq)
        fail("is not of the form group.field=value.", "Name the field as in campaign.json.");
    std::string path = assignment.substr(0, eq);
    std::string value = assignment.substr(eq + 1);
    // As campaign.json shows lists and texts.
    if (value.size() > 1 &&
        ((value.front() == '[' && value.back() == ']') || (value.front() == '"' && value.back() == '"')))
        value = value.substr(1, value.size() - 2);
    giveLaterName(path, value);
    for (const auto& l : settingLists())
        if (path == l.group + "." + l.name)
            fail("is a list.", l.name == "parts" ? "Parts are hidden, shown and renamed with the command \"parts\"."
                               : l.group == "schedule" ? "Use the command \"condition\"."
                               : l.group == "grid"     ? "Use the command \"finer\"."
                                                   : "Use the commands \"wheel\", \"rough\", \"disc\" and \"porous\".");
    const Row<Settings>& row = settingNamed(path, base::printable(assignment));
    json j;
    if (row.mayBeEmpty && (value == "auto" || value == "null")) {
        j = nullptr;
    } else if (row.kind == Kind::Text || row.kind == Kind::Word) {
        j = value;
    } else if (row.kind == Kind::Flag) {
        if (value != "true" && value != "false") fail("is neither true nor false.", "Type true or false.");
        j = value == "true";
    } else {
        const auto list = base::numbersIn(value, base::printable(assignment));
        const bool many = row.kind == Kind::Numbers || row.kind == Kind::Vector;
        if (!many && list.size() != 1)
            fail("takes one number.", row.rangeText().empty() ? "" : fmt::format("Give {}.", row.rangeText()));
        j = many ? json(list) : json(list[0]);
    }
    row.check(j, path, base::printable(assignment));
    row.put(settings, j);
}

}  // namespace cvane::campaign
