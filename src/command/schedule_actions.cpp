#include <fmt/format.h>

#include <algorithm>

#include "base/errors.h"
#include "base/files.h"
#include "base/number_list.h"
#include "campaign/plan/written.h"
#include "campaign/steps/hold.h"
#include "command/edit.h"
#include "command/groups.h"

namespace cvane::command {
using nlohmann::json;
using enum Argument::Kind;

namespace {

// Adds single conditions to the lists' ones, or leaves some of these out.
Outcome condition(const json& a, const Talk&) {
    edit(a, [&](campaign::Campaign& c) {
        auto& s = c.settings.schedule;
        if (a.value("clear", false)) {
            s.also.clear();
            s.leftOut.clear();
        }
        const auto each = [&](const char* name, auto&& take) {
            const auto v = a.value(name, std::vector<double>());
            if (v.size() % 3 != 0)
                throw base::InputError("a condition has three numbers.", name,
                                       "Give speed [m/s], alpha and beta [deg].");
            for (std::size_t i = 0; i < v.size(); i += 3) take(campaign::Condition{v[i], v[i + 1], v[i + 2]});
        };
        each("add", [&](const campaign::Condition& w) {
            std::erase(s.leftOut, w);
            if (const auto all = campaign::conditionsOf(s); std::find(all.begin(), all.end(), w) == all.end())
                s.also.push_back(w);
        });
        each("leave-out", [&](const campaign::Condition& w) {
            const auto all = campaign::conditionsOf(s);
            if (std::find(all.begin(), all.end(), w) == all.end())
                throw base::InputError("is no condition of the schedule.", w.name(),
                                       "The command \"table\" lists them.");
            if (std::erase(s.also, w) == 0) s.leftOut.push_back(w);
        });
        campaign::conditionsOf(s);
    });
    return {};
}

// Makes, changes, switches or takes out a group of points.
Outcome group(const json& a, const Talk&) {
    auto c = campaign::Campaign::open(textIn(a, "campaign"));
    auto& groups = c.settings.schedule.groups;
    const auto name = textIn(a, "name");
    auto it = std::find_if(groups.begin(), groups.end(), [&](const auto& g) { return g.name == name; });
    if (a.value("remove", false)) {
        if (it == groups.end())
            throw base::InputError("no group of points has that name.", name, "The command \"points\" lists them.");
        groups.erase(it);
    } else {
        if (it == groups.end()) {
            if (name.empty()) throw base::InputError("a group needs a name.", c.folder().string(), "Type one.");
            const auto& s = c.settings.schedule;
            it = groups.insert(groups.end(), {name, true, s.speeds, s.alphas_deg, s.betas_deg, {}, {}});
        }
        const auto numbers = [&](const char* option, std::vector<double>& into) {
            if (a.contains(option)) into = base::numbersIn(textIn(a, option), option);
        };
        numbers("speeds", it->speeds);
        numbers("alphas", it->alphas_deg);
        numbers("betas", it->betas_deg);
        if (a.contains("configuration")) it->configuration = textIn(a, "configuration");
        if (a.contains("set-up")) it->setUp = textIn(a, "set-up");
        if (a.contains("switch")) it->on = textIn(a, "switch") == "on";
    }
    campaign::pointsOf(c.settings);
    campaign::checkRanges(c.settings, c.folder().string());
    c.save();
    return {};
}

// Asks for a lift that runs shall have.
Outcome hold(const json& a, const Talk&) {
    auto c = campaign::Campaign::open(textIn(a, "campaign"));
    auto& s = c.settings;
    if (a.value("clear", false)) s.schedule.held.clear();
    if (a.contains("CL") && a.contains("lift"))
        throw base::InputError("CL and lift are both given.", "hold", "Hold one of them.");
    if (a.contains("CL") || a.contains("lift")) {
        campaign::HeldLift h;
        const bool force = a.contains("lift");
        h.of = force ? campaign::HeldLift::Of::Force : campaign::HeldLift::Of::Coefficient;
        h.value = a.at(force ? "lift" : "CL").get<double>();
        h.follows =
            textIn(a, "follows") == "speed" ? campaign::HeldLift::Follows::Speed : campaign::HeldLift::Follows::Alpha;
        h.from = {a.value("speed", s.schedule.speeds.front()), a.value("alpha", s.schedule.alphas_deg.front()),
                  a.value("beta", s.schedule.betas_deg.front())};
        h.configuration = textIn(a, "configuration");
        h.setUp = textIn(a, "set-up");
        campaign::checkVariantNamed(s.configurations, h.configuration, "a held lift");
        campaign::checkVariantNamed(s.setUps, h.setUp, "a held lift");
        // What cannot be is said now, not after the other runs.
        if (const auto first = campaign::nextTry(h, {}, 1.0, 1.0); first.kind == campaign::NextTry::Kind::Cannot)
            throw base::InputError(first.why, "hold", "");
        s.schedule.held.push_back(h);
    } else if (!a.value("clear", false)) {
        throw base::InputError("nothing is to be held.", "hold", "Give --CL or --lift.");
    }
    campaign::checkRanges(s, c.folder().string());
    c.save();
    Outcome out;
    for (const auto& h : s.schedule.held) {
        out.text += campaign::wordsOf(h) + "\n";
        out.value["held"].push_back(campaign::wordsOf(h));
    }
    return out;
}

Outcome varySetting(const json& a, const Talk&) {
    auto c = campaign::Campaign::open(textIn(a, "campaign"));
    const auto names = campaign::vary(c.settings, textIn(a, "setting"), textsIn(a, "values"));
    campaign::checkRanges(c.settings, c.folder().string());
    c.save();
    return {{{"names", names}}, fmt::format("made: {}\n", fmt::join(names, "; ")), 0};
}

// Adds the points of a table, and tells all points as one.
Outcome points(const json& a, const Talk&) {
    auto c = campaign::Campaign::open(textIn(a, "campaign"));
    if (a.contains("add")) {
        const auto file = textIn(a, "add");
        campaign::addPoints(c.settings, campaign::pointsInTable(base::readFile(file), file));
        c.save();
    }
    if (a.value("clear", false)) {
        c.settings.schedule.single.clear();
        c.save();
    }
    Outcome out{{{"points", json::array()}}, "speed_m_s\talpha_deg\tbeta_deg\tconfiguration\tset_up\tmethod\n", 0};
    for (const auto& p : campaign::pointsOf(c.settings)) {
        const auto& w = p.condition;
        out.text += fmt::format("{:.9g}\t{:.9g}\t{:.9g}\t{}\t{}\t{}\n", w.speed, w.alpha_deg, w.beta_deg,
                                campaign::shownName(p.configuration), campaign::shownName(p.setUp),
                                campaign::nameOf(p.method).id);
        out.value["points"].push_back(p.name());
    }
    return out;
}
}  // namespace

std::vector<Action> scheduleActions() {
    const Argument folder{"campaign", Text, "the campaign's folder", true, true};
    const Argument configuration{"configuration", Text, "of this one"}, setUp{"set-up", Text, "of this one"};
    return {{"condition", "single conditions besides those of the schedule's lists",
             editArguments({{"add", Numbers, "speed [m/s], alpha and beta [deg], of one or more"},
                            {"leave-out", Numbers, "the same, of the lists' own"},
                            {"clear", Flag, "first go back to the lists alone"}}),
             condition},
            {"group",
             "further points under a name, which can be switched off",
             {folder,
              {"name", Text, "of the group", true, true},
              {"speeds", Text, "[m/s], as 10,20 or 10:30:5"},
              {"alphas", Text, "[deg]"},
              {"betas", Text, "[deg]"},
              {"configuration", Text, "in this one alone; base: the base"},
              {"set-up", Text, "in this one alone; base: the base"},
              {"switch", Text, "whether it is run", false, false, 0, {"on", "off"}},
              {"remove", Flag, "take it out; its results stay in the folder"}},
             group},
            {"hold",
             "a lift that runs shall have: alpha or speed follows",
             {folder,
              {"CL", Number, "the coefficient"},
              {"lift", Number, "the force [N]"},
              {"follows", Text, "what is changed until it has it", false, false, 0, {"alpha", "speed"}},
              {"speed", Number, "of the first try [m/s]", false, false, 0, {}, 1e-3, 300},
              {"alpha", Number, "of the first try [deg]", false, false, 0, {}, -90, 90},
              {"beta", Number, "[deg]", false, false, 0, {}, -90, 90},
              configuration,
              setUp,
              {"clear", Flag, "first let go of all that are held"}},
             hold},
            {"vary",
             "a configuration or set-up for each value of a setting",
             {folder,
              {"setting", Text, "group.field, such as flow.model or model.rotation_deg.y", true, true},
              {"values", Texts, "that it shall have", true, true}},
             varySetting},
            {"points",
             "all points as a table; more from one",
             {folder,
              {"add", Text, "file with rows of speed, alpha, and where wanted beta, configuration, set-up"},
              {"clear", Flag, "take back all that such tables and held lifts have added"}},
             points}};
}

}  // namespace cvane::command
