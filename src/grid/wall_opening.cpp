#include "grid/wall_opening.h"

#include <algorithm>
#include <utility>

namespace cvane::grid {
namespace {

// Cells are opened until they are a little inside the limits of quality.h.
constexpr double kAimAngle = kMostNonOrthogonality_deg - 1.0, kAimSkewness = 0.95 * kMostSkewness,
                 kAimOblique = 0.9 * kMostOblique;
constexpr double kFits = 0.99;  ///< of the wall's points on the model: not a grid that is too coarse for it anyway
// For the sake of faces that are oblique within the limit: so few of the wall's points may let go however far they come
// to stand off, or twice as many if the wall as a whole leaves the model by no more sizes of cells, in the mean.
constexpr double kMostLetGo = 0.02, kMostOff = 0.02;
constexpr int kMostRounds = 14;

// Staircase and wall points of these cells (wall points numbered from the staircase's size on), for CellShaper::loosen.
std::vector<std::int32_t> pointsOfCells(const Grid& g, std::span<const CellIndex> cells, const WallImage& wall,
                                        std::size_t stairPoints, int layers) {
    const auto base = static_cast<PointIndex>(stairPoints);
    std::vector<char> is(static_cast<std::size_t>(g.cells()), 0);
    for (const auto c : cells) is[static_cast<std::size_t>(c)] = 1;
    std::vector<std::int32_t> out;
    const auto add = [&](PointIndex p) {
        if (p >= base) p = wall.point[static_cast<std::size_t>((p - base) / layers)];
        out.push_back(p);
        const auto w = wall.wallOf[static_cast<std::size_t>(p)];
        if (w >= 0) out.push_back(base + w);
    };
    for (FaceIndex f = 0; f < g.faces(); ++f) {
        const auto i = static_cast<std::size_t>(f);
        if (is[static_cast<std::size_t>(g.owner[i])] ||
            (f < g.internalFaces() && is[static_cast<std::size_t>(g.neighbour[i])]))
            for (const auto p : g.polygon(f)) add(p);
    }
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

// Marks the cells of as many oblique faces as are too many for the limit: those that are so the least, which take the
// least to open.
std::vector<char> mildlyOblique(const Grid& g, const Geometry& geo) {
    const auto angles = faceAngles(g, geo);
    std::vector<double> oblique;
    for (const double a : angles)
        if (a > kOblique_deg) oblique.push_back(a);
    const auto allowed = static_cast<std::size_t>(kAimOblique * static_cast<double>(angles.size()));
    std::vector<char> marked(geo.volume.size(), 0);
    if (oblique.size() <= allowed) return marked;
    const auto last = oblique.begin() + static_cast<std::ptrdiff_t>(oblique.size() - allowed - 1);
    std::nth_element(oblique.begin(), last, oblique.end());
    for (std::size_t f = 0; f < angles.size(); ++f)
        if (angles[f] > kOblique_deg - 1.0 && angles[f] <= *last)
            marked[static_cast<std::size_t>(g.owner[f])] = marked[static_cast<std::size_t>(g.neighbour[f])] = 1;
    return marked;
}

void moveTo(const std::vector<Vec3>& points, Grid& g, Geometry& geo) {
    if (g.points == points) return;
    const auto last = std::exchange(g.points, points);
    updateGeometry(g, last, geo);
}

}  // namespace

/// One go at the cells beyond an angle, and the best that it has come to.
struct WallOpening::Pass {
    WallOpening& all;
    Grid& g;
    Geometry& geo;
    double angle;
    const std::vector<char>& only;
    std::vector<CellIndex> bad;
    std::size_t fewest = 0;
    std::vector<Vec3> best;

    Pass(WallOpening& o, Grid& grid, Geometry& geometry, double a, const std::vector<char>& marked)
        : all(o), g(grid), geo(geometry), angle(a), only(marked) {
        begin();
    }
    void begin() {
        bad = cellsToOpen();
        fewest = bad.size();
        best = g.points;
    }
    std::vector<CellIndex> cellsToOpen() const {
        auto out = cellsBeyond(g, geo, angle, kAimSkewness);
        if (only.empty()) return out;
        const auto worse = cellsBeyond(g, geo, kAimAngle, kAimSkewness);
        std::erase_if(out, [&](CellIndex c) {
            return !only[static_cast<std::size_t>(c)] && !std::binary_search(worse.begin(), worse.end(), c);
        });
        return out;
    }
    std::vector<std::int32_t> pointsOf(std::span<const CellIndex> cells) const {
        return pointsOfCells(g, cells, all.wall_, all.moved_.size(), all.layers_.most);
    }
    void cut() {
        const auto last = g.points;
        std::copy(all.moved_.begin(), all.moved_.end(), g.points.begin());
        cutColumns(all.wall_.onWall, all.wall_, all.moved_, all.layers_,
                   std::span<Vec3>(g.points).subspan(all.moved_.size()));
        updateGeometry(g, last, geo);
    }
    void cutAnew() {
        cut();
        bad = cellsToOpen();
    }
    void keepIfBetter() {
        if (bad.size() >= fewest) return;
        fewest = bad.size();
        best = g.points;
    }
    void takeBest() { moveTo(best, g, geo); }

    // Thin layers over an edge are the first to be skewed: there they grow less, at the cost of the first height.
    void evenLayers() {
        const auto stairs = static_cast<std::int32_t>(all.moved_.size());
        for (int turn = 0; fewest > 0 && turn < 2; ++turn) {
            for (const auto i : pointsOf(bad)) {
                const auto w = i < stairs ? all.wall_.wallOf[static_cast<std::size_t>(i)] : i - stairs;
                if (w >= 0) all.layers_.evenness[static_cast<std::size_t>(w)] = 0.5 * (turn + 1);
            }
            cutAnew();
            keepIfBetter();
        }
    }
    void thinLayers() {
        if (fewest == 0) return;
        const double oblique = std::max(shareBeyond(g, geo, kOblique_deg), kAimOblique);
        const Layers before = all.layers_;
        if (!thinToOneLayer(all.stairs_, all.wall_, bad, all.layers_)) return;
        growAnew();
        // Beside columns of many layers the one may stand askew.
        if (shareBeyond(g, geo, kOblique_deg) <= oblique) return;
        all.layers_ = before;
        growAnew();
    }
    void growAnew() {
        g = Grid();  // so that there are never two
        geo = Geometry();
        g = all.grow_();
        geo = geometryOf(g);
        begin();
    }
    /// @return rounds that it took
    int letGo() {
        double hold = 2.0;
        int turns = 0;
        for (; fewest > 0 && turns < kMostRounds; ++turns, hold *= 0.4) {
            base::report(all.progress_, 0.91 + 0.04 * turns / kMostRounds, "opening cells");
            all.shaper_.loosen(pointsOf(bad), hold, turns % 4 == 3);
            cutAnew();
            keepIfBetter();
        }
        return turns;
    }
    // Not all that let go had to. What must be let go of again stays so.
    void tighten() {
        for (int turn = 0; turn < 4; ++turn) {
            base::report(all.progress_, 0.945, "putting the wall back");
            if (turn == 0)
                all.shaper_.tighten();
            else
                all.shaper_.loosen(pointsOf(bad), 0.5, false);
            cutAnew();
            if (!bad.empty()) continue;
            best = g.points;
            return;
        }
    }
    // All go back; then what is beyond the limits lets go anew, and oblique cells, some at a time, until they are few
    // enough.
    void putBack() {
        base::report(all.progress_, 0.947, "putting the wall back");
        takeBest();
        const double mostOblique = std::max(shareBeyond(g, geo, kOblique_deg), kAimOblique);
        all.shaper_.putAllBack();
        for (;;) {
            cut();
            auto going = cellsBeyond(g, geo, kAimAngle, kAimSkewness);
            if (going.empty()) {
                if (shareBeyond(g, geo, kOblique_deg) <= mostOblique) {
                    best = g.points;
                    return;
                }
                going = cellsBeyond(g, geo, kOblique_deg, kAimSkewness);
                going.resize((going.size() + 3) / 4);
            }
            if (!all.shaper_.letGoAgain(pointsOf(going))) return;
        }
    }
};

// @param only  marks the cells to open, beside those beyond the limits; empty: all beyond the angle
void WallOpening::openCells(Grid& g, Geometry& geo, double angle, const std::vector<char>& only) {
    Pass pass(*this, g, geo, angle, only);
    pass.evenLayers();
    if (only.empty()) pass.thinLayers();  // the marks are of the cells as they are numbered now
    const bool anyLetGo = pass.letGo() > 0;
    if (anyLetGo && pass.fewest == 0) {
        pass.tighten();
        pass.putBack();
    }
    pass.takeBest();
}

void WallOpening::open(Grid& g, Geometry& geo) {
    openCells(g, geo, kAimAngle, {});
    if (shareBeyond(g, geo, kOblique_deg) <= kAimOblique) return;
    // Many faces are oblique, though none too much. Where that comes from the outer cells, as with long cells beside
    // finer ones, no wall that lets go will help, or only one that leaves the model: then it stays.
    const auto before = g.points;
    const WallFit fit = wallFitOf(g, geo, model_);
    const auto leaves = [&] {
        if (fit.shareOn <= kFits) return false;
        const WallFit now = wallFitOf(g, geo, model_);
        const double letGo = fit.shareOn - now.shareOn;
        return letGo > (now.meanOff > fit.meanOff + kMostOff ? kMostLetGo : 2.0 * kMostLetGo);
    };
    const auto fewOblique = [&] { return shareBeyond(g, geo, kOblique_deg) <= kMostOblique; };
    // The mildest first; where that is not enough, all.
    for (const auto& marks : {mildlyOblique(g, geo), std::vector<char>(geo.volume.size(), 1)}) {
        openCells(g, geo, kOblique_deg - 1.0, marks);
        if (fewOblique()) {
            if (!leaves()) return;
            // Part of the way may do.
            const auto opened = g.points;
            for (const double part : {0.25, 0.5, 0.75}) {
                auto between = before;
                for (std::size_t i = 0; i < between.size(); ++i) between[i] += part * (opened[i] - before[i]);
                moveTo(between, g, geo);
                if (fewOblique() && !leaves() &&
                    cellsBeyond(g, geo, kMostNonOrthogonality_deg, kMostSkewness).empty() &&
                    foldedCells(g, geo).empty())
                    return;
            }
        }
        moveTo(before, g, geo);
    }
}

}  // namespace cvane::grid
