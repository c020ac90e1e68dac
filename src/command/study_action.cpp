#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "base/files.h"
#include "base/number_list.h"
#include "campaign/plan/points.h"
#include "campaign/steps/grid_stage.h"
#include "command/edit.h"
#include "command/groups.h"
#include "command/point_runner.h"
#include "readout/grid_band.h"

namespace cvane::command {
using nlohmann::json;
using enum Argument::Kind;

namespace {
struct Studied {
    int budget = 0;
    readout::Result result;
};

const std::pair<const char*, double air::Coefficients::*> kShown[] = {
    {"CL", &air::Coefficients::CL}, {"CD", &air::Coefficients::CD}, {"Cm", &air::Coefficients::Cm}};

std::vector<int> budgetsOf(const json& a) {
    std::vector<int> out;
    for (const double b : base::numbersIn(a.value("budgets", std::string("60000,120000,250000")), "budgets")) {
        if (!(b >= 2000.0 && b <= 1e9))
            throw base::InputError(fmt::format("a budget of {:g} cells is out of range.", b), "budgets",
                                   "Give 2000 to 1e9 cells.");
        out.push_back(static_cast<int>(b));
    }
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    if (out.size() < 2) throw base::InputError("one budget says nothing of the cells.", "budgets", "Give two or more.");
    return out;
}

/// What the last three grids (or two) say.
json extrapolated(const std::vector<Studied>& all, double air::Coefficients::*which) {
    const std::size_t n = all.size();
    const auto value = [&](std::size_t back) { return all[n - 1 - back].result.coefficients.*which; };
    const auto ratio = [&](std::size_t back) {
        return std::cbrt(static_cast<double>(all[n - 1 - back].result.cells) / all[n - 2 - back].result.cells);
    };
    const auto band = n > 2 ? readout::gridBand(value(0), value(1), value(2), ratio(0), ratio(1))
                            : readout::gridBand(value(0), value(1), ratio(0));
    return {{"band", band.band},
            {"order", band.order ? json(*band.order) : json(nullptr)},
            {"extrapolated", band.limit ? json(*band.limit) : json(nullptr)}};
}

/// One point on grids of several budgets, the coarsest first. What is there already is not run again.
Outcome study(const json& a, const Talk& talk) {
    const auto opened = campaign::Campaign::open(textIn(a, "campaign"));
    const auto point = a.contains("point") ? campaign::pointNamed(opened.settings, textIn(a, "point"))
                                           : campaign::pointsOf(opened.settings).front();
    std::vector<Studied> all;
    int code = 0;
    for (const int budget : budgetsOf(a)) {
        auto base = opened;
        base.settings.grid.cellBudget = budget;
        const auto c = base.of(point);
        if (c.settings.grid.cellBudget != budget)
            throw base::InputError("sets a cell budget of its own.", point.configuration,
                                   "Take grid.cell_budget out of the configuration for the study.");
        if (!campaign::gridIsCurrent(c)) {
            talk({{"text", fmt::format("Making the grid of {} cells\n", budget)}});
            campaign::makeGrid(c, progressTo(talk));
        }
        PointRunner runner(base, a.value("ranks", campaign::cores()), {}, talk);
        const bool goesOn = runner.run(point);
        code = std::max(code, runner.code());
        const auto report = campaign::reportOf(c, point, runner.book().reference(c));
        if (report.result && report.state == campaign::PointState::Settled)
            all.push_back({budget, *report.result});
        else if (goesOn)
            talk({{"warning", fmt::format("{} cells are left out: the flow has not settled on them", budget)}});
        if (!goesOn) break;
    }
    std::string text = fmt::format("{:>9} {:>10} {:>9} {:>9} {:>9}\n", "cells", "size", "CL", "CD", "Cm");
    std::string csv = "cells,size of the cells [of the finest],CL,CD,Cm\n";
    json value = {{"point", point.name()}, {"grids", json::array()}};
    for (const auto& s : all) {
        const auto& k = s.result.coefficients;
        const double size = std::cbrt(static_cast<double>(all.back().result.cells) / s.result.cells);
        text += fmt::format("{:>9} {:>10.3f} {:>9.5f} {:>9.5f} {:>9.5f}\n", s.result.cells, size, k.CL, k.CD, k.Cm);
        csv += fmt::format("{},{:.5f},{:.6f},{:.6f},{:.6f}\n", s.result.cells, size, k.CL, k.CD, k.Cm);
        value["grids"].push_back({{"budget", s.budget},
                                  {"cells", s.result.cells},
                                  {"size", size},
                                  {"CL", k.CL},
                                  {"CD", k.CD},
                                  {"Cm", k.Cm}});
    }
    if (all.size() > 1)
        for (const auto& [name, which] : kShown) {
            const json e = extrapolated(all, which);
            value[name] = e;
            const double band = e["band"];
            if (e["order"].is_null())
                text += fmt::format("{}: does not approach one value; +- {:.5f} on the finest\n", name, band);
            else if (e["extrapolated"].is_null())
                text += fmt::format("{}: order {:.1f}, too far from 1 to 2 to be carried on; +- {:.5f} on the finest\n",
                                    name, e["order"].get<double>(), band);
            else
                text += fmt::format("{}: approaches {:.5f}, order {:.1f}; +- {:.5f} on the finest\n", name,
                                    e["extrapolated"].get<double>(), e["order"].get<double>(), band);
        }
    if (a.contains("csv")) base::exportFile(textIn(a, "csv"), csv);
    return {value, text, code};
}
}  // namespace

std::vector<Action> studyActions() {
    return {{"study",
             "one point on grids of several budgets: values over the cells' size, and what they approach",
             {{"campaign", Text, "the campaign's folder", true, true},
              {"point", Text, "name of the point; none: the schedule's first"},
              {"budgets", Text, "cells, with commas: 60000,120000,250000"},
              {"ranks", Whole, "MPI ranks", false, false, 0, {}, 1, 4096},
              {"csv", Output, "write the values to this file"}},
             study}};
}

}  // namespace cvane::command
