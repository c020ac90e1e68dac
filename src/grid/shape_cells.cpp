#include "grid/shape_cells.h"

#include <algorithm>
#include <atomic>
#include <bit>
#include <cmath>
#include <functional>
#include <optional>
#include <utility>

#include "grid/tunnel_sides.h"

namespace cvane::grid {
namespace {

using Index = std::int32_t;

/// A corner of a cell: the point and its three neighbours along the cell's edges, right-handed.
struct Corner {
    Index v[4];
    float s1, s2, s3;  ///< 1 / length that e1, e2 and e3 should have
    bool flat;     ///< stands for a triangle: not to be opened while its points are bound to the model
};

constexpr double kThin = 0.3;  ///< of a cell: a gap of this height does not fold even in a pit of the staircase
constexpr double kCube = 5.196152422706632;  // (1 + 1 + 1)^(3/2)

struct Measure {
    double eps;
    double chi(double d) const { return 0.5 * (d + std::sqrt(d * d + 4.0 * eps * eps)); }
};

}  // namespace

class CellShaper::Shaper {
  public:
    Shaper(const Staircase& s, const shape::TriangleTree& model, CurvePaths& paths, const Box& air, double height, std::vector<Vec3>& points, WallImage& wall)
        : s_(s), model_(model), paths_(paths), air_(air), nPoints_(points.size()), outPoints_(points), w_(wall) {
        x_ = points;
        x_.insert(x_.end(), wall.onWall.begin(), wall.onWall.end());
        findMovable();
        makeCorners(height);
        makeIncidence();
        colourPoints();
    }

    void run(const base::Progress& progress) {
        // A few sweeps over all that is not fine, then many over the few places that are still bad: there a point must wait
        // for its neighbours to make room, elsewhere everything is as good as done.
        // The last stage weighs the square of the measure, so that bad corners gain at the cost of good ones.
        struct Stage {
            double eps;
            int wide, narrow;
            double limit;
            bool square;
        };
        const Stage stages[] = {{0.3, 3, 14, 4.0, false}, {0.1, 2, 10, 4.0, false}, {0.03, 2, 10, 4.0, false}, {0.01, 1, 10, 4.0, false}, {0.003, 1, 10, 4.0, false}, {0.003, 0, 12, 2.5, true}};
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

    void loosen(std::span<const Index> around, double hold, bool afresh) {
        std::vector<Index> points(around.begin(), around.end());
        // Where loosening was in vain, the points beyond must make room.
        if (std::all_of(points.begin(), points.end(), [&](Index i) { return !isWall(i) || loose_[wallNumber(i)]; })) points = pointsOf(cornersAt(points));
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

    void tighten() {
        const auto worstAt = [&](std::size_t i) {
            double worst = 0.0;
            for (auto k = start_[i]; k < start_[i + 1]; ++k) worst = std::max(worst, value(corners_[static_cast<std::size_t>(incident_[static_cast<std::size_t>(k)])]));
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

    void putAllBack() {
        before_.assign(loose_.size(), std::nullopt);
        for (std::size_t w = 0; w < loose_.size(); ++w) {
            const auto i = nPoints_ + w;
            if (!loose_[w] || start_[i] == start_[i + 1]) continue;
            before_[w] = x_[i];
            putBack(w);
        }
        handOver();
    }

    bool letGoAgain(std::span<const Index> points) {
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

  private:
    /// @return arc length on the wall point's curve, if it has one
    double putBack(std::size_t w) {
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

    static constexpr double kGoodEnough = 2.0 * kCube;  ///< a corner that bends by 60 degrees one way

    void handOver() {
        // A hanging point between two large gap faces is a corner of neither: it goes half-way between those that it hangs on.
        for (std::size_t w = 0; w < w_.point.size(); ++w) {
            const auto i = nPoints_ + w;
            const auto& h = hangs_[i];
            if (h[0] < 0 || start_[i] != start_[i + 1]) continue;
            const bool free = loose_[wallNumber(h[0])] || loose_[wallNumber(h[1])];
            if (!free && paths_.taken(w)) continue;
            const Vec3 mid = 0.5 * (at(h[0]) + at(h[1]));
            x_[i] = free ? mid : onModel(mid, sides(static_cast<Index>(i)), w_.size[w]);
        }
        std::copy(x_.begin(), x_.begin() + static_cast<std::ptrdiff_t>(nPoints_), outPoints_.begin());
        std::copy(x_.begin() + static_cast<std::ptrdiff_t>(nPoints_), x_.end(), w_.onWall.begin());
        // A curve along a seam that does not quite close runs beside the model by as much.
        const auto walls = static_cast<std::ptrdiff_t>(w_.point.size());
#pragma omp parallel for schedule(dynamic, 1024)
        for (std::ptrdiff_t k = 0; k < walls; ++k) {
            const auto w = static_cast<std::size_t>(k);
            if (paths_.taken(w) && !loose_[w]) w_.onWall[w] = onModel(w_.onWall[w], sides(static_cast<Index>(nPoints_ + w)), w_.size[w]);
        }
    }
    const Vec3& at(Index i) const { return x_[static_cast<std::size_t>(i)]; }
    bool isWall(Index i) const { return static_cast<std::size_t>(i) >= nPoints_; }
    std::size_t wallNumber(Index i) const { return static_cast<std::size_t>(i) - nPoints_; }
    std::uint8_t sides(Index i) const {
        return s_.sidesOf[isWall(i) ? static_cast<std::size_t>(w_.point[wallNumber(i)]) : static_cast<std::size_t>(i)];
    }

    // Points up to three cells away from the wall may move.
    void findMovable() {
        movable_.assign(x_.size(), 0);
        moved_.assign(x_.size(), 0);
        std::vector<char> reached(nPoints_, 0);
        for (const auto p : w_.point) reached[static_cast<std::size_t>(p)] = 1;
        for (int ring = 0; ring < 3; ++ring) {
            auto wider = reached;
            for (const auto& cell : s_.corners)
                if (std::any_of(cell.begin(), cell.end(), [&](auto p) { return reached[static_cast<std::size_t>(p)]; }))
                    for (const auto p : cell) wider[static_cast<std::size_t>(p)] = 1;
            reached = std::move(wider);
        }
        std::copy(reached.begin(), reached.end(), movable_.begin());
        for (std::size_t i = 0; i < w_.point.size(); ++i) movable_[nPoints_ + i] = !paths_.fixed[i];
        loose_.assign(w_.point.size(), 0);
        anchor_.resize(w_.point.size());
        lastFacet_.assign(w_.point.size(), -1);
    }

    void makeCorners(double height) {
        const auto stays = [&](const std::array<PointIndex, 8>& cell) { return std::none_of(cell.begin(), cell.end(), [&](auto p) { return movable_[static_cast<std::size_t>(p)]; }); };
        corners_.reserve(8 * static_cast<std::size_t>(std::count_if(s_.corners.begin(), s_.corners.end(), std::not_fn(stays))) + 8 * s_.gapCorners.size());
        for (const auto& cell : s_.corners) {
            if (stays(cell)) continue;
            const auto s = [&](std::size_t axis) -> float { return 1.0 / (s_.points[static_cast<std::size_t>(cell[std::size_t{1} << axis])] - s_.points[static_cast<std::size_t>(cell[0])]).norm(); };
            const float sx = s(0), sy = s(1), sz = s(2);
            for (std::size_t i = 0; i < 8; ++i) {
                const bool odd = (i & 1) ^ (i >> 1 & 1) ^ (i >> 2 & 1);
                const Index a = cell[i ^ 1], b = cell[i ^ 2];
                corners_.push_back({{cell[i], odd ? b : a, odd ? a : b, cell[i ^ 4]}, odd ? sy : sx, odd ? sx : sy, sz, false});
            }
        }
        const auto below = [&](PointIndex p) { return static_cast<Index>(nPoints_) + w_.wallOf[static_cast<std::size_t>(p)]; };
        const auto onLine = [&](PointIndex p) { return paths_.taken(static_cast<std::size_t>(w_.wallOf[static_cast<std::size_t>(p)])); };
        // Where a curve takes two sides of a wall face, that face has a corner of half a turn and stands for a triangle;
        // nothing can open it.
        const auto straight = [&](PointIndex p, PointIndex last, PointIndex next) {
            if (!onLine(p) || !onLine(last) || !onLine(next)) return false;
            const Vec3 a = at(below(last)) - at(below(p)), b = at(below(next)) - at(below(p));
            return a.cross(b).norm() < 0.3 * a.norm() * b.norm();
        };
        for (const auto& q : s_.gapCorners) {
            std::array<double, 4> length{};
            for (std::size_t k = 0; k < 4; ++k) length[k] = (s_.points[static_cast<std::size_t>(q[k])] - s_.points[static_cast<std::size_t>(q[(k + 1) % 4])]).norm();
            const auto s3 = static_cast<float>(1.0 / (height * *std::min_element(length.begin(), length.end())));
            for (std::size_t k = 0; k < 4; ++k) {
                const auto p = q[k], next = q[(k + 1) % 4], last = q[(k + 3) % 4];
                const auto sNext = static_cast<float>(1.0 / length[k]), sLast = static_cast<float>(1.0 / length[(k + 3) % 4]);
                corners_.push_back({{p, next, last, below(p)}, sNext, sLast, s3, false});
                corners_.push_back({{below(p), below(last), below(next), p}, sLast, sNext, s3, straight(p, last, next)});
            }
        }
    }

    void makeIncidence() {
        start_.assign(x_.size() + 1, 0);
        for (const Corner& c : corners_)
            for (const Index v : c.v) ++start_[static_cast<std::size_t>(v) + 1];
        for (std::size_t i = 1; i < start_.size(); ++i) start_[i] += start_[i - 1];
        incident_.resize(4 * corners_.size());
        auto fill = start_;
        for (std::size_t c = 0; c < corners_.size(); ++c)
            for (const Index v : corners_[c].v) incident_[static_cast<std::size_t>(fill[static_cast<std::size_t>(v)]++)] = static_cast<Index>(c);
        hangs_.assign(x_.size(), {-1, -1});
        const auto below = [&](PointIndex p) { return static_cast<Index>(nPoints_) + w_.wallOf[static_cast<std::size_t>(p)]; };
        const auto first = static_cast<Index>(nPoints_);
        for (const auto& h : s_.hanging) {
            hangs_[static_cast<std::size_t>(h.point)] = {h.a, h.b};
            if (below(h.point) >= first && below(h.a) >= first && below(h.b) >= first) hangs_[static_cast<std::size_t>(below(h.point))] = {below(h.a), below(h.b)};
        }
        hungOn_.resize(x_.size());
        for (std::size_t i = 0; i < x_.size(); ++i)
            for (const Index v : hangs_[i])
                if (v >= 0) hungOn_[static_cast<std::size_t>(v)].push_back(static_cast<Index>(i));
    }

    // Points of one colour share no corner: they can move at the same time, and the outcome is the same for any number of
    // threads.
    void colourPoints() {
        colour_.assign(x_.size(), 255);
        for (std::size_t i = 0; i < x_.size(); ++i) {
            // Wall points that are held now may be loosened later.
            if (!movable_[i] && i < nPoints_) continue;
            std::uint64_t taken = 0;
            const auto avoid = [&](Index v) {
                const auto c = colour_[static_cast<std::size_t>(v)];
                if (c < 64) taken |= std::uint64_t{1} << c;
            };
            for (auto k = start_[i]; k < start_[i + 1]; ++k)
                for (const Index v : corners_[static_cast<std::size_t>(incident_[static_cast<std::size_t>(k)])].v) avoid(v);
            // A hanging point also feels the two points that it hangs between; a wall point feels its staircase point.
            for (const Index v : hangs_[i])
                if (v >= 0) avoid(v);
            for (const Index v : hungOn_[i])
                if (v >= 0) avoid(v);
            const auto c = static_cast<std::uint8_t>(std::min(std::countr_one(taken), 63));
            colour_[i] = c;
            colours_ = std::max<std::size_t>(colours_, c + 1u);
        }
    }

    // Squared edges and determinant of a corner, as parts of what they should be.
    std::pair<double, double> edgesAndVolume(const Corner& c) const {
        const Vec3 &o = at(c.v[0]), e1 = at(c.v[1]) - o, e2 = at(c.v[2]) - o, e3 = at(c.v[3]) - o;
        const double s1 = c.s1, s2 = c.s2, s3 = c.s3;
        return {e1.squaredNorm() * s1 * s1 + e2.squaredNorm() * s2 * s2 + e3.squaredNorm() * s3 * s3, e1.cross(e2).dot(e3) * s1 * s2 * s3};
    }
    double value(const Corner& c) const {
        if (c.flat) return 0.0;
        const auto [q, d] = edgesAndVolume(c);
        return q * std::sqrt(q) / measure_.chi(d);
    }

    // Square up to a bound, straight on beyond it: a corner that nothing can open must not outweigh all others.
    static constexpr double kHopeless = 30.0 * kCube;
    double weighed(double v) const { return !square_ ? v : (v < kHopeless ? v * v : kHopeless * (2.0 * v - kHopeless)) / kCube; }

    // Of the spring between a hanging point and the middle of the two that it hangs between. Stiff where loosening has not
    // helped so far: a bent edge folds layers though all corners are open.
    double hangingStiffness() const { return 8.0 * kCube * (square_ ? 4.0 : 1.0) * (stiff_ ? 30.0 : 1.0); }
    double springOf(Index i) const {
        double sum = 0.0;
        if (isWall(i) && loose_[wallNumber(i)]) sum = hold_ * kCube * (at(i) - anchor_[wallNumber(i)]).squaredNorm() / std::pow(sizeAround(i), 2);
        const auto& h = hangs_[static_cast<std::size_t>(i)];
        if (h[0] < 0) return sum;
        const Vec3 &a = at(h[0]), &b = at(h[1]);
        return sum + hangingStiffness() * (at(i) - 0.5 * (a + b)).squaredNorm() / (a - b).squaredNorm();
    }
    double around(Index i) const {
        double sum = springOf(i);
        for (auto k = start_[static_cast<std::size_t>(i)]; k < start_[static_cast<std::size_t>(i) + 1]; ++k)
            sum += weighed(value(corners_[static_cast<std::size_t>(incident_[static_cast<std::size_t>(k)])]));
        return sum;
    }

    // Gradient and convex part of the second derivative of what surrounds a point, with respect to its place. @return its value, as around()
    double derivatives(Index i, Vec3& g, Mat3& H) const {
        double sum = springOf(i);
        g.setZero();
        H.setZero();
        for (auto k = start_[static_cast<std::size_t>(i)]; k < start_[static_cast<std::size_t>(i) + 1]; ++k) {
            const Corner& c = corners_[static_cast<std::size_t>(incident_[static_cast<std::size_t>(k)])];
            if (c.flat) continue;
            const Vec3 &o = at(c.v[0]), e1 = at(c.v[1]) - o, e2 = at(c.v[2]) - o, e3 = at(c.v[3]) - o;
            const double s1 = c.s1, s2 = c.s2, s3 = c.s3, a1 = s1 * s1, a2 = s2 * s2, a3 = s3 * s3, v = s1 * s2 * s3;
            const double q = e1.squaredNorm() * a1 + e2.squaredNorm() * a2 + e3.squaredNorm() * a3;
            Vec3 gq, gd;
            double hq;
            if (i == c.v[1]) {
                gq = 2.0 * a1 * e1;
                gd = v * e2.cross(e3);
                hq = 2.0 * a1;
            } else if (i == c.v[2]) {
                gq = 2.0 * a2 * e2;
                gd = v * e3.cross(e1);
                hq = 2.0 * a2;
            } else if (i == c.v[3]) {
                gq = 2.0 * a3 * e3;
                gd = v * e1.cross(e2);
                hq = 2.0 * a3;
            } else {
                gq = -2.0 * (a1 * e1 + a2 * e2 + a3 * e3);
                gd = -v * (e2.cross(e3) + e3.cross(e1) + e1.cross(e2));
                hq = 2.0 * (a1 + a2 + a3);
            }
            const double d = v * e1.cross(e2).dot(e3), root = std::sqrt(d * d + 4.0 * measure_.eps * measure_.eps), chi = 0.5 * (d + root);
            const double dchi = chi / root, r = std::sqrt(q);
            const Vec3 gv = (1.5 * r / chi) * gq - (q * r * dchi / (chi * chi)) * gd;
            const double value = q * r / chi;
            sum += weighed(value);
            const double slope = square_ ? 2.0 * std::min(value, kHopeless) / kCube : 1.0;
            g += slope * gv;
            H += slope * (2.0 * q * r * dchi * dchi / (chi * chi * chi)) * gd * gd.transpose();
            if (square_ && value < kHopeless) H += (2.0 / kCube) * gv * gv.transpose();
            H.diagonal().array() += slope * 1.5 * r / chi * hq;
        }
        const auto& h = hangs_[static_cast<std::size_t>(i)];
        if (h[0] >= 0) {
            const Vec3 &a = at(h[0]), &b = at(h[1]);
            const double w = 2.0 * hangingStiffness() / (a - b).squaredNorm();
            g += w * (at(i) - 0.5 * (a + b));
            H.diagonal().array() += w;
        }
        if (isWall(i) && loose_[wallNumber(i)]) {
            const double w = 2.0 * hold_ * kCube / std::pow(sizeAround(i), 2);
            g += w * (at(i) - anchor_[wallNumber(i)]);
            H.diagonal().array() += w;
        }
        return sum;
    }

    // The same among all corners. What the corners are made of is kept, and found again only where a point has moved since.
    std::vector<Index> allPointsBeyond(double limit) {
        const bool first = seen_.empty();
        seen_.resize(corners_.size());
        std::vector<char> beyond(x_.size(), 0);
        const auto n = static_cast<std::ptrdiff_t>(corners_.size());
#pragma omp parallel for schedule(static)
        for (std::ptrdiff_t k = 0; k < n; ++k) {
            const Corner& c = corners_[static_cast<std::size_t>(k)];
            if (c.flat) continue;
            auto& [q, d] = seen_[static_cast<std::size_t>(k)];
            if (first || std::any_of(std::begin(c.v), std::end(c.v), [&](Index v) { return moved_[static_cast<std::size_t>(v)] != 0; })) {
                const auto [edges, volume] = edgesAndVolume(c);
                q = static_cast<float>(edges);
                d = static_cast<float>(volume);
            }
            if (q * std::sqrt(q) / measure_.chi(d) > limit)
                for (const Index v : c.v) std::atomic_ref(beyond[static_cast<std::size_t>(v)]).store(1, std::memory_order_relaxed);
        }
        std::fill(moved_.begin(), moved_.end(), 0);
        std::vector<Index> points;
        for (std::size_t i = 0; i < beyond.size(); ++i)
            if (beyond[i]) points.push_back(static_cast<Index>(i));
        return points;
    }

    // Points of those corners whose measure is beyond the limit; sorted.
    std::vector<Index> pointsBeyond(double limit, const std::vector<Index>& corners) const {
        std::vector<char> beyond(corners.size(), 0);
        const auto n = static_cast<std::ptrdiff_t>(corners.size());
#pragma omp parallel for schedule(static)
        for (std::ptrdiff_t k = 0; k < n; ++k)
            beyond[static_cast<std::size_t>(k)] = value(corners_[static_cast<std::size_t>(corners[static_cast<std::size_t>(k)])]) > limit;
        std::vector<Index> found;
        for (std::size_t k = 0; k < corners.size(); ++k)
            if (beyond[k]) found.push_back(corners[k]);
        return pointsOf(found);
    }
    std::vector<Index> pointsOf(const std::vector<Index>& corners) const {
        std::vector<Index> points;
        points.reserve(4 * corners.size());
        for (const Index c : corners)
            for (const Index v : corners_[static_cast<std::size_t>(c)].v) points.push_back(v);
        return sortedOnce(std::move(points), x_.size());
    }
    std::vector<Index> cornersAt(const std::vector<Index>& points) const {
        std::vector<Index> corners;
        for (const Index p : points)
            corners.insert(corners.end(), incident_.begin() + start_[static_cast<std::size_t>(p)], incident_.begin() + start_[static_cast<std::size_t>(p) + 1]);
        return sortedOnce(std::move(corners), corners_.size());
    }
    /// @param end  all are below it
    static std::vector<Index> sortedOnce(std::vector<Index> list, std::size_t end) {
        if (8 * list.size() < end) {
            std::sort(list.begin(), list.end());
            list.erase(std::unique(list.begin(), list.end()), list.end());
            return list;
        }
        std::vector<char> in(end, 0);
        for (const Index i : list) in[static_cast<std::size_t>(i)] = 1;
        list.clear();
        for (std::size_t i = 0; i < end; ++i)
            if (in[i]) list.push_back(static_cast<Index>(i));
        return list;
    }

    /// @return how many of the points moved
    std::size_t move(const std::vector<Index>& points, bool backwards) {
        std::vector<std::vector<Index>> byColour(colours_);
        for (const Index i : points)
            if (movable_[static_cast<std::size_t>(i)]) byColour[colour_[static_cast<std::size_t>(i)]].push_back(i);
        if (backwards) std::reverse(byColour.begin(), byColour.end());
        std::size_t moved = 0;
        for (const auto& colour : byColour) {
            const auto n = static_cast<std::ptrdiff_t>(colour.size());
#pragma omp parallel for schedule(dynamic, 64) reduction(+ : moved)
            for (std::ptrdiff_t j = 0; j < n; ++j) {
                const Index i = colour[static_cast<std::size_t>(j)];
                moved += isWall(i) && !loose_[wallNumber(i)] ? moveOnWall(i) : moveFree(i);
            }
        }
        return moved;
    }

    double sizeAround(Index i) const {
        double s = 0.0;
        for (auto k = start_[static_cast<std::size_t>(i)]; k < start_[static_cast<std::size_t>(i) + 1]; ++k) {
            const Corner& c = corners_[static_cast<std::size_t>(incident_[static_cast<std::size_t>(k)])];
            s = std::max({s, static_cast<double>(c.s1), static_cast<double>(c.s2)});
        }
        return 1.0 / s;
    }

    // @param before  around(i)
    template <class Place>
    bool search(Index i, double before, const Vec3& step, Place&& place) {
        const double size = sizeAround(i), length = step.norm();
        if (!(length > 1e-4 * size)) return false;
        const Vec3 old = at(i);
        double t = std::min(1.0, 0.4 * size / length);
        for (int tries = 0; tries < 6; ++tries, t *= 0.4) {
            x_[static_cast<std::size_t>(i)] = place(t);
            if (around(i) < before * (1.0 - 1e-6)) {
                moved_[static_cast<std::size_t>(i)] = 1;
                return true;
            }
        }
        x_[static_cast<std::size_t>(i)] = old;
        return false;
    }

    bool moveFree(Index i) {
        Vec3 g;
        Mat3 H;
        const double before = derivatives(i, g, H);
        const auto held = sides(i);
        for (int k = 0; k < 3; ++k)
            if (holds(held, k)) {
                g[k] = 0.0;
                H.row(k).setZero();
                H.col(k).setZero();
                H(k, k) = 1.0;
            }
        const Vec3 step = -H.ldlt().solve(g), old = at(i);
        return search(i, before, step, [&](double t) -> Vec3 { return old + t * step; });
    }

    bool moveOnWall(Index i) {
        const auto w = wallNumber(i);
        Vec3 g;
        Mat3 H;
        const double before = derivatives(i, g, H);
        const Vec3 old = at(i);
        if (paths_.curveOf[w] >= 0) {
            if (sides(i) != 0) return false;
            const MeasuredCurve& c = paths_.curves[static_cast<std::size_t>(paths_.curveOf[w])];
            const double s = paths_.along[w];
            const Vec3 t = c.tangent(s);
            const double h = t.dot(H * t);
            if (!(h > 0.0)) return false;
            const double ds = -t.dot(g) / h;
            double best = s;
            const bool moved = search(i, before, ds * t, [&](double f) {
                best = std::clamp(s + f * ds, 0.0, c.length());
                return c.place(best);
            });
            if (moved) paths_.along[w] = best;
            return moved;
        }
        const double size = sizeAround(i);
        const auto hit = model_.nearest(old, size, lastFacet_[w]);
        lastFacet_[w] = hit.facet;
        if (hit.facet < 0) return false;  // the image of a side point that the model does not reach
        if (slide(i, normalOf(hit.facet), before, g, H, size, hit)) return true;
        // A point that has come to lie on an edge sees one side of it as nearest, and may belong on another.
        if (before < 3.0 * kCube * (start_[static_cast<std::size_t>(i) + 1] - start_[static_cast<std::size_t>(i)])) return false;
        Box near;
        near.add(old - Vec3::Constant(1e-4 * size));
        near.add(old + Vec3::Constant(1e-4 * size));
        std::vector<Vec3> tried{normalOf(hit.facet)};
        bool moved = false;
        model_.forEachNear(near, [&](std::int32_t f) {
            const Vec3 n = normalOf(f);
            if (moved || n.isZero() || std::any_of(tried.begin(), tried.end(), [&](const Vec3& t) { return std::abs(t.dot(n)) > 0.95; })) return;
            tried.push_back(n);
            moved = slide(i, n, before, g, H, size, hit);
        });
        return moved;
    }

    Vec3 normalOf(std::int32_t facet) const {
        const Vec3 n = model_.areaVector(facet);
        return n.norm() > 0.0 ? n.normalized() : Vec3::Zero().eval();
    }

    Vec3 onModel(const Vec3& aim, std::uint8_t held, double size) const { return onModelInSides(model_, aim, held, air_, 4.0 * size).point; }

    // Newton step in the plane with this normal (in tunnel sides: along the line that they share), brought back to the model.
    // @param now  what of the model is nearest to the point
    bool slide(Index i, const Vec3& n, double before, const Vec3& g, const Mat3& H, double size, const shape::TriangleTree::Nearest& now) {
        if (n.isZero()) return false;
        const Vec3 old = at(i);
        const auto held = sides(i);
        Mat3 P = Mat3::Identity() - n * n.transpose();
        for (int k = 0; k < 3; ++k)
            if (holds(held, k)) {
                const Vec3 t = n.cross(Vec3::Unit(k));
                if (t.norm() < 0.1) return false;
                P = t * t.transpose() / t.squaredNorm();
            }
        const Mat3 Hp = P * H * P + (Mat3::Identity() - P) * H.trace();
        const Vec3 step = -P * Hp.ldlt().solve(P * g);
        // Next to a thin edge the step may come out on its other side; lifted towards the air, across the step, it does not.
        const double s2 = step.squaredNorm();
        if (!(s2 > 0.0)) return false;
        const Vec3 lift = s_.points[static_cast<std::size_t>(w_.point[wallNumber(i)])] - old;
        const Vec3 across = lift - lift.dot(step) / s2 * step;
        return search(i, before, step, [&](double t) -> Vec3 {
            // The model is no farther than the point has come from it.
            const auto beside = [&](const Vec3& by) { return onModelInSides(model_, old + by, held, air_, by.norm() + now.distance + 1e-6 * size, now.facet).point; };
            const Vec3 plain = beside(t * step), lifted = beside(t * (step + 0.5 * across));
            if ((plain - lifted).squaredNorm() < 1e-6 * size * size) return plain;
            Vec3& x = x_[static_cast<std::size_t>(i)];
            x = plain;
            const double e = around(i);
            x = lifted;
            return around(i) < e ? lifted : plain;
        });
    }

    const Staircase& s_;
    const shape::TriangleTree& model_;
    CurvePaths& paths_;
    const Box& air_;
    std::size_t nPoints_;
    std::vector<Vec3>& outPoints_;
    WallImage& w_;
    std::vector<Vec3> x_;  ///< staircase points, then wall points
    std::vector<char> movable_;
    std::vector<char> moved_;                     ///< since seen_ was brought up to date
    std::vector<std::pair<float, float>> seen_;   ///< per corner: edgesAndVolume
    std::vector<Corner> corners_;
    std::vector<Index> start_, incident_;
    std::vector<std::array<Index, 2>> hangs_;     ///< per point: the two that it hangs between, or -1
    std::vector<std::vector<Index>> hungOn_;      ///< per point: those that hang on it
    std::vector<std::uint8_t> colour_;            ///< of movable points
    std::size_t colours_ = 0;
    Measure measure_{1e-4};
    bool square_ = false;
    std::vector<char> loose_;    ///< per wall point: may leave the model
    std::vector<Vec3> anchor_;   ///< per loose wall point: where it left from
    std::vector<std::optional<Vec3>> before_;  ///< per wall point that putAllBack has moved: where it was
    std::vector<std::int32_t> lastFacet_;      ///< per wall point: the facet on which it lay last, or -1
    double hold_ = 0.0;
    bool stiff_ = false;
};

CellShaper::CellShaper(const Staircase& stairs, const shape::TriangleTree& model, CurvePaths& paths, const Box& air, double height,
                       std::vector<Vec3>& points, WallImage& wall)
    : shaper_(std::make_unique<Shaper>(stairs, model, paths, air, height, points, wall)) {}
CellShaper::~CellShaper() = default;
void CellShaper::run(const base::Progress& progress) { shaper_->run(progress); }
void CellShaper::tighten() { shaper_->tighten(); }
void CellShaper::putAllBack() { shaper_->putAllBack(); }
bool CellShaper::letGoAgain(std::span<const std::int32_t> points) { return shaper_->letGoAgain(points); }
void CellShaper::loosen(std::span<const std::int32_t> points, double hold, bool afresh) { shaper_->loosen(points, hold, afresh); }

}  // namespace cvane::grid
