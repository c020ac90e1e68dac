#include "campaign/grid_stage.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <map>
#include <mutex>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/model_stage.h"
#include "campaign/points.h"
#include "grid/cgns_file.h"
#include "grid/memory.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

namespace {
// Shares of the time: a quarter of the cells, and the file (measured at a million cells).
constexpr double kCoarseShare = 0.2, kBuilding = 0.95;

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
    for (const auto& g : gaps) out.push_back({{"place_m", {g.place.x(), g.place.y(), g.place.z()}}, {"width_m", g.width}, {"area_m2", g.area}, {"cells", g.cells}});
    return out;
}

// The model file is hashed once for each time it was written.
std::string modelSum(const fs::path& file) {
    static std::mutex mutex;
    static std::map<std::string, std::pair<fs::file_time_type, std::string>> known;
    std::error_code ec;
    const auto time = fs::last_write_time(file, ec);
    const std::lock_guard lock(mutex);
    auto& entry = known[file.string()];
    if (entry.second.empty() || entry.first != time) entry = {time, fmt::format("{:08x}", base::checksum(base::readFile(file)))};
    return entry.second;
}
}  // namespace

std::string gridKey(const Campaign& c) {
    auto j = toJson(c.settings);
    j["tunnel"].erase("closed");  // matters to the flow alone
    j["grid"].erase("leave_gaps_filled");
    nlohmann::json on = {{"builder", 6}, {"model", j["model"]}, {"sum", modelSum(c.modelFile())}, {"tunnel", j["tunnel"]}, {"grid", j["grid"]}};
    // Names of parts do not shape the grid, but its patches carry them.
    if (c.settings.targetYPlus > 0.0 || c.settings.tunnel.floor == grid::Floor::Fixed) on["wind"] = {j["air"], j["schedule"]["speeds_m_s"]};
    // Of discs and porous blocks the grid knows only where they are.
    const auto list = [](const Vec3& v) { return nlohmann::json{v.x(), v.y(), v.z()}; };
    for (const auto& d : c.settings.devices.discs) on["discs"].push_back({list(d.centre), list(d.axis), d.outer});
    for (const auto& b : c.settings.devices.blocks) on["blocks"].push_back({list(b.from), list(b.to)});
    return base::settingsKey(on.dump());
}

fs::path gridFile(const Campaign& c) { return c.folder() / "grids" / gridKey(c) / "grid.cgns"; }

namespace {
constexpr double kCoarser = 4.0;          ///< times fewer cells on the coarse grid
constexpr int kLeastForCoarse = 20000;    ///< cells below which a coarse grid would say nothing
constexpr const char* kCoarse = "coarse.cgns";
constexpr const char* kNoCoarse = "no-coarse.txt";  ///< why there is none

// `folder`: that of the grid; the key in its name is not worked out again.
bool coarseIsDone(const Campaign& c, const fs::path& folder) {
    std::error_code ec;
    return !c.settings.flow.coarseFirst || c.settings.grid.cellBudget < kLeastForCoarse || fs::exists(folder / kCoarse, ec) || fs::exists(folder / kNoCoarse, ec);
}

void makeCoarseGrid(const Campaign& c, const fs::path& folder, const shape::Surface& model, grid::GridSettings s, const base::Progress& progress) {
    s.cellBudget = static_cast<int>(s.cellBudget / kCoarser);
    for (auto& place : s.finerPlaces) place.cell *= std::cbrt(kCoarser);
    grid::Grid g;
    try {
        g = grid::build(model, c.settings.tunnel, s, progress);
    } catch (const base::InputError& e) {
        base::replaceFile(folder / kNoCoarse, std::string(e.what()) + "\n");
        return;
    }
    grid::writeCgns(g, folder / kCoarse);
}
}  // namespace

fs::path coarseGridFile(const Campaign& c) { return gridFile(c).parent_path() / kCoarse; }

bool gridIsCurrent(const Campaign& c) {
    std::error_code ec;
    const fs::path file = gridFile(c);
    return fs::exists(file, ec) && coarseIsDone(c, file.parent_path());
}

std::shared_ptr<const grid::Grid> makeGrid(const Campaign& c, const base::Progress& progress) {
    const fs::path file = gridFile(c);
    const bool there = fs::exists(file), withCoarse = !coarseIsDone(c, file.parent_path());
    if (there && !withCoarse) return std::make_shared<const grid::Grid>(grid::readCgns(file));
    const shape::Surface model = placedModel(c);
    const auto settings = gridSettingsOf(c.settings, shape::withoutHiddenParts(model).bounds().size().x());
    if (withCoarse) {
        std::error_code ec;
        fs::create_directories(file.parent_path(), ec);
        makeCoarseGrid(c, file.parent_path(), model, settings, [&](double f, std::string_view doing) { return !progress || progress(there ? f : kCoarseShare * f, fmt::format("coarse grid: {}", doing)); });
        if (there) return std::make_shared<const grid::Grid>(grid::readCgns(file));
    }
    const auto t0 = std::chrono::steady_clock::now();
    auto g = std::make_shared<grid::Grid>(grid::build(model, c.settings.tunnel, settings, [&](double f, std::string_view doing) {
        return !progress || progress(kCoarseShare + (kBuilding - kCoarseShare) * f, doing);
    }));
    base::report(progress, kBuilding, "writing the grid");
    const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - t0).count();
    std::error_code ec;
    fs::create_directories(file.parent_path(), ec);
    const auto q = grid::qualityOf(*g, grid::geometryOf(*g));
    std::map<std::string, std::size_t> byPart, byLevel;
    for (const auto& p : g->patches)
        if (p.kind == grid::PatchKind::Wall) byPart[p.name] = static_cast<std::size_t>(p.count);
    for (const auto l : g->level) ++byLevel[std::to_string(l)];
    base::replaceFile(file.parent_path() / "grid.json", nlohmann::json{{"cells", g->cells()},
                                                                       {"verdict", grid::verdictOf(*g, q)},
                                                                       {"wetted_area_m2", q.wettedArea},
                                                                       {"median_first_height_m", q.medianFirstHeight},
                                                                       {"surface_cell_m", g->surfaceCell},
                                                                       {"non_orthogonality_deg", {{"worst", q.worstNonOrthogonality_deg}, {"mean", q.meanNonOrthogonality_deg}, {"faces_by_ten_degrees", q.histogram}}},
                                                                       {"skewness", q.worstSkewness},
                                                                       {"volume_ratio", q.worstVolumeRatio},
                                                                       {"openness", q.worstOpenness},
                                                                       {"planarity", q.worstPlanarity},
                                                                       {"wall_share_near_first_height", q.shareNearFirstHeight},
                                                                       {"distance_to_model", {{"share_of_points_on_it", g->fit.shareOn}, {"share_beyond_a_cell", g->fit.shareFar}, {"mean_cells", g->fit.meanOff}, {"farthest_m", g->fit.farthest}, {"place_m", {g->fit.place.x(), g->fit.place.y(), g->fit.place.z()}}}},
                                                                       {"wall_faces_by_part", byPart},
                                                                       {"cells_by_level", byLevel},
                                                                       {"seconds", seconds},
                                                                       {"peak_memory_GB", 1e-9 * static_cast<double>(grid::peakMemory())},
                                                                       {"leaks", leaksJson(g->leaks)},
                                                                       {"filled_gaps", gapsJson(g->gaps)},
                                                                       {"notes", g->notes}}
                                                            .dump(2));
    grid::writeCgns(*g, file);
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
        out.push_back({Vec3(g.at("place_m").at(0), g.at("place_m").at(1), g.at("place_m").at(2)), g.at("width_m"), g.at("area_m2"), g.at("cells")});
    return out;
}

GapTrouble troubleWithGaps(const Campaign& c) {
    const auto gaps = filledGaps(c);
    if (gaps.empty() || c.settings.leaveGapsFilled) return {};
    double cells = 0.0;
    for (const auto& g : gaps) cells += g.cells;
    const auto& g = gaps.front();
    // What opens them may take half of a budget (grid/draft.cpp).
    const double budget = 1e4 * std::ceil(1e-4 * std::max(2.2 * cells, 1.1 * c.settings.grid.cellBudget));
    return {fmt::format("The grid fills {} where the air should pass: {:.2g} m wide at ({:.3g} {:.3g} {:.3g}) m. Opening {} takes about {:.0f} cells more.", gaps.size() == 1 ? "a gap" : fmt::format("{} gaps", gaps.size()), g.width, g.place.x(), g.place.y(), g.place.z(), gaps.size() == 1 ? "it" : "them", cells),
            fmt::format("Set grid.cell_budget={:.0f}, or leave {} filled with grid.leave_gaps_filled=true.", budget, gaps.size() == 1 ? "it" : "them"),
            static_cast<int>(std::min(budget, 1e9))};
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
    for (const auto& [part, faces] : j.at("wall_faces_by_part").items()) out.wallFacesByPart.emplace_back(part, faces);
    for (const auto& [level, cells] : j.at("cells_by_level").items()) out.cellsByLevel.emplace_back(std::stoi(level), cells);
    std::sort(out.cellsByLevel.begin(), out.cellsByLevel.end());
    out.seconds = j.value("seconds", 0.0);
    out.peakMemory_GB = j.value("peak_memory_GB", 0.0);
    return out;
}

std::string gridSummary(const Campaign& c) {
    if (!gridIsCurrent(c)) return {};
    const auto j = figuresBeside(c);
    if (j.empty()) return "stored; what was noted of it is lost";
    return fmt::format("{} cells, {:.4g} m on the model, first layer {:.3g} m; {}; {}", j.value("cells", 0), j.value("surface_cell_m", 0.0), j.value("median_first_height_m", 0.0),
                       j.value("notes", ""), j.value("verdict", ""));
}

}  // namespace cvane::campaign
