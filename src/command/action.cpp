#include "command/action.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "base/text.h"
#include "campaign/settings/field.h"
#include "campaign/store/own_files.h"
#include "command/groups.h"

namespace cvane::command {
using nlohmann::json;

const std::vector<Action>& actions() {
    static const std::vector<Action> all = [] {
        std::vector<Action> out;
        for (auto* group : {&settingActions, &scheduleActions, &gasActions, &solidActions, &deviceActions, &workActions,
                            &readingActions, &fieldActions, &pictureActions, &numberActions, &reportActions,
                            &studyActions, &storeActions, &sectionActions, &wingActions, &batchActions, &manualActions})
            for (auto& a : (*group)()) out.push_back(std::move(a));
        return out;
    }();
    return all;
}

namespace {
void checkArgument(const Argument& a, const json& v, const std::string& action) {
    const auto fail = [&](const std::string& what) {
        throw base::InputError(fmt::format("{} {}.", a.name, what), action,
                               a.help.empty() ? "" : fmt::format("It is: {}.", a.help));
    };
    const auto number = [&](const json& x) {
        if (!x.is_number() || !std::isfinite(x.get<double>())) fail("is not a number");
        if (x.get<double>() < a.low || x.get<double>() > a.high)
            fail(fmt::format("is {}, and must lie between {} and {}", x.dump(), a.low, a.high));
    };
    const auto text = [&](const json& x) {
        // What is named so could not be told in JSON, nor kept in it.
        if (!base::isUtf8(x.get_ref<const std::string&>())) fail("holds bytes that are no text in UTF-8");
    };
    using enum Argument::Kind;
    switch (a.kind) {
        case Text:
            if (!v.is_string()) fail("is not a text");
            text(v);
            if (!a.oneOf.empty() && std::find(a.oneOf.begin(), a.oneOf.end(), v.get<std::string>()) == a.oneOf.end())
                fail(fmt::format("is none of {}", fmt::join(a.oneOf, ", ")));
            break;
        case Output:
            if (!v.is_string()) fail("is not a text");
            text(v);
            if (v != "-") campaign::refuseOwnFile(v.get<std::string>());
            break;
        case Texts:
            if (!v.is_array() || !std::all_of(v.begin(), v.end(), [](const json& t) { return t.is_string(); }))
                fail("is not a list of texts");
            for (const auto& x : v) text(x);
            break;
        case Number:
            number(v);
            break;
        case Whole:
            number(v);
            if (v.get<double>() != std::floor(v.get<double>()) || std::abs(v.get<double>()) > 1e9)
                fail("is not a whole number");
            break;
        case Numbers:
            if (!v.is_array() || (a.count > 0 && v.size() != static_cast<std::size_t>(a.count)))
                fail(a.count > 0 ? fmt::format("does not have {} numbers", a.count) : "is not a list of numbers");
            for (const auto& x : v) number(x);
            break;
        case Flag:
            if (!v.is_boolean()) fail("is neither true nor false");
            break;
    }
}
/// As lines on a terminal, and not more than one reads: what is longer lacks its middle.
std::string shown(const std::string& text, std::size_t most) {
    std::string all;
    for (std::size_t from = 0; from <= text.size();) {
        const std::size_t end = std::min(text.find('\n', from), text.size());
        if (from > 0) all += '\n';
        all += base::printable(text.substr(from, end - from));
        from = end + 1;
    }
    if (all.size() <= most) return all;
    return fmt::format("{} ... {}", base::printable(all.substr(0, 3 * most / 4)),
                       base::printable(all.substr(all.size() - most / 4)));
}
}  // namespace

Outcome perform(const std::string& name, const json& arguments, const Talk& talk) {
    std::vector<std::string> known;
    for (const auto& a : actions()) {
        if (a.name != name) {
            known.push_back(a.name);
            continue;
        }
        if (!arguments.is_object()) throw base::InputError("takes an object of arguments.", name, "");
        for (const auto& [key, value] : arguments.items()) {
            std::vector<std::string> names;
            for (const auto& x : a.arguments) names.push_back(x.name);
            const auto it =
                std::find_if(a.arguments.begin(), a.arguments.end(), [k = key](const auto& x) { return x.name == k; });
            if (it == a.arguments.end()) {
                const auto near = campaign::nearestName(key, names);
                throw base::InputError(fmt::format("does not know \"{}\".", base::printable(key)), name,
                                       near.empty() ? fmt::format("It takes {}.", fmt::join(names, ", "))
                                                    : fmt::format("Is \"{}\" meant?", near));
            }
            checkArgument(*it, value, name);
        }
        for (const auto& x : a.arguments)
            if (x.required && !arguments.contains(x.name))
                throw base::InputError(fmt::format("{} is missing.", x.name), name, fmt::format("It is: {}.", x.help));
        try {
            return a.run(
                arguments, talk ? talk : [](const json&) { return true; });
        } catch (const base::InputError& e) {
            // Names that were typed or stand in files may be anything.
            throw base::InputError(shown(e.problem(), 1000), shown(e.where(), 300), shown(e.whatToDo(), 1000));
        }
    }
    const auto near = campaign::nearestName(name, known);
    throw base::InputError("is no action of this program.", base::printable(name),
                           near.empty() ? "" : fmt::format("Is \"{}\" meant?", near));
}

}  // namespace cvane::command
