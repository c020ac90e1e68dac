#pragma once
#include <functional>
#include <string>

#include "base/errors.h"
#include "base/files.h"
#include "bench/models.h"
#include "campaign/steps/grid_stage.h"
#include "campaign/store/campaign.h"
#include "campaign/store/keys.h"
#include "campaign/store/run_order.h"
#include "campaign/store/runs.h"
#include "flow/version.h"
#include "readout/result.h"
#include "shape/stl_export.h"
#include "tests/folder.h"

namespace cvane::test {

/// A campaign of a ball of 1 m.
inline campaign::Campaign ball(const test::Folder& folder) {
    shape::writeStl(bench::sphere(0.5, 24), folder / "ball.stl", 1.0);
    return campaign::Campaign::create(folder / "ball.cvane", folder / "ball.stl", "m");
}

/// What is said where something is refused; empty: it is not.
inline std::string refusalOf(const std::function<void()>& what) {
    try {
        what();
    } catch (const base::InputError& e) {
        return e.what();
    }
    return {};
}

/// A run that has come to its end, as the solver leaves it.
inline std::filesystem::path finished(const campaign::Campaign& c, const campaign::Point& p, double CD,
                                      int solver = flow::kSolverVersion) {
    const auto folder = campaign::newRunFolder(c, p);
    campaign::RunOrder order;
    order.key = campaign::runKey(c, p);
    order.caseKey = campaign::caseKey(c, p);
    order.solver = solver;
    order.point = p;
    order.grid = campaign::gridFile(c.of(p));
    order.flowCase.settings = c.settings.flow;
    campaign::writeOrder(order, folder);
    readout::Result r;
    r.verdict = flow::Verdict::Settled;
    r.wind = campaign::windOf(c.settings, p.condition);
    r.iterations = 100;
    flow::Load load;
    load.pressure = CD * r.wind.dynamicPressure() * r.reference.area * r.wind.dragAxis();
    r.total = readout::balanceOf("whole model", load, r.wind, r.reference);
    r.coefficients = r.total.coefficients;
    base::replaceJson(folder / "result.json", readout::toJson(r));
    return folder;
}

}  // namespace cvane::test
