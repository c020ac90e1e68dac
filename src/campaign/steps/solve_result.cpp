#include "campaign/steps/solve_result.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/files.h"
#include "campaign/steps/rank_files.h"
#include "campaign/store/stored_grid.h"
#include "flow/course.h"
#include "grid/cgns_file.h"
#include "readout/afterflight.h"
#include "readout/wall_field.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

namespace {
template <class Value>
air::Coefficients eachCoefficient(const std::vector<air::Coefficients>& history, Value&& value) {
    air::Coefficients out;
    for (const auto m : air::kAllCoefficients) out.*m = value(flow::columnOf(history, m));
    return out;
}
}  // namespace

air::Coefficients outcomeOf(const std::vector<air::Coefficients>& history, std::size_t window, bool atRest) {
    return eachCoefficient(history, [&](const auto& h) { return atRest ? h.back() : flow::spreadOf(h, window).mean; });
}

flow::Load modelLoad(const flow::Solver& solver, bool halfModel) {
    const auto loads = solver.loadsByPatch();
    flow::Load sum;
    for (std::size_t i = 0; i < loads.size(); ++i) {
        if (!solver.roles()[i].onModel) continue;
        sum.pressure += loads[i].pressure;
        sum.friction += loads[i].friction;
        sum.pressureMoment += loads[i].pressureMoment;
        sum.frictionMoment += loads[i].frictionMoment;
    }
    return halfModel ? flow::wholeModel(sum) : sum;
}

double pressureShareOfDrag(const flow::Load& load, const air::FreeStream& wind) {
    return load.pressure.dot(wind.dragAxis()) / load.force().dot(wind.dragAxis());
}

readout::Result resultOf(const RunOrder& order, const flow::Solver& solver,
                         const std::vector<air::Coefficients>& history, std::optional<std::size_t> averagedFrom,
                         flow::Verdict verdict, double seconds, const flow::Ranks& ranks) {
    const flow::Case& c = order.flowCase;
    readout::Result r;
    r.verdict = verdict;
    r.wind = c.wind;
    r.reference = c.reference;
    r.halfModel = c.tunnel.halfModel;
    r.iterations = static_cast<int>(history.size());
    r.cells = solver.piece().allCells;
    r.ranks = ranks.size();
    r.cellsFollowedFlow = order.cellsFollowFlow;
    r.seconds = seconds;
    const flow::SettleWatch watch(c.settings);
    const std::size_t window = averagedFrom ? history.size() - *averagedFrom : watch.window(history.size());
    r.swing = eachCoefficient(history, [&](const auto& h) { return flow::spreadOf(h, window).halfRange(); });
    r.band = eachCoefficient(history, [&](const auto& h) {
        if (!averagedFrom) {
            const auto s = flow::spreadOf(h, window);
            // Coefficients are those of the last iteration then: fields, parts and total are of one flow.
            const double strayed =
                verdict == flow::Verdict::Settled ? s.halfRange() : std::max(h.back() - s.low, s.high - h.back());
            return std::max(strayed, flow::stillToGo(h, window));
        }
        const double error = flow::errorOfMean(h, *averagedFrom);
        return std::isfinite(error) ? error : flow::spreadOf(h, window).halfRange();
    });
    if (averagedFrom) r.averagedOver = static_cast<int>(window);
    const auto loads = solver.loadsByPatch();
    for (std::size_t i = 0; i < loads.size(); ++i) {
        if (!solver.roles()[i].onModel) continue;
        const flow::Load l = c.tunnel.halfModel ? flow::wholeModel(loads[i]) : loads[i];
        r.parts.push_back(readout::balanceOf(solver.piece().patches[i].name, l, c.wind, c.reference));
    }
    const flow::Load sum = modelLoad(solver, c.tunnel.halfModel);
    r.total = readout::balanceOf("whole model", sum, c.wind, c.reference);
    r.coefficients = r.total.coefficients;
    const Vec3 outside = solver.forceFromOutside();
    r.forceFromOutside =
        c.tunnel.halfModel ? flow::wholeModel({outside, Vec3::Zero(), Vec3::Zero(), Vec3::Zero()}).force() : outside;
    r.groundDisplacement = solver.groundDisplacement();
    r.pressureShareOfDrag = pressureShareOfDrag(sum, c.wind);
    r.massImbalance = solver.massImbalance();
    r.discs = solver.readDiscs();
    r.blocks = solver.readBlocks();
    if (averagedFrom)
        r.remark = fmt::format(
            "The flow swings: CD by +-{:.2g}, CL by +-{:.2g}. Coefficients and fields are means over the last {} steps "
            "of time, known to +-{:.2g} in CD and +-{:.2g} in CL{}.",
            r.swing.CD, r.swing.CL, window, r.band.CD, r.band.CL,
            verdict == flow::Verdict::Unsteady ? ", less well than asked" : "");
    else if (verdict == flow::Verdict::Unsteady)
        r.remark = fmt::format("Not settled after {} iterations: CD still moves by +-{:.2g}, CL by +-{:.2g}.",
                               history.size(), r.band.CD, r.band.CL);
    return r;
}

void writeFields(const RunOrder& order, std::unique_ptr<flow::Solver> solver, const fs::path& folder,
                 const flow::Ranks& ranks, readout::Result& result) {
    std::vector<double> mine;
    for (const auto& w : solver->wallSamples())
        mine.insert(mine.end(), {static_cast<double>(w.face), w.p, w.shear.x(), w.shear.y(), w.shear.z(), w.yPlus});
    const auto all = ranks.gatherAtRoot(mine);
    const auto rows = ranks.gatherAtRoot(flow::cellRows(solver->piece(), solver->state()));
    const double free = solver->referencePressure();
    std::array<const char*, 2> turbulence{"TurbulentEnergyKinetic", "TurbulentDissipationRate"};
    if (solver->turbulence()) turbulence = solver->turbulence()->names();
    solver.reset();
    together(ranks, [&] {
        const grid::Grid grid = readGrid(order.grid);
        const grid::Geometry geo = grid::geometryOf(grid);
        const double q = 0.5 * order.flowCase.wind.speed * order.flowCase.wind.speed;
        readout::WallField wall;
        std::vector<std::pair<grid::FaceIndex, std::size_t>> byFace;
        for (std::size_t i = 0; i < all.size(); i += 6) byFace.push_back({static_cast<grid::FaceIndex>(all[i]), i});
        std::sort(byFace.begin(), byFace.end());
        for (const auto& [f, i] : byFace) {
            wall.face.push_back(f);
            wall.Cp.push_back((all[i + 1] - free) / q);
            wall.Cf.emplace_back(all[i + 2] / q, all[i + 3] / q, all[i + 4] / q);
            wall.yPlus.push_back(all[i + 5]);
        }
        readout::writeWallField(wall, geo, folder / "wall.csv");
        if (!wall.yPlus.empty()) {
            auto y = wall.yPlus;
            std::sort(y.begin(), y.end());
            result.yPlusLow = y.front();
            result.yPlusMedian = y[y.size() / 2];
            result.yPlusHigh = y.back();
        }
        result.findings = readout::findingsOf(result, wall, geo, order.flowCase.tunnel, !order.flowCase.discs.empty());
        std::map<std::string, std::vector<double>> fields;
        const char* names[7] = {"VelocityX",
                                "VelocityY",
                                "VelocityZ",
                                "PressureKinematic",
                                turbulence[0],
                                turbulence[1],
                                "ViscosityEddyKinematic"};
        for (std::size_t k = 0; k < 7; ++k) {
            if (*names[k] == '\0') continue;  // a model with one variable only
            auto& v = fields[names[k]];
            for (std::size_t c = 0; c < static_cast<std::size_t>(grid.cells()); ++c) v.push_back(rows[7 * c + k]);
        }
        std::error_code ec;
        fs::remove(folder / "flow.cgns.sum", ec);
        grid::writeFlowCgns(folder / "flow.cgns", fs::relative(order.grid, folder).string(), grid.cells(),
                            grid.points.size(), fields);
        base::noteSum(folder / "flow.cgns");
    });
}

}  // namespace cvane::campaign
