#include "grid/shape_cells_inside.h"

namespace cvane::grid {

CellShaper::Shaper::Shaper(const Staircase& s, const shape::TriangleTree& model, CurvePaths& paths, const Box& air,
                           double height, std::vector<Vec3>& points, WallImage& wall)

    : s_(s), model_(model), paths_(paths), air_(air), nPoints_(points.size()), outPoints_(points), w_(wall) {
    x_ = points;
    x_.insert(x_.end(), wall.onWall.begin(), wall.onWall.end());
    findMovable();
    makeCorners(height);
    makeIncidence();
    colourPoints();
}

void CellShaper::Shaper::run(const base::Progress& progress) {
    // A few sweeps over all that is not fine, then many over the few places that are still bad: there a point must
    // wait for its neighbours to make room, elsewhere everything is as good as done. The last stage weighs the
    // square of the measure, so that bad corners gain at the cost of good ones.
    struct Stage {
        double eps;
        int wide, narrow;
        double limit;
        bool square;
    };
    const Stage stages[] = {{0.3, 3, 14, 4.0, false},  {0.1, 2, 10, 4.0, false},   {0.03, 2, 10, 4.0, false},
                            {0.01, 1, 10, 4.0, false}, {0.003, 1, 10, 4.0, false}, {0.003, 0, 12, 2.5, true}};
    double done = 0.0;
    for (const Stage& stage : stages) {
        measure_.eps = stage.eps;
        square_ = stage.square;
        base::report(progress, done, "shaping cells");
        for (int i = 0; i < stage.wide; ++i)
            if (move(allPointsBeyond(1.25 * kCube), i % 2 == 1) == 0) break;
        // Where the bad corners are now, and what two rings of cells around them hold.
        auto points = allPointsBeyond(stage.limit * kCube);
        for (int ring = 0; ring < 2; ++ring) points = pointsOf(cornersAt(points));
        const auto region = cornersAt(points);
        for (int i = 0; i < stage.narrow; ++i)
            if (move(pointsOf(cornersAt(pointsBeyond(stage.limit * kCube, region))), i % 2 == 1) == 0) break;
        done += 1.0 / std::size(stages);
    }
    seen_ = {};
    handOver();
}

void CellShaper::Shaper::loosen(std::span<const Index> around, double hold, bool afresh) {
    std::vector<Index> points(around.begin(), around.end());
    // Where loosening was in vain, the points beyond must make room.
    if (std::all_of(points.begin(), points.end(), [&](Index i) { return !isWall(i) || loose_[wallNumber(i)]; }))
        points = pointsOf(cornersAt(points));
    for (const Index i : points) {
        if (!isWall(i)) continue;
        const auto w = wallNumber(i);
        if (!loose_[w]) {
            loose_[w] = 1;
            movable_[static_cast<std::size_t>(i)] = 1;
            anchor_[w] = at(i);
            for (auto k = start_[static_cast<std::size_t>(i)]; k < start_[static_cast<std::size_t>(i) + 1]; ++k)
                corners_[static_cast<std::size_t>(incident_[static_cast<std::size_t>(k)])].flat = false;
        }
    }
    if (afresh)
        for (const Index i : points) {
            const PointIndex p = isWall(i) ? w_.point[wallNumber(i)] : i;
            if (!movable_[static_cast<std::size_t>(i)]) continue;
            x_[static_cast<std::size_t>(i)] = s_.points[static_cast<std::size_t>(p)];
            if (isWall(i)) x_[static_cast<std::size_t>(i)] += kThin * sizeAround(i) * w_.inwards[wallNumber(i)];
        }
    hold_ = hold;
    stiff_ = stiff_ || afresh;
    std::vector<Index> near = points;
    for (int ring = 0; ring < 2; ++ring) near = pointsOf(cornersAt(near));
    const auto region = cornersAt(near);
    // Soft first, so that corners inside out come round; then the square, for the sake of the worst.
    struct Stage {
        double eps;
        int sweeps;
        bool square;
    };
    for (const Stage& stage : {Stage{0.1, 6, false}, Stage{0.01, 6, false}, Stage{0.003, 10, true}}) {
        measure_.eps = stage.eps;
        square_ = stage.square;
        for (int i = 0; i < stage.sweeps; ++i)
            if (move(pointsBeyond(1.5 * kCube, region), i % 2 == 1) == 0) break;
    }
    handOver();
}

void CellShaper::Shaper::tighten() {
    const auto worstAt = [&](std::size_t i) {
        double worst = 0.0;
        for (auto k = start_[i]; k < start_[i + 1]; ++k)
            worst = std::max(worst, value(corners_[static_cast<std::size_t>(incident_[static_cast<std::size_t>(k)])]));
        return worst;
    };
    for (std::size_t w = 0; w < loose_.size(); ++w) {
        const auto i = nPoints_ + w;
        if (!loose_[w] || start_[i] == start_[i + 1]) continue;
        const Vec3 old = x_[i];
        const double allowed = std::max(worstAt(i), kGoodEnough);
        const double along = putBack(w);
        if (!(worstAt(i) <= allowed)) {
            x_[i] = old;
            continue;
        }
        loose_[w] = 0;
        movable_[i] = !paths_.fixed[w];
        if (paths_.curveOf[w] >= 0) paths_.along[w] = along;
    }
    handOver();
}

void CellShaper::Shaper::putAllBack() {
    before_.assign(loose_.size(), std::nullopt);
    for (std::size_t w = 0; w < loose_.size(); ++w) {
        const auto i = nPoints_ + w;
        if (!loose_[w] || start_[i] == start_[i + 1]) continue;
        before_[w] = x_[i];
        putBack(w);
    }
    handOver();
}

bool CellShaper::Shaper::letGoAgain(std::span<const Index> points) {
    bool any = false;
    for (const Index i : points) {
        if (!isWall(i) || !before_[wallNumber(i)]) continue;
        x_[static_cast<std::size_t>(i)] = *before_[wallNumber(i)];
        before_[wallNumber(i)].reset();
        any = true;
    }
    if (any) handOver();
    return any;
}

double CellShaper::Shaper::putBack(std::size_t w) {
    const auto i = nPoints_ + w;
    if (paths_.fixed[w]) {
        x_[i] = anchor_[w];
    } else if (paths_.curveOf[w] >= 0) {
        const MeasuredCurve& c = paths_.curves[static_cast<std::size_t>(paths_.curveOf[w])];
        const double along = c.nearest(x_[i]);
        x_[i] = c.place(along);
        return along;
    } else {
        x_[i] = onModel(x_[i], sides(static_cast<Index>(i)), w_.size[w]);
    }
    return 0.0;
}

CellShaper::CellShaper(const Staircase& stairs, const shape::TriangleTree& model, CurvePaths& paths, const Box& air,
                       double height, std::vector<Vec3>& points, WallImage& wall)
    : shaper_(std::make_unique<Shaper>(stairs, model, paths, air, height, points, wall)) {}
CellShaper::~CellShaper() = default;
void CellShaper::run(const base::Progress& progress) {
    shaper_->run(progress);
}
void CellShaper::tighten() {
    shaper_->tighten();
}
void CellShaper::putAllBack() {
    shaper_->putAllBack();
}
bool CellShaper::letGoAgain(std::span<const std::int32_t> points) {
    return shaper_->letGoAgain(points);
}
void CellShaper::loosen(std::span<const std::int32_t> points, double hold, bool afresh) {
    shaper_->loosen(points, hold, afresh);
}

}  // namespace cvane::grid
