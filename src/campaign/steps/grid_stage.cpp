#include "campaign/steps/grid_stage.h"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <map>
#include <thread>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/plan/points.h"
#include "campaign/steps/first_flow.h"
#include "campaign/steps/model_stage.h"
#include "campaign/store/keys.h"
#include "campaign/store/run_claim.h"
#include "campaign/store/stored_grid.h"
#include "grid/memory.h"
#include "grid/stretch.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

namespace {
// Shares of the time: three quarters of the cells on two grids, and the file.
constexpr double kCoarseShare = 0.4, kBuilding = 0.95;
constexpr double kFirstFlow = 0.8;  // where a first flow is asked for

nlohmann::json leaksJson(const std::vector<grid::Leak>& leaks) {
    auto out = nlohmann::json::array();
    const auto place = [](const Vec3& p) { return nlohmann::json{p.x(), p.y(), p.z()}; };
    for (const auto& l : leaks) {
        auto path = nlohmann::json::array();
        for (const Vec3& p : l.path) path.push_back(place(p));
        out.push_back({{"place_m", place(l.place)}, {"width_m", l.width}, {"closed", l.sealed}, {"path_m", path}});
    }
    return out;
}

nlohmann::json gapsJson(const std::vector<grid::ClosedGap>& gaps) {
    auto out = nlohmann::json::array();
    for (const auto& g : gaps)
        out.push_back({{"place_m", {g.place.x(), g.place.y(), g.place.z()}},
                       {"width_m", g.width},
                       {"area_m2", g.area},
                       {"cells", g.cells}});
    return out;
}
}  // namespace

fs::path gridFile(const Campaign& c) {
    return c.folder() / "grids" / gridKey(c) / "grid.cgns";
}

namespace {
constexpr double kCoarser = 2.0;          ///< times fewer cells on the coarse grid, and again on the coarsest
constexpr double kCoarserAlone = 4.0;     ///< the same where there is one only
constexpr int kLeastForCoarse = 20000;    ///< cells below which a coarse grid would say nothing
constexpr int kLeastForCoarsest = 40000;  ///< the same for a second one
constexpr const char* kCoarse = "coarse.cgns";
constexpr const char* kCoarsest = "coarsest.cgns";
constexpr const char* kNoCoarse = "no-coarse.txt";  ///< why there is none

// `folder`: that of the grid; the key in its name is not worked out again.
bool coarseIsDone(const Campaign& c, const fs::path& folder) {
    std::error_code ec;
    return !c.settings.flow.coarseFirst || c.settings.grid.cellBudget < kLeastForCoarse ||
           fs::exists(folder / kCoarse, ec) || fs::exists(folder / kNoCoarse, ec);
}

// With a quarter of the cells, then with a half: the latter's file says that both are done.
void makeCoarseGrids(const Campaign& c, const fs::path& folder, const shape::Surface& model,
                     const grid::GridSettings& fine, const base::Progress& progress) {
    // By the cells of the whole, so that a half has as many grids.
    const int most = c.settings.grid.cellBudget >= kLeastForCoarsest ? 2 : 1;
    for (int times = most; times > 0; --times) {
        // All sizes grow alike: what grids of one family say of the cells rests on that.
        const double fewer = most > 1 ? std::pow(kCoarser, times) : kCoarserAlone, larger = std::cbrt(fewer);
        grid::GridSettings s = fine;
        s.cellBudget = static_cast<int>(s.cellBudget / fewer);
        for (auto& place : s.finerPlaces) place.cell *= larger;
        s.firstHeight *= larger;
        s.fewer = fewer;
        s.groundLayer *= larger;
        grid::Grid g;
        try {
            g = grid::build(model, tunnelFor(c.settings, model), s, progress);
        } catch (const base::InputError& e) {
            // The coarsest is a luxury; without it the band rests on two.
            if (times == 1) base::replaceFile(folder / kNoCoarse, std::string(e.what()) + "\n");
            continue;
        }
        writeGrid(g, folder / (times == 1 ? kCoarse : kCoarsest));
    }
}
}  // namespace

fs::path coarseGridFile(const Campaign& c) {
    return gridFile(c).parent_path() / kCoarse;
}

fs::path coarsestGridFile(const Campaign& c) {
    return gridFile(c).parent_path() / kCoarsest;
}

bool gridIsCurrent(const Campaign& c) {
    if (!c.hasModel()) return false;
    std::error_code ec;
    const fs::path file = gridFile(c);
    return fs::exists(file, ec) && coarseIsDone(c, file.parent_path());
}

void keepFirstHeights(const Campaign& before, Settings& next) {
    const Settings& was = before.settings;
    if (was.schedule == next.schedule || was.schedule.heightsWind != next.schedule.heightsWind) return;
    double fastest = 0.0;
    Vec3 kept;
    try {
        fastest = fastestSpeed(next.schedule);
        kept = keptHeightsWind(was);
    } catch (const base::InputError&) {
        return;  // the preflight list says what is wrong with a schedule
    }
    if (fastest >= kept.x()) {
        next.schedule.heightsWind.reset();
        return;
    }
    if (was.schedule.heightsWind || next.schedule.heightsWind) return;
    std::vector<std::string> configurations{""}, setUps{""};
    for (const auto& v : was.configurations) configurations.push_back(v.name);
    for (const auto& v : was.setUps) setUps.push_back(v.name);
    for (const auto& c : configurations)
        for (const auto& t : setUps)
            if (const auto seen = before.of(c, t); heightsFollowWind(seen.settings) && gridIsCurrent(seen)) {
                next.schedule.heightsWind = kept;
                return;
            }
}

namespace {
/// A grid's folder in the hands of this program. What fails or is cancelled leaves no empty folder behind.
class GridFolder {
  public:
    /// Waits while another program makes a grid there.
    GridFolder(const fs::path& folder, const base::Progress& progress) : folder_(folder) {
        std::error_code ec;
        fs::create_directories(folder, ec);
        if (ec)
            throw base::InputError(fmt::format("cannot be made ({}).", ec.message()), folder.string(),
                                   "Choose a folder that you may write to.");
        while (const auto other = claimOn(folder)) {
            if (other->host == hostName() && other->pid == static_cast<int>(::getpid()))
                break;  // of this program, which asks for one grid at a time
            base::report(progress, 0.0, fmt::format("waiting for {}, which makes this grid", other->words()));
            std::this_thread::sleep_for(std::chrono::milliseconds(200));
        }
        claim(folder);
    }
    ~GridFolder() {
        release(folder_);
        std::error_code ec;
        const auto isEmpty = [&] {
            for (const auto& entry : fs::directory_iterator(folder_, ec))
                if (entry.path().filename() != ".lock") return false;
            return true;
        };
        if (isEmpty()) fs::remove_all(folder_, ec);
    }
    GridFolder(const GridFolder&) = delete;
    GridFolder& operator=(const GridFolder&) = delete;

  private:
    fs::path folder_;
};

// A damaged grid stays for a look, and another takes its place.
void putAside(const fs::path& folder) {
    std::error_code ec;
    for (const char* name : {"grid.cgns", "coarse.cgns", "coarsest.cgns"})
        for (const char* ending : {"", ".sum"})
            fs::rename(folder / (std::string(name) + ending), folder / ("damaged-" + std::string(name) + ending), ec);
}
}  // namespace

bool gridIsWhole(const Campaign& c) {
    try {
        for (const auto& file : {gridFile(c), coarseGridFile(c), coarsestGridFile(c)}) checkStored(file, "");
        return true;
    } catch (const base::InputError&) {
        return false;
    }
}

grid::Plan plannedGrid(const Campaign& c, const shape::Surface& placed, const base::Progress& progress) {
    auto model = placed;
    for (auto& p : model.parts) p = {p.id(), p.inTheAir, {}};
    const auto shown = shape::withoutHiddenParts(model);
    return grid::planOf(
        model, tunnelFor(c.settings, model),
        gridSettingsOf(c.settings, shown.bounds().size().x(), grid::stretchFor(shown, c.settings.grid.stretch)),
        progress);
}

namespace {
nlohmann::json coverageJson(const Campaign& c, const grid::Grid& g, const grid::Geometry& geometry) {
    double nose = 1e300;
    for (const auto& p : g.patches)
        if (p.kind == grid::PatchKind::Wall)
            for (auto f = p.first; f < p.first + p.count; ++f)
                nose = std::min(nose, geometry.faceCentre[static_cast<std::size_t>(f)].x());
    try {
        const auto found = grid::coverageOf(g, geometry, layerOnModel(c.settings, nose));
        return {{"share_of_wall_that_grows_gently", found.growsGently},
                {"share_of_wall_that_covers_the_boundary_layer", found.covered},
                {"median_over_boundary_layer", found.medianShare}};
    } catch (const base::InputError&) {
        return nullptr;  // a schedule without a wind: the preflight list says so
    }
}
}  // namespace

std::shared_ptr<const grid::Grid> makeGrid(const Campaign& c, const base::Progress& asked) {
    const fs::path file = gridFile(c);
    if (gridIsCurrent(c)) {
        try {
            for (const auto& coarse : {coarseGridFile(c), coarsestGridFile(c)}) checkStored(coarse, "");
            return std::make_shared<const grid::Grid>(readGrid(file));
        } catch (const base::InputError&) {
            putAside(file.parent_path());
        }
    }
    const GridFolder mine(file.parent_path(), asked);
    auto lastBeat = std::chrono::steady_clock::now();
    const base::Progress progress = [&](double fraction, std::string_view doing) {
        if (const auto now = std::chrono::steady_clock::now();
            now - lastBeat > std::chrono::seconds(kHeartbeatSeconds)) {
            beat(file.parent_path());
            lastBeat = now;
        }
        return !asked || asked(fraction, doing);
    };
    const bool there = fs::exists(file), withCoarse = !coarseIsDone(c, file.parent_path());
    if (there && !withCoarse) return std::make_shared<const grid::Grid>(readGrid(file));
    const shape::Surface model = modelForGrid(c);
    const auto shown = shape::withoutHiddenParts(model);
    auto settings =
        gridSettingsOf(c.settings, shown.bounds().size().x(), grid::stretchFor(shown, c.settings.grid.stretch));
    if (withCoarse) {
        makeCoarseGrids(c, file.parent_path(), model, settings, [&](double f, std::string_view doing) {
            return progress(there ? f : kCoarseShare * f, fmt::format("coarse grid: {}", doing));
        });
        if (there) return std::make_shared<const grid::Grid>(readGrid(file));
    }
    double building = kCoarseShare;
    if (c.settings.cellsFollowFlow) {
        settings.marks = std::make_shared<const grid::Marks>(
            marksByFlow(c, settings, firstFlowFolder(file), [&](double f, std::string_view doing) {
                return progress(kCoarseShare + (kFirstFlow - kCoarseShare) * f, doing);
            }));
        building = kFirstFlow;
    }
    const auto t0 = std::chrono::steady_clock::now();
    auto g = std::make_shared<grid::Grid>(grid::build(
        model, tunnelFor(c.settings, model), settings,
        [&](double f, std::string_view doing) { return progress(building + (kBuilding - building) * f, doing); }));
    base::report(progress, kBuilding, "writing the grid");
    const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - t0).count();
    const auto geometry = grid::geometryOf(*g);
    const auto q = grid::qualityOf(*g, geometry);
    std::map<std::string, std::size_t> byPart, byLevel;
    for (const auto& p : g->patches)
        if (p.kind == grid::PatchKind::Wall) byPart[p.name] = static_cast<std::size_t>(p.count);
    for (const auto l : g->level) ++byLevel[std::to_string(l)];
    base::replaceFile(file.parent_path() / "grid.json",
                      nlohmann::json{{"cells", g->cells()},
                                     {"verdict", grid::verdictOf(*g, q)},
                                     {"wetted_area_m2", q.wettedArea},
                                     {"median_first_height_m", q.medianFirstHeight},
                                     {"surface_cell_m", g->surfaceCell},
                                     {"non_orthogonality_deg",
                                      {{"worst", q.worstNonOrthogonality_deg},
                                       {"mean", q.meanNonOrthogonality_deg},
                                       {"faces_by_ten_degrees", q.histogram}}},
                                     {"skewness", q.worstSkewness},
                                     {"volume_ratio", q.worstVolumeRatio},
                                     {"openness", q.worstOpenness},
                                     {"planarity", q.worstPlanarity},
                                     {"wall_share_near_first_height", q.shareNearFirstHeight},
                                     {"distance_to_model",
                                      {{"share_of_points_on_it", g->fit.shareOn},
                                       {"share_beyond_a_cell", g->fit.shareFar},
                                       {"mean_cells", g->fit.meanOff},
                                       {"farthest_m", g->fit.farthest},
                                       {"place_m", {g->fit.place.x(), g->fit.place.y(), g->fit.place.z()}}}},
                                     {"wall_layers", coverageJson(c, *g, geometry)},
                                     {"wall_faces_by_part", byPart},
                                     {"cells_by_level", byLevel},
                                     {"seconds", seconds},
                                     {"peak_memory_GB", 1e-9 * static_cast<double>(grid::peakMemory())},
                                     {"leaks", leaksJson(g->leaks)},
                                     {"filled_gaps", gapsJson(g->gaps)},
                                     {"notes", g->notes}}
                          .dump(2));
    writeGrid(*g, file);
    base::report(progress, 1.0, "done");
    return g;
}

namespace {
// What stands beside the grid; nothing where that file is gone or damaged, which takes nothing from the grid itself.
nlohmann::json figuresBeside(const Campaign& c) {
    try {
        return base::readJson(gridFile(c).parent_path() / "grid.json");
    } catch (const base::InputError&) {
        return nlohmann::json::object();
    }
}
}  // namespace

std::vector<grid::Leak> gridLeaks(const Campaign& c) {
    std::vector<grid::Leak> out;
    if (!gridIsCurrent(c)) return out;
    const auto place = [](const nlohmann::json& p) { return Vec3(p.at(0), p.at(1), p.at(2)); };
    for (const auto& l : figuresBeside(c).value("leaks", nlohmann::json::array())) {
        grid::Leak leak{place(l.at("place_m")), l.at("width_m"), l.at("closed"), {}};
        for (const auto& p : l.at("path_m")) leak.path.push_back(place(p));
        out.push_back(std::move(leak));
    }
    return out;
}

std::vector<grid::ClosedGap> filledGaps(const Campaign& c) {
    std::vector<grid::ClosedGap> out;
    if (!gridIsCurrent(c)) return out;
    for (const auto& g : figuresBeside(c).value("filled_gaps", nlohmann::json::array()))
        out.push_back({Vec3(g.at("place_m").at(0), g.at("place_m").at(1), g.at("place_m").at(2)), g.at("width_m"),
                       g.at("area_m2"), g.at("cells")});
    return out;
}

namespace {
// Another grid of the same model may name another place in the same gap.
bool isLeftFilled(const Settings& s, const grid::ClosedGap& g) {
    if (!s.gapsLeftFilled) return false;
    const auto& p = *s.gapsLeftFilled;
    const double reach = 0.5 * std::sqrt(g.area) + 2.0 * g.width;
    for (std::size_t i = 0; i + 2 < p.size(); i += 3)
        if ((Vec3(p[i], p[i + 1], p[i + 2]) - g.place).norm() < reach) return true;
    return false;
}
}  // namespace

GapTrouble troubleWithGaps(const Campaign& c) {
    auto gaps = filledGaps(c);
    std::erase_if(gaps, [&](const auto& g) { return isLeftFilled(c.settings, g); });
    if (gaps.empty() || c.settings.leaveGapsFilled) return {};
    double cells = 0.0;
    auto left = c.settings.gapsLeftFilled.value_or(std::vector<double>());
    for (const auto& g : gaps) {
        cells += g.cells;
        for (int k = 0; k < 3; ++k) left.push_back(g.place[k]);
    }
    const auto& g = gaps.front();
    const char* const them = gaps.size() == 1 ? "it" : "them";
    // What opens them may take half of a budget (grid/draft.cpp).
    const double budget = 1e4 * std::ceil(1e-4 * std::max(2.2 * cells, 1.1 * c.settings.grid.cellBudget));
    const auto leave = fmt::format("grid.gaps_left_filled_m={:.5g}", fmt::join(left, ","));
    return {
        fmt::format("The grid fills {} where the air should pass: {:.2g} m wide at ({:.3g} {:.3g} {:.3g}) m.",
                    gaps.size() == 1 ? "a gap" : fmt::format("{} gaps", gaps.size()), g.width, g.place.x(), g.place.y(),
                    g.place.z()),
        fmt::format("Set grid.cell_budget={:.0f} to open {}, or leave {} filled with {}.", budget, them, them, leave),
        static_cast<int>(std::min(budget, 1e9)), leave};
}

double shareOfWallOff(const Campaign& c) {
    if (!gridIsCurrent(c)) return 0.0;
    return figuresBeside(c).value("distance_to_model", nlohmann::json::object()).value("share_beyond_a_cell", 0.0);
}

std::optional<GridFigures> gridFigures(const Campaign& c) {
    if (!gridIsCurrent(c)) return std::nullopt;
    const auto j = figuresBeside(c);
    if (!j.contains("wall_faces_by_part") || !j.contains("cells_by_level")) return std::nullopt;
    GridFigures out;
    out.facesByTenDegrees = j.at("non_orthogonality_deg").at("faces_by_ten_degrees");
    for (const auto& [part, faces] : j.at("wall_faces_by_part").items())
        out.wallFacesByPart.emplace_back(c.settings.model.nameOf(part), faces);
    for (const auto& [level, cells] : j.at("cells_by_level").items())
        out.cellsByLevel.emplace_back(std::stoi(level), cells);
    std::sort(out.cellsByLevel.begin(), out.cellsByLevel.end());
    out.seconds = j.value("seconds", 0.0);
    out.peakMemory_GB = j.value("peak_memory_GB", 0.0);
    if (const auto layers = j.find("wall_layers"); layers != j.end() && layers->is_object())
        out.layers = grid::LayerCoverage{layers->value("share_of_wall_that_grows_gently", 0.0),
                                         layers->value("share_of_wall_that_covers_the_boundary_layer", 0.0),
                                         layers->value("median_over_boundary_layer", 0.0)};
    return out;
}

std::string gridSummary(const Campaign& c) {
    if (!gridIsCurrent(c)) return {};
    const auto j = figuresBeside(c);
    if (j.empty()) return "stored; what was noted of it is lost";
    return fmt::format("{} cells, {:.4g} m on the model, first layer {:.3g} m; {}; {}", j.value("cells", 0),
                       j.value("surface_cell_m", 0.0), j.value("median_first_height_m", 0.0), j.value("notes", ""),
                       j.value("verdict", ""));
}

}  // namespace cvane::campaign
