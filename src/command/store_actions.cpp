#include <fmt/format.h>

#include <algorithm>

#include "base/errors.h"
#include "base/text.h"
#include "campaign/steps/reports.h"
#include "campaign/store/holdings.h"
#include "campaign/store/point_report.h"
#include "command/edit.h"
#include "command/groups.h"

namespace cvane::command {
using nlohmann::json;
using enum Argument::Kind;

namespace {
const char* nameOf(campaign::Holding::Use use) {
    return use == campaign::Holding::Use::Present   ? "present"
           : use == campaign::Holding::Use::Earlier ? "earlier"
                                                    : "other";
}

Outcome index(const json& a, const Talk&) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    Outcome out{{{"runs", json::array()}},
                fmt::format("{:<20} {:<20} {:>9} {:>7} {:>7} {:>7} {:>8}  {}\n", "configuration", "set-up", "speed m/s",
                            "alpha", "beta", "solver", "size MB", "folder"),
                0};
    auto holdings = campaign::holdingsOf(c);
    std::erase_if(holdings, [](const auto& h) { return h.kind != campaign::Holding::Kind::Run; });
    std::stable_sort(holdings.begin(), holdings.end(),
                     [](const auto& x, const auto& y) { return x.point.name() < y.point.name(); });
    std::stable_sort(holdings.begin(), holdings.end(), [](const auto& x, const auto& y) {
        return std::tie(x.point.configuration, x.point.setUp) < std::tie(y.point.configuration, y.point.setUp);
    });
    for (const auto& h : holdings) {
        const auto& p = h.point;
        out.text += fmt::format("{:<20} {:<20} {:>9.2f} {:>7.2f} {:>7.2f} {:>7} {:>8.1f}  runs/{} ({})\n",
                                campaign::shownName(p.configuration), campaign::shownName(p.setUp), p.condition.speed,
                                p.condition.alpha_deg, p.condition.beta_deg, h.solver,
                                1e-6 * static_cast<double>(h.bytes), h.name, nameOf(h.use));
        out.value["runs"].push_back({{"configuration", p.configuration},
                                     {"set_up", p.setUp},
                                     {"speed_m_s", p.condition.speed},
                                     {"alpha_deg", p.condition.alpha_deg},
                                     {"beta_deg", p.condition.beta_deg},
                                     {"solver", h.solver},
                                     {"bytes", h.bytes},
                                     {"folder", "runs/" + h.name},
                                     {"use", nameOf(h.use)},
                                     {"at_work", h.atWork}});
    }
    return out;
}

Outcome clean(const json& a, const Talk&) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    const auto names = textsIn(a, "delete");
    const auto holdings = campaign::holdingsOf(c);
    for (const auto& name : names)
        if (std::none_of(holdings.begin(), holdings.end(), [&](const auto& h) { return h.name == name; }))
            throw base::InputError("is neither a run nor a grid here.", base::printable(name),
                                   "The command \"clean\" without --delete lists them.");
    Outcome out{{{"holdings", json::array()}, {"deleted", json::array()}}, {}, 0};
    std::uintmax_t freed = 0, all = 0;
    for (const auto& h : holdings) {
        const bool goes = std::find(names.begin(), names.end(), h.name) != names.end() ||
                          (a.value("earlier", false) && h.use == campaign::Holding::Use::Earlier) ||
                          (a.value("other", false) && h.use == campaign::Holding::Use::Other);
        if (goes && !h.atWork) {
            campaign::remove(c, h);
            freed += h.bytes;
            out.value["deleted"].push_back(h.name);
            continue;
        }
        if (goes) out.text += fmt::format("{} stays: it is at work\n", h.name);
        all += h.bytes;
        out.text += h.words() + "\n";
        out.value["holdings"].push_back({{"kind", h.kind == campaign::Holding::Kind::Run ? "run" : "grid"},
                                         {"name", h.name},
                                         {"use", nameOf(h.use)},
                                         {"bytes", h.bytes},
                                         {"at_work", h.atWork}});
    }
    out.text += freed > 0 ? fmt::format("{:.1f} MB were freed; {:.1f} MB are held\n", 1e-6 * static_cast<double>(freed),
                                        1e-6 * static_cast<double>(all))
                          : fmt::format("{:.1f} MB are held; nothing was deleted\n", 1e-6 * static_cast<double>(all));
    return out;
}
}  // namespace

std::vector<Action> storeActions() {
    const Argument folder{"campaign", Text, "the campaign's folder", true, true};
    return {{"index", "all runs that the campaign's folder holds", {folder}, index},
            {"clean",
             "how much space runs and grids take; deletes those that are named",
             {folder,
              {"delete", Texts, "names of runs and grids to delete for good"},
              {"earlier", Flag, "delete runs that have a later one of the same settings"},
              {"other", Flag, "delete runs and grids of other settings and of earlier solvers"}},
             clean}};
}

}  // namespace cvane::command
