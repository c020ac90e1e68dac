#include "campaign/settings/field.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "base/errors.h"

namespace cvane::campaign {
using nlohmann::json;

namespace {
std::string inWords(const json& value) {
    const std::string text = value.dump(-1, ' ', false, json::error_handler_t::replace);
    return text.size() <= 60 ? text : text.substr(0, 57) + "...";
}

std::string listed(const std::vector<std::string>& words) {
    std::string out;
    for (std::size_t i = 0; i < words.size(); ++i)
        out += fmt::format("{}{}", i == 0 ? "" : i + 1 == words.size() ? " or " : ", ", words[i]);
    return out;
}
}  // namespace

std::string Field::rangeText() const {
    if (kind == Kind::Word) return listed(words);
    if (kind == Kind::Flag) return "true or false";
    if (kind == Kind::Text) return "";
    constexpr double kAny = 1e14;
    const std::string u = unit.empty() ? "" : " " + unit;
    const auto end = [&](double v) { return fmt::format("{:.10g}", v); };
    if (limits.low < -kAny && limits.high > kAny) return "any" + u;
    if (limits.high > kAny) return fmt::format("{} {}{}", limits.aboveLow ? "above" : "from", end(limits.low), u);
    const std::string zero = limits.zero == grid::Range::Zero::Also    ? "0, or "
                             : limits.zero == grid::Range::Zero::Never ? "other than 0, "
                                                                       : "";
    return limits.aboveLow ? fmt::format("{}above {} up to {}{}", zero, end(limits.low), end(limits.high), u)
                           : fmt::format("{}{} to {}{}", zero, end(limits.low), end(limits.high), u);
}

void Field::check(const json& value, const std::string& path, const std::string& where) const {
    const auto fail = [&](const std::string& what) {
        throw base::InputError(fmt::format("the field \"{}\" {}.", path, what), where,
                               rangeText().empty() ? "Correct it." : fmt::format("Give {}.", rangeText()));
    };
    if (value.is_null() && mayBeEmpty) return;
    const auto number = [&](const json& v) {
        if (!v.is_number() || !std::isfinite(v.get<double>()))
            fail(fmt::format("is {}, which is not a number", inWords(v)));
        if (!limits.hold(v.get<double>())) fail(fmt::format("is {}, which is out of its range", inWords(v)));
    };
    switch (kind) {
        case Kind::Number:
            number(value);
            break;
        case Kind::Whole:
            number(value);
            if (value.get<double>() != std::floor(value.get<double>()))
                fail(fmt::format("is {}, which is not a whole number", inWords(value)));
            break;
        case Kind::Flag:
            if (!value.is_boolean()) fail(fmt::format("is {}, which is neither true nor false", inWords(value)));
            break;
        case Kind::Text:
            if (!value.is_string()) fail(fmt::format("is {}, which is not a text", inWords(value)));
            break;
        case Kind::Word:
            if (!value.is_string() || std::find(words.begin(), words.end(), value.get<std::string>()) == words.end())
                fail(fmt::format("is {}, which it cannot be", inWords(value)));
            break;
        case Kind::Vector:
            if (!value.is_array() || value.size() != 3)
                fail(fmt::format("is {}, which is not a list of three numbers", inWords(value)));
            for (const auto& v : value) number(v);
            break;
        case Kind::Numbers:
            if (value.is_number()) {  // a list of one
                number(value);
                break;
            }
            if (!value.is_array() || value.empty())
                fail(fmt::format("is {}, which is not a list of numbers", inWords(value)));
            for (const auto& v : value) number(v);
            break;
        case Kind::Things:  // each is checked when it is taken
            if (!value.is_array()) fail(fmt::format("is {}, which is not a list", inWords(value)));
            break;
    }
}

std::string nearestName(const std::string& name, const std::vector<std::string>& known) {
    std::string best;
    std::size_t least = std::max<std::size_t>(2, name.size() / 3) + 1;
    for (const auto& k : known) {
        // Edit distance, row by row.
        std::vector<std::size_t> above(k.size() + 1), here(k.size() + 1);
        std::iota(above.begin(), above.end(), std::size_t{0});
        for (std::size_t i = 0; i < name.size(); ++i) {
            here[0] = i + 1;
            for (std::size_t j = 0; j < k.size(); ++j)
                here[j + 1] = std::min({here[j] + 1, above[j + 1] + 1, above[j] + (name[i] == k[j] ? 0u : 1u)});
            std::swap(above, here);
        }
        // A name that the typed one begins or ends is near however long its unit is.
        const std::size_t distance =
            name.size() >= 3 && (k.starts_with(name) || k.ends_with(name)) ? 1 : above[k.size()];
        if (distance < least) {
            least = distance;
            best = k;
        }
    }
    return best;
}

}  // namespace cvane::campaign
