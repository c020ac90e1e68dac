#include "campaign/steps/solve_result.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/files.h"
#include "campaign/steps/rank_files.h"
#include "campaign/store/run_standing.h"
#include "campaign/store/stored_flow.h"
#include "campaign/store/stored_grid.h"
#include "flow/course.h"
#include "flow/solver.h"
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
    const auto loads = solver.read().loadsByPatch();
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
    r.asked = readout::askedBy(c.settings);
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
    const auto loads = solver.read().loadsByPatch();
    for (std::size_t i = 0; i < loads.size(); ++i) {
        if (!solver.roles()[i].onModel) continue;
        const flow::Load l = c.tunnel.halfModel ? flow::wholeModel(loads[i]) : loads[i];
        r.parts.push_back(readout::balanceOf(solver.piece().patches[i].name, l, c.wind, c.reference));
    }
    const flow::Load sum = modelLoad(solver, c.tunnel.halfModel);
    r.total = readout::balanceOf("whole model", sum, c.wind, c.reference);
    r.coefficients = r.total.coefficients;
    // On the way parts and fields are those of the last step; the mean of the whole is known all the same.
    if (averagedFrom && verdict == flow::Verdict::Running) r.coefficients = outcomeOf(history, window, false);
    readout::FieldReadings& f = r.field.emplace();
    const Vec3 outside = solver.read().forceFromOutside();
    f.forceFromOutside =
        c.tunnel.halfModel ? flow::wholeModel({outside, Vec3::Zero(), Vec3::Zero(), Vec3::Zero()}).force() : outside;
    f.groundDisplacement = solver.read().groundDisplacement();
    r.pressureShareOfDrag = pressureShareOfDrag(sum, c.wind);
    f.massImbalance = solver.read().massImbalance();
    f.compressible = c.compressible;
    if (c.compressible) {
        f.highestMach = solver.read().highestMach();
        f.enthalpyImbalance = solver.read().enthalpyImbalance();
    }
    f.discs = solver.read().discs();
    f.blocks = solver.read().blocks();
    return r;
}

namespace {
constexpr std::size_t kSampleWidth = 10;  // numbers a wall face, as gathered

/// What all ranks' walls feel, at rank 0 in the order of the grid's faces.
struct Walls {
    readout::WallField field;
    std::vector<Vec3> centres;
    std::vector<double> areas;
};
// Collective.
Walls gatherWalls(const flow::Solver& solver, const air::FreeStream& wind, const flow::Ranks& ranks) {
    std::vector<double> mine;
    for (const auto& w : solver.read().wallSamples())
        mine.insert(mine.end(), {static_cast<double>(w.face), w.p, w.shear.x(), w.shear.y(), w.shear.z(), w.yPlus,
                                 w.place.x(), w.place.y(), w.place.z(), w.area});
    const auto all = ranks.gatherAtRoot(mine);
    const double free = solver.read().referencePressure(), q = 0.5 * wind.speed * wind.speed;
    std::vector<std::pair<grid::FaceIndex, std::size_t>> byFace;
    for (std::size_t i = 0; i < all.size(); i += kSampleWidth)
        byFace.emplace_back(static_cast<grid::FaceIndex>(all[i]), i);
    std::sort(byFace.begin(), byFace.end());
    Walls out;
    for (const auto& [f, i] : byFace) {
        out.field.face.push_back(f);
        out.field.Cp.push_back((all[i + 1] - free) / q);
        out.field.Cf.emplace_back(all[i + 2] / q, all[i + 3] / q, all[i + 4] / q);
        out.field.yPlus.push_back(all[i + 5]);
        out.centres.emplace_back(all[i + 6], all[i + 7], all[i + 8]);
        out.areas.push_back(all[i + 9]);
    }
    return out;
}

// At rank 0.
void writeWalls(const Walls& walls, const fs::path& file, readout::Result& result) {
    readout::writeWallField(walls.field, walls.centres, walls.areas, file);
    // Nobody asks for the sum of what the next moment takes the place of.
    if (!result.provisional()) result.sums["wall.csv"] = base::sumOfFile(file);
    auto y = walls.field.yPlus;
    if (y.empty()) return;
    std::sort(y.begin(), y.end());
    result.field->yPlusLow = y.front();
    result.field->yPlusMedian = y[y.size() / 2];
    result.field->yPlusHigh = y.back();
}
}  // namespace

void writeWalls(const RunOrder& order, const flow::Solver& solver, const fs::path& file, const flow::Ranks& ranks,
                readout::Result& result) {
    const auto walls = gatherWalls(solver, order.flowCase.wind, ranks);
    result.field->freePressure = solver.read().referencePressure();
    together(ranks, [&] { writeWalls(walls, file, result); });
}

void writeFields(const RunOrder& order, std::unique_ptr<flow::Solver> solver, const fs::path& folder,
                 const flow::Ranks& ranks, readout::Result& result) {
    const auto walls = gatherWalls(*solver, order.flowCase.wind, ranks);
    const auto rows =
        ranks.gatherAtRoot(flow::rowsOf(solver->state(), static_cast<std::size_t>(solver->piece().cells)));
    result.field->freePressure = solver->read().referencePressure();
    solver.reset();
    together(ranks, [&] {
        writeWalls(walls, folder / "wall.csv", result);
        const grid::Grid grid = readGrid(order.grid);
        result.findings = readout::findingsOf(result, walls.field, grid::geometryOf(grid), order.flowCase.tunnel,
                                              !order.flowCase.discs.empty());
        grid::writeFlowCgns(folder / "flow.cgns", fs::relative(order.grid, folder).string(), grid.cells(),
                            grid.points.size(), flowArrays(rows, order.flowCase, result.field->freePressure));
        result.sums["flow.cgns"] = base::sumOfFile(folder / "flow.cgns");
    });
}

namespace {
constexpr double kLiveShare = 0.02;  ///< of the time, for what is only looked at
constexpr double kLeastBetween_s = 2.0;
constexpr double kFirst_s = 1.0;  ///< from the start of a solution until its first values
}  // namespace

LiveValues::LiveValues(const RunOrder& order, const fs::path& folder, const flow::Ranks& ranks, std::string onGrid)
    : order_(order),
      folder_(folder),
      ranks_(ranks),
      onGrid_(std::move(onGrid)),
      last_(std::chrono::steady_clock::now()) {}

bool LiveValues::due() const {
    const double since = std::chrono::duration<double>(std::chrono::steady_clock::now() - last_).count();
    return since > (kept_ == 0 ? kFirst_s : std::max(kLeastBetween_s, lastCost_ / kLiveShare));
}

void LiveValues::keep(const flow::Solver& solver, const flow::Course& course, double seconds,
                      const std::optional<readout::CoarseResult>& coarse, const std::function<void()>& save) {
    const auto begin = std::chrono::steady_clock::now();
    save();
    auto result =
        resultOf(order_, solver, course.history(), course.meanFrom(), flow::Verdict::Running, seconds, ranks_);
    result.coarse = coarse;
    result.field->onGrid = onGrid_;
    writeWalls(order_, solver, folder_ / wallFileName(onGrid_), ranks_, result);
    together(ranks_, [&] { base::replaceJson(folder_ / "result.json", readout::toJson(result)); });
    last_ = std::chrono::steady_clock::now();
    lastCost_ = std::chrono::duration<double>(last_ - begin).count();
    ++kept_;
}

}  // namespace cvane::campaign
