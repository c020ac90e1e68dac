#include "command/edit.h"

#include "base/errors.h"
#include "base/text.h"
#include "campaign/settings/variants.h"
#include "campaign/steps/grid_stage.h"
#include "campaign/store/point_report.h"

namespace cvane::command {
using nlohmann::json;

std::vector<Argument> editArguments(std::vector<Argument> own) {
    own.insert(own.begin(), {"campaign", Argument::Kind::Text, "the campaign's folder", true, true});
    own.push_back({"configuration", Argument::Kind::Text, "change it in this configuration only"});
    own.push_back({"set-up", Argument::Kind::Text, "change it in this set-up only"});
    return own;
}

campaign::Settings folded(const campaign::Settings& base, const std::string& configuration, const std::string& setUp,
                          const campaign::Settings& changed) {
    if (configuration.empty() && setUp.empty()) return changed;
    auto next = campaign::withVariantChanged(base, configuration, setUp, changed);
    // Of one variant alone, a change of the other side would silently become one of the base.
    const auto withoutVariants = [](campaign::Settings s) {
        s.configurations.clear();
        s.setUps.clear();
        return s;
    };
    if (withoutVariants(next) != withoutVariants(base))
        throw base::InputError(
            "the change is not of that variant's side.", configuration.empty() ? setUp : configuration,
            "Model, reference and devices belong to configurations; tunnel, grid, flow and air to set-ups.");
    return next;
}

void edit(const json& arguments, const std::function<void(campaign::Campaign&)>& change) {
    auto c = campaign::Campaign::open(textIn(arguments, "campaign"));
    const auto configuration = textIn(arguments, "configuration"), setUp = textIn(arguments, "set-up");
    auto seen = c.of(configuration, setUp);
    change(seen);
    campaign::checkRanges(seen.settings, c.folder().string());
    auto next = folded(c.settings, configuration, setUp, seen.settings);
    campaign::keepFirstHeights(c, next);
    c.settings = std::move(next);
    campaign::checkRanges(c.settings, c.folder().string());
    c.save();
}

shape::Part& partNamed(campaign::Settings& settings, const std::string& name) {
    for (auto& part : settings.model.parts)
        if (part.name == name) return part;
    throw base::InputError("no part has that name.", base::printable(name), "The command \"check\" lists the parts.");
}

std::string textIn(const json& arguments, const char* name) {
    return arguments.value(name, std::string());
}

std::vector<std::string> textsIn(const json& arguments, const char* name) {
    return arguments.value(name, std::vector<std::string>());
}

std::filesystem::path runOf(const campaign::Campaign& c, const campaign::Point& point) {
    const auto run = campaign::runWithValues(c, point);
    if (!run) throw base::InputError("has not been run.", point.name(), "Run it first.");
    return *run;
}

Vec3 vectorIn(const json& a, const char* name, const Vec3& otherwise) {
    if (!a.contains(name)) return otherwise;
    const auto v = a.at(name).get<std::vector<double>>();
    return {v.at(0), v.at(1), v.at(2)};
}

base::Progress progressTo(const Talk& talk) {
    return [&talk](double fraction, std::string_view doing) {
        return talk({{"progress", fraction}, {"doing", std::string(doing)}});
    };
}

}  // namespace cvane::command
