#pragma once
// The inside of CellShaper: its corners and incidence (shape_cells_corners.cpp), the moves of single points
// (shape_cells_moves.cpp), and which points are moved when (shape_cells.cpp).
#include <algorithm>
#include <atomic>
#include <bit>
#include <cmath>
#include <functional>
#include <optional>
#include <utility>

#include "grid/shape_cells.h"
#include "grid/tunnel_sides.h"

namespace cvane::grid {

using Index = std::int32_t;

/// A corner of a cell: the point and its three neighbours along the cell's edges, right-handed.
struct Corner {
    Index v[4];
    float s1, s2, s3;  ///< 1 / length that e1, e2 and e3 should have
    bool flat;         ///< stands for a triangle: not to be opened while its points are bound to the model
};

inline constexpr double kThin = 0.3;  ///< of a cell: a gap of this height does not fold even in a pit of the staircase
inline constexpr double kCube = 5.196152422706632;  // (1 + 1 + 1)^(3/2)

struct Measure {
    double eps;
    double chi(double d) const { return 0.5 * (d + std::sqrt(d * d + 4.0 * eps * eps)); }
};

class CellShaper::Shaper {
  public:
    Shaper(const Staircase& s, const shape::TriangleTree& model, CurvePaths& paths, const Box& air, double height,
           std::vector<Vec3>& points, WallImage& wall);

    void run(const base::Progress& progress);

    void loosen(std::span<const Index> around, double hold, bool afresh);

    void tighten();

    void putAllBack();

    bool letGoAgain(std::span<const Index> points);

  private:
    /// @return arc length on the wall point's curve, if it has one
    double putBack(std::size_t w);

    static constexpr double kGoodEnough = 2.0 * kCube;  ///< a corner that bends by 60 degrees one way

    void handOver() {
        // A hanging point between two large gap faces is a corner of neither: it goes half-way between those that it
        // hangs on.
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
            if (paths_.taken(w) && !loose_[w])
                w_.onWall[w] = onModel(w_.onWall[w], sides(static_cast<Index>(nPoints_ + w)), w_.size[w]);
        }
    }
    const Vec3& at(Index i) const {
        return x_[static_cast<std::size_t>(i)];
    }
    bool isWall(Index i) const {
        return static_cast<std::size_t>(i) >= nPoints_;
    }
    std::size_t wallNumber(Index i) const {
        return static_cast<std::size_t>(i) - nPoints_;
    }
    std::uint8_t sides(Index i) const {
        return s_.sidesOf[isWall(i) ? static_cast<std::size_t>(w_.point[wallNumber(i)]) : static_cast<std::size_t>(i)];
    }

    // Points up to three cells away from the wall may move.
    void findMovable();

    void makeCorners(double height);

    void makeIncidence();

    // Points of one colour share no corner: they can move at the same time, and the outcome is the same for any number
    // of threads.
    void colourPoints();

    // Squared edges and determinant of a corner, as parts of what they should be.
    std::pair<double, double> edgesAndVolume(const Corner& c) const {
        const Vec3 &o = at(c.v[0]), e1 = at(c.v[1]) - o, e2 = at(c.v[2]) - o, e3 = at(c.v[3]) - o;
        const double s1 = c.s1, s2 = c.s2, s3 = c.s3;
        return {e1.squaredNorm() * s1 * s1 + e2.squaredNorm() * s2 * s2 + e3.squaredNorm() * s3 * s3,
                e1.cross(e2).dot(e3) * s1 * s2 * s3};
    }
    double value(const Corner& c) const {
        if (c.flat) return 0.0;
        const auto [q, d] = edgesAndVolume(c);
        return q * std::sqrt(q) / measure_.chi(d);
    }

    // Square up to a bound, straight on beyond it: a corner that nothing can open must not outweigh all others.
    static constexpr double kHopeless = 30.0 * kCube;
    double weighed(double v) const {
        return !square_ ? v : (v < kHopeless ? v * v : kHopeless * (2.0 * v - kHopeless)) / kCube;
    }

    // Of the spring between a hanging point and the middle of the two that it hangs between. Stiff where loosening has
    // not helped so far: a bent edge folds layers though all corners are open.
    double hangingStiffness() const {
        return 8.0 * kCube * (square_ ? 4.0 : 1.0) * (stiff_ ? 30.0 : 1.0);
    }
    double springOf(Index i) const;
    double around(Index i) const;

    // Gradient and convex part of the second derivative of what surrounds a point, with respect to its place. @return
    // its value, as around()
    double derivatives(Index i, Vec3& g, Mat3& H) const;

    // The same among all corners. What the corners are made of is kept, and found again only where a point has moved
    // since.
    std::vector<Index> allPointsBeyond(double limit);

    // Points of those corners whose measure is beyond the limit; sorted.
    std::vector<Index> pointsBeyond(double limit, const std::vector<Index>& corners) const;
    std::vector<Index> pointsOf(const std::vector<Index>& corners) const;
    std::vector<Index> cornersAt(const std::vector<Index>& points) const;
    /// @param end  all are below it
    static std::vector<Index> sortedOnce(std::vector<Index> list, std::size_t end);

    /// @return how many of the points moved
    std::size_t move(const std::vector<Index>& points, bool backwards);

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
    bool search(Index i, double before, const Vec3& step, Place&& place);

    bool moveFree(Index i);

    bool moveOnWall(Index i);

    Vec3 normalOf(std::int32_t facet) const;

    Vec3 onModel(const Vec3& aim, std::uint8_t held, double size) const {
        return onModelInSides(model_, aim, held, air_, 4.0 * size).point;
    }

    // Newton step in the plane with this normal (in tunnel sides: along the line that they share), brought back to the
    // model.
    // @param now  what of the model is nearest to the point
    bool slide(Index i, const Vec3& n, double before, const Vec3& g, const Mat3& H, double size,
               const shape::TriangleTree::Nearest& now);

    const Staircase& s_;
    const shape::TriangleTree& model_;
    CurvePaths& paths_;
    const Box& air_;
    std::size_t nPoints_;
    std::vector<Vec3>& outPoints_;
    WallImage& w_;
    std::vector<Vec3> x_;  ///< staircase points, then wall points
    std::vector<char> movable_;
    std::vector<char> moved_;                    ///< since seen_ was brought up to date
    std::vector<std::pair<float, float>> seen_;  ///< per corner: edgesAndVolume
    std::vector<Corner> corners_;
    std::vector<Index> start_, incident_;
    std::vector<std::array<Index, 2>> hangs_;  ///< per point: the two that it hangs between, or -1
    std::vector<std::vector<Index>> hungOn_;   ///< per point: those that hang on it
    std::vector<std::uint8_t> colour_;         ///< of movable points
    std::size_t colours_ = 0;
    Measure measure_{1e-4};
    bool square_ = false;
    std::vector<char> loose_;                  ///< per wall point: may leave the model
    std::vector<Vec3> anchor_;                 ///< per loose wall point: where it left from
    std::vector<std::optional<Vec3>> before_;  ///< per wall point that putAllBack has moved: where it was
    std::vector<std::int32_t> lastFacet_;      ///< per wall point: the facet on which it lay last, or -1
    double hold_ = 0.0;
    bool stiff_ = false;
};

}  // namespace cvane::grid
