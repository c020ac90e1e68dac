// The solver process: mpiexec -n N cvane-solve RUNFOLDER. Reads run.json, writes monitor.csv, checkpoint.bin, result.json,
// wall.csv and flow.cgns there, and one JSON line a batch of iterations on its output.
#include <fmt/format.h>
#include <mpi.h>

#include <chrono>
#include <cmath>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <iterator>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/run_files.h"
#include "flow/course.h"
#include "grid/cgns_file.h"
#include "grid/memory.h"
#include "readout/afterflight.h"
#include "readout/wall_field.h"

using namespace cvane;
namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;

namespace {

constexpr int kMostCoarse = 400;  ///< iterations on the coarse grid
// The residuals of the turbulence model's two variables by what they are.
std::string headerFor(flow::Model model) {
    const char* names = model == flow::Model::Sst ? "res_k,res_omega" : model == flow::Model::KEpsilon ? "res_k,res_epsilon" : model == flow::Model::SpalartAllmaras ? "res_nu_tilde,res_none" : "res_none,res_none2";
    return fmt::format("iteration,seconds,res_momentum,res_mass,{},CL,CD,CY,Cl,Cm,Cn,mass_imbalance,y_plus_low,y_plus_high,memory_GB\n", names);
}

struct Row {
    flow::Residuals residuals;
    air::Coefficients c;
    double seconds;
    double massImbalance, yPlusLow, yPlusHigh, memory;
};

void say(const nlohmann::json& j) { std::cout << j.dump() << std::endl; }

std::string rowText(std::size_t iteration, const Row& r) {
    return fmt::format("{},{:.2f},{:.4e},{:.4e},{:.4e},{:.4e},{:.8g},{:.8g},{:.8g},{:.8g},{:.8g},{:.8g},{:.3e},{:.3g},{:.3g},{:.3f}\n", iteration, r.seconds, r.residuals.momentum, r.residuals.mass, r.residuals.first, r.residuals.second, r.c.CL,
                       r.c.CD, r.c.CY, r.c.Cl, r.c.Cm, r.c.Cn, r.massImbalance, r.yPlusLow, r.yPlusHigh, r.memory);
}

// Ranks agree on an error before any leaves: rank 0 reads and writes, and all hear whether it worked.
void together(const flow::Ranks& ranks, const std::function<void()>& onRoot) {
    std::string error;
    if (ranks.rank() == 0) {
        try {
            onRoot();
        } catch (const std::exception& e) {
            error = e.what();
        }
    }
    if (ranks.any(!error.empty())) throw std::runtime_error(error);
}

// Whether rank 0 sees a file: ranks on other hosts may not see it yet, or any more.
bool isThere(const fs::path& file, const flow::Ranks& ranks) {
    std::error_code ec;
    return ranks.any(ranks.rank() == 0 && fs::exists(file, ec));
}

template <class Value>
air::Coefficients eachCoefficient(const std::vector<air::Coefficients>& history, Value&& value) {
    air::Coefficients out;
    for (const auto m : air::kAllCoefficients) out.*m = value(flow::columnOf(history, m));
    return out;
}

// A run that settled at rest is still creeping to its limit: its last value is nearer than the window's mean.
air::Coefficients outcomeOf(const std::vector<air::Coefficients>& history, std::size_t window, bool atRest) {
    return eachCoefficient(history, [&](const auto& h) { return atRest ? h.back() : flow::spreadOf(h, window).mean; });
}

readout::Result resultOf(const campaign::RunOrder& order, const flow::Solver& solver, const std::vector<air::Coefficients>& history, std::optional<std::size_t> averagedFrom, flow::Verdict verdict, double seconds,
                         const flow::Ranks& ranks) {
    const flow::Case& c = order.flowCase;
    readout::Result r;
    r.verdict = verdict;
    r.wind = c.wind;
    r.reference = c.reference;
    r.halfModel = c.tunnel.halfModel;
    r.iterations = static_cast<int>(history.size());
    r.cells = solver.piece().allCells;
    r.ranks = ranks.size();
    r.seconds = seconds;
    const flow::SettleWatch watch(c.settings);
    const std::size_t window = averagedFrom ? history.size() - *averagedFrom : watch.window(history.size());
    r.swing = eachCoefficient(history, [&](const auto& h) { return flow::spreadOf(h, window).halfRange(); });
    r.band = eachCoefficient(history, [&](const auto& h) {
        if (!averagedFrom) {
            const auto s = flow::spreadOf(h, window);
            // Coefficients are those of the last iteration then: fields, parts and total are of one flow.
            const double strayed = verdict == flow::Verdict::Settled ? s.halfRange() : std::max(h.back() - s.low, s.high - h.back());
            return std::max(strayed, flow::stillToGo(h, window));
        }
        const double error = flow::errorOfMean(h, *averagedFrom);
        return std::isfinite(error) ? error : flow::spreadOf(h, window).halfRange();
    });
    if (averagedFrom) r.averagedOver = static_cast<int>(window);
    const auto loads = solver.loadsByPatch();
    flow::Load sum;
    for (std::size_t i = 0; i < loads.size(); ++i) {
        if (!solver.roles()[i].onModel) continue;
        const flow::Load l = c.tunnel.halfModel ? flow::wholeModel(loads[i]) : loads[i];
        sum.pressure += l.pressure;
        sum.friction += l.friction;
        sum.pressureMoment += l.pressureMoment;
        sum.frictionMoment += l.frictionMoment;
        r.parts.push_back(readout::balanceOf(solver.piece().patches[i].name, l, c.wind, c.reference));
    }
    r.total = readout::balanceOf("whole model", sum, c.wind, c.reference);
    r.coefficients = r.total.coefficients;
    const Vec3 outside = solver.forceFromOutside();
    r.forceFromOutside = c.tunnel.halfModel ? flow::wholeModel({outside, Vec3::Zero(), Vec3::Zero(), Vec3::Zero()}).force() : outside;
    r.groundDisplacement = solver.groundDisplacement();
    const Vec3 drag = c.wind.dragAxis();
    r.pressureShareOfDrag = sum.pressure.dot(drag) / sum.force().dot(drag);
    r.massImbalance = solver.massImbalance();
    r.discs = solver.readDiscs();
    r.blocks = solver.readBlocks();
    if (averagedFrom)
        r.remark = fmt::format("The flow swings: CD by +-{:.2g}, CL by +-{:.2g}. Coefficients and fields are means over the last {} steps of time, known to +-{:.2g} in CD and +-{:.2g} in CL{}.", r.swing.CD, r.swing.CL,
                               window, r.band.CD, r.band.CL, verdict == flow::Verdict::Unsteady ? ", less well than asked" : "");
    else if (verdict == flow::Verdict::Unsteady)
        r.remark = fmt::format("Not settled after {} iterations: CD still moves by +-{:.2g}, CL by +-{:.2g}.", history.size(), r.band.CD, r.band.CL);
    return r;
}

// Ends the solver: its memory makes room for the whole grid on rank 0.
void writeFields(const campaign::RunOrder& order, std::unique_ptr<flow::Solver> solver, const fs::path& folder, const flow::Ranks& ranks, readout::Result& result) {
    std::vector<double> mine;
    for (const auto& w : solver->wallSamples()) mine.insert(mine.end(), {static_cast<double>(w.face), w.p, w.shear.x(), w.shear.y(), w.shear.z(), w.yPlus});
    const auto all = ranks.gatherAtRoot(mine);
    const auto rows = ranks.gatherAtRoot(flow::cellRows(solver->piece(), solver->state()));
    const double free = solver->referencePressure();
    std::array<const char*, 2> turbulence{"TurbulentEnergyKinetic", "TurbulentDissipationRate"};
    if (solver->turbulence()) turbulence = solver->turbulence()->names();
    solver.reset();
    together(ranks, [&] {
        const grid::Grid grid = grid::readCgns(order.grid);
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
        const char* names[7] = {"VelocityX", "VelocityY", "VelocityZ", "PressureKinematic", turbulence[0], turbulence[1], "ViscosityEddyKinematic"};
        for (std::size_t k = 0; k < 7; ++k) {
            if (*names[k] == '\0') continue;  // a model with one variable only
            auto& v = fields[names[k]];
            for (std::size_t c = 0; c < static_cast<std::size_t>(grid.cells()); ++c) v.push_back(rows[7 * c + k]);
        }
        grid::writeFlowCgns(folder / "flow.cgns", fs::relative(order.grid, folder).string(), grid.cells(), grid.points.size(), fields);
    });
}

flow::Piece pieceOfGrid(const fs::path& file, const flow::Ranks& ranks) {
    grid::Grid grid;
    grid::Geometry geometry;
    together(ranks, [&] {
        grid = grid::readCgns(file);
        geometry = grid::geometryOf(grid);
    });
    return flow::handOut(&grid, &geometry, ranks);
}

// What rank 0 has read; the fields stay there, the rest goes to all.
std::optional<flow::Checkpoint> readCheckpoint(const fs::path& file, const flow::Ranks& ranks) {
    std::optional<flow::Checkpoint> c;
    together(ranks, [&] { c = flow::readCheckpoint(file); });
    if (!ranks.any(c.has_value())) return {};
    if (!c) c.emplace();
    flow::shareHistory(*c, ranks);
    return c;
}

/// The same point on the coarser grid: where the flow on the fine one starts, and what shows how far the cells matter.
struct Coarse {
    flow::FlowCloud cloud;
    readout::CoarseResult result;
    bool stopped = false;
};

// What an earlier start of this very run found on the coarse grid: on rank 0, which alone reads it; the others learn whether there is something.
std::optional<readout::CoarseResult> coarseBefore(const fs::path& folder, const std::string& key, const flow::Ranks& ranks) {
    std::optional<readout::CoarseResult> out;
    together(ranks, [&] {
        if (!fs::exists(folder / "coarse.json")) return;
        const auto j = base::readJson(folder / "coarse.json");
        if (j.value("key", "") == key) out = readout::coarseFromJson(j, (folder / "coarse.json").string());
    });
    if (ranks.any(out.has_value()) && !out) out.emplace();
    return out;
}

// The neighbour's wind and flow, as far as rank 0 has them.
void startFromNeighbour(flow::Solver& solver, const fs::path& neighbour, const char* file, const flow::Ranks& ranks) {
    std::optional<flow::Checkpoint> settled;
    double wind[3] = {0.0, 0.0, 0.0};
    together(ranks, [&] {
        settled = flow::readCheckpoint(neighbour / file);
        const auto w = campaign::readOrder(neighbour).flowCase.wind;
        wind[0] = w.speed;
        wind[1] = w.alpha;
        wind[2] = w.beta;
    });
    ranks.fromRoot(wind);
    if (!settled) settled.emplace();
    solver.startFromNeighbour(*settled, air::FreeStream{wind[0], wind[1], wind[2], {}});
}

std::optional<Coarse> solveCoarse(const campaign::RunOrder& order, const fs::path& folder, const flow::Ranks& ranks) {
    auto c = order.flowCase;
    // The coarse flow is a means: it may stay less well known than the fine one, but must not take its time.
    c.settings.mostIterations = std::min(c.settings.mostIterations, kMostCoarse);
    flow::Solver solver(pieceOfGrid(order.coarseGrid, ranks), c, ranks);
    if (!order.neighbour.empty() && isThere(order.neighbour / "coarse.bin", ranks))
        startFromNeighbour(solver, order.neighbour, "coarse.bin", ranks);
    else
        solver.startFromPotentialFlow();
    flow::Course course(solver, c.settings);
    course.onlyToRest();
    const auto& history = course.history();
    auto lastWord = Clock::now() - std::chrono::seconds(10);
    while (course.verdict() == flow::Verdict::Running) {
        const auto step = course.iterate();
        bool asked = false;
        if (ranks.rank() == 0 && (!step.notice.empty() || std::chrono::duration<double>(Clock::now() - lastWord).count() > 0.2)) {
            if (!step.notice.empty()) say({{"notice", "Coarse grid: " + step.notice}});
            if (!history.empty())
                say({{"coarse", true}, {"iteration", history.size()}, {"most", c.settings.mostIterations}, {"CL", history.back().CL}, {"CD", history.back().CD}, {"residual", step.residuals.worst()}});
            lastWord = Clock::now();
            asked = fs::exists(folder / "stop");
        }
        if (ranks.any(asked)) return Coarse{{}, {}, true};
    }
    const auto verdict = course.verdict();
    if (verdict == flow::Verdict::Diverged) {
        if (ranks.rank() == 0) say({{"notice", "The flow on the coarse grid blew up in spite of caution; the fine one starts without it, and its band lacks the cells' part."}});
        return {};
    }
    Coarse out;
    out.result.cells = static_cast<int>(solver.piece().allCells);
    out.result.iterations = static_cast<int>(history.size());
    out.result.verdict = verdict;
    out.result.coefficients = outcomeOf(history, course.watch().window(history.size()), verdict == flow::Verdict::Settled);
    out.cloud = solver.cloud();
    auto saved = solver.checkpoint();
    saved.key = order.key;
    together(ranks, [&] {
        flow::writeCheckpoint(saved, folder / "coarse.bin");
        auto j = readout::toJson(out.result);
        j["key"] = order.key;
        base::replaceFile(folder / "coarse.json", j.dump(2) + "\n");
    });
    return out;
}

int run(const fs::path& folder, const flow::Ranks& ranks) {
    const bool root = ranks.rank() == 0;
    const campaign::RunOrder order = campaign::readOrder(folder);
    const flow::FlowSettings& settings = order.flowCase.settings;
    std::optional<readout::CoarseResult> coarse = coarseBefore(folder, order.key, ranks);
    std::optional<Coarse> start;
    // The coarse flow comes first, unless this run has got beyond it.
    if (!order.coarseGrid.empty() && !coarse && !isThere(folder / "checkpoint.bin", ranks)) {
        start = solveCoarse(order, folder, ranks);
        if (start && start->stopped) {
            if (root) say({{"stopped", 0}});
            return 0;
        }
        if (start) coarse = start->result;
    }
    // Rank 0 reads the grid, hands out the pieces and lets it go; it reads it again to write the fields.
    auto owned = std::make_unique<flow::Solver>(pieceOfGrid(order.grid, ranks), order.flowCase, ranks);
    flow::Solver& solver = *owned;
    double secondsBefore = 0.0;
    auto saved = readCheckpoint(folder / "checkpoint.bin", ranks);
    const bool resumes = saved && saved->key == order.key;
    if (resumes) {
        secondsBefore = saved->seconds;
    } else if (!order.neighbour.empty() && isThere(order.neighbour / "checkpoint.bin", ranks)) {
        startFromNeighbour(solver, order.neighbour, "checkpoint.bin", ranks);
    } else if (start) {
        solver.startFromCoarser(start->cloud);
    } else {
        solver.startFromPotentialFlow();
    }
    flow::Course course(solver, settings);
    if (resumes) {
        course.resume(*saved);
        if (root) say({{"resumed_at", course.history().size()}});
    }
    saved.reset();
    start.reset();
    const auto& history = course.history();

    // Lines of iterations that are done again are dropped.
    std::ofstream monitorFile;
    const auto openMonitor = [&] {
        monitorFile.close();
        together(ranks, [&] {
            std::string text = headerFor(order.flowCase.settings.model);
            if (!history.empty() && fs::exists(folder / "monitor.csv")) {
                std::istringstream old(base::readFile(folder / "monitor.csv"));
                std::string line;
                std::getline(old, line);
                for (std::size_t i = 0; i < history.size() && std::getline(old, line); ++i) text += line + "\n";
            }
            base::replaceFile(folder / "monitor.csv", text);
        });
        if (root) monitorFile.open(folder / "monitor.csv", std::ios::app);
    };
    openMonitor();

    const auto t0 = Clock::now();
    const auto seconds = [&] { return secondsBefore + std::chrono::duration<double>(Clock::now() - t0).count(); };
    auto lastCheckpoint = Clock::now(), lastWord = Clock::now() - std::chrono::seconds(10);
    bool stop = false;
    const auto save = [&](flow::Checkpoint c) {
        c.key = order.key;
        c.seconds = seconds();
        together(ranks, [&] { flow::writeCheckpoint(c, folder / "checkpoint.bin"); });
        lastCheckpoint = Clock::now();
    };
    const std::size_t begin = history.size();
    const auto secondsLeft = [&] {
        const double each = (seconds() - secondsBefore) / static_cast<double>(std::max<std::size_t>(1, history.size() - std::min(begin, history.size())));
        return each * static_cast<double>(course.watch().iterationsLeft(history));
    };
    while (course.verdict() == flow::Verdict::Running && !stop) {
        const auto [r, notice, wentBack] = course.iterate();
        if (root && !notice.empty()) say({{"notice", notice}});
        if (wentBack) {
            openMonitor();
            continue;
        }
        const auto [yLow, yHigh] = solver.yPlusRange();
        const double imbalance = solver.massImbalance(), memory = ranks.sum(1e-9 * static_cast<double>(grid::peakMemory()));
        // Decisions that hang on clocks and files are rank 0's; the others hear of them.
        bool checkpoint = false, asked = false, wanted = false;
        if (root) {
            const auto now = Clock::now();
            monitorFile << rowText(history.size(), {r, history.back(), seconds(), imbalance, yLow, yHigh, memory});
            if (std::chrono::duration<double>(now - lastWord).count() > 0.2 || course.verdict() != flow::Verdict::Running) {
                monitorFile.flush();
                const auto& c = history.back();
                say({{"iteration", history.size()}, {"most", settings.mostIterations}, {"CL", c.CL}, {"CD", c.CD}, {"residual", r.worst()}, {"seconds", seconds()}, {"left_s", secondsLeft()}});
                lastWord = now;
                asked = fs::exists(folder / "stop");
                std::error_code ec;
                wanted = fs::remove(folder / "save", ec);
            }
            checkpoint = wanted || std::chrono::duration<double>(now - lastCheckpoint).count() > settings.checkpointSeconds;
        }
        double flags[2] = {checkpoint ? 1.0 : 0.0, asked ? 1.0 : 0.0};
        ranks.sum(std::span<double>(flags, 2));
        stop = flags[1] > 0.5;
        if (course.verdict() == flow::Verdict::Running && (flags[0] > 0.5 || stop)) save(course.checkpoint());
        if (wanted) say({{"saved", history.size()}});
    }
    monitorFile.flush();
    const flow::Verdict verdict = course.verdict();
    if (stop && verdict == flow::Verdict::Running) {
        if (root) say({{"stopped", history.size()}});
        return 0;
    }
    if (auto kept = course.finish()) save(std::move(*kept));
    readout::Result result = resultOf(order, solver, history, course.averagedFrom(), verdict, seconds(), ranks);
    result.coarse = coarse;
    if (verdict == flow::Verdict::Diverged) {
        result.remark = fmt::format("Diverged at iteration {}, also with more cautious settings. Look at the grid's worst cells, or lower the relaxation.", history.size());
    } else {
        writeFields(order, std::move(owned), folder, ranks, result);
    }
    together(ranks, [&] { base::replaceFile(folder / "result.json", readout::toJson(result).dump(2) + "\n"); });
    if (root) say({{"finished", flow::nameOf(verdict)}});
    return 0;
}

}  // namespace

int main(int argc, char** argv) {
    MPI_Init(&argc, &argv);
    const flow::Ranks ranks;
    int code = 0;
    if (argc != 2) {
        if (ranks.rank() == 0) std::cerr << "Usage: mpiexec -n RANKS cvane-solve RUNFOLDER\n";
        code = 2;
    } else {
        try {
            code = run(argv[1], ranks);
        } catch (const std::exception& e) {
            if (*e.what() != '\0') say({{"error", e.what()}});
            code = 1;
        }
    }
    // A rank that failed alone would leave the others waiting for it.
    if (code == 1) MPI_Abort(MPI_COMM_WORLD, 1);
    MPI_Finalize();
    return code;
}
