#include "grid/c_grid.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "grid/plane.h"
#include "grid/structured.h"
#include "grid/wall_layers.h"

namespace cvane::grid {
namespace {
using Vec2 = Eigen::Vector2d;

constexpr double kBend = 0.4;  ///< chords within which the cut turns into the x axis
/// First height on the cut: grows by this share of the distance behind the edge. A wake leads away from the cut at
/// most angles, and thin cells that the wind crosses make the flow blow up there.
constexpr double kWakeSlope = 0.006;
constexpr double kFan = 1.15;    ///< power of the steps along the far side
constexpr double kSpread = 0.2;  ///< chords
constexpr double kReach = 2.0;   ///< chords: a line keeps the wall's normal for about kReach^2 / 45 of them

/// Steps that grow by a constant ratio from `first`, n of them, over `length`: places from 0 to it.
std::vector<double> stretched(double length, double first, int n) {
    std::vector<double> at{0.0};
    for (const double h : layerHeights(length, first, n)) at.push_back(at.back() + h);
    at.back() = length;
    return at;
}

}  // namespace

Grid cGrid(const CGrid& s) {
    const auto refuse = [](const std::string& what, const std::string& todo) {
        throw base::InputError(what, "grid of the section", todo);
    };
    if (s.outline.size() < 20) refuse(fmt::format("the outline has {} points.", s.outline.size()), "Give at least 20.");
    if (!(s.firstHeight > 0.0) || s.away < 4 || s.wake < 4 || !(s.far > 1.0) || !(s.chord > 0.0))
        refuse("a height, a number of cells or the far side is out of its range.", "Give numbers above 0.");
    const double c = s.chord, R = s.far * c;
    const std::size_t n = s.outline.size(), w = static_cast<std::size_t>(s.wake);
    const Vec2 low = s.outline.front(), high = s.outline.back(), tail = 0.5 * (low + high);
    const double gap = (high - low).norm();
    const bool sharp = gap < 1e-4 * c;
    const Vec2 up = (high - s.outline[n - 2]).normalized(), down = (low - s.outline[1]).normalized();
    const Vec2 bisector = (up + down).normalized();

    // The front: wake from far behind below, section, wake above.
    const double last = 0.5 * ((high - s.outline[n - 2]).norm() + (low - s.outline[1]).norm());
    const auto along = stretched(R, std::min(last, 0.02 * c), s.wake);
    const auto cut = [&](double x) -> Vec2 {  // x behind the edge
        const double turn = kBend * c * (1.0 - std::exp(-x / (kBend * c)));
        return tail + Vec2(x, bisector.y() / std::max(bisector.x(), 0.2) * turn);
    };
    const auto opening = [&](double x) { return sharp ? 0.0 : 0.5 * (gap + s.acrossBase * kWakeSlope * x); };
    std::vector<Vec2> front;
    std::vector<double> behind;
    for (std::size_t k = w; k > 0; --k) {
        front.push_back(cut(along[k]) - Vec2(0.0, opening(along[k])));
        behind.push_back(along[k]);
    }
    for (const Vec2& p : s.outline) front.push_back(p), behind.push_back(0.0);
    if (sharp) front[w] = front.back() = tail;
    for (std::size_t k = 1; k <= w; ++k) {
        front.push_back(cut(along[k]) + Vec2(0.0, opening(along[k])));
        behind.push_back(along[k]);
    }
    const std::size_t m = front.size();

    // Normals, smoothed along the front: at the edge the wall's and the wake's meet at half its angle.
    std::vector<Vec2> normal(m);
    for (std::size_t i = 0; i < m; ++i) {
        const Vec2 t = (front[std::min(i + 1, m - 1)] - front[i > 0 ? i - 1 : 0]).normalized();
        normal[i] = Vec2(-t.y(), t.x());  // the front runs below backwards, above downstream: outside is left
    }
    normal.front() = Vec2(0.0, -1.0), normal.back() = Vec2(0.0, 1.0);
    // Lines from both sides of the edge's corner lean towards each other: their turn is spread along the front, over a
    // fifth of the chord at the edge and over nothing at the nose.
    std::vector<double> path(m, 0.0);
    for (std::size_t i = 1; i < m; ++i) path[i] = path[i - 1] + (front[i] - front[i - 1]).norm();
    double nose = 1e300;
    for (const Vec2& p : s.outline) nose = std::min(nose, p.x());
    std::vector<Vec2> smooth(m);
    for (std::size_t i = 0; i < m; ++i) {
        const double back = std::clamp((front[i].x() - nose) / c, 0.0, 1.0),
                     spread = kSpread * c * back * back + 1e-9 * c;
        Vec2 sum = Vec2::Zero();
        for (std::size_t k = 0; k < m; ++k) {
            const double d = (path[k] - path[i]) / spread;
            if (std::abs(d) > 4.0) continue;
            const double length = 0.5 * (path[std::min(k + 1, m - 1)] - path[k > 0 ? k - 1 : 0]);
            sum += std::exp(-0.5 * d * d) * length * normal[k];
        }
        smooth[i] = sum.norm() > 0.0 ? Vec2(sum.normalized()) : normal[i];
    }
    normal = smooth;

    // Far ends: of the wake's lines above and below, of the section's over the half circle.
    std::vector<Vec2> end(m);
    const std::size_t i0 = w, i1 = w + n - 1;
    for (std::size_t i = 0; i < m; ++i) {
        if (i <= i0 || i >= i1) {
            // Fine steps behind the edge open into even ones far away.
            const double k = static_cast<double>(i <= i0 ? i0 - i : i - i1) / static_cast<double>(w);
            end[i] = tail + Vec2(R * std::pow(k, kFan), i <= i0 ? -R : R);
            continue;
        }
        const double byIndex = static_cast<double>(i - i0) / static_cast<double>(i1 - i0),
                     byPath = (path[i] - path[i0]) / (path[i1] - path[i0]);
        const double a = std::acos(-1.0) * (0.8 * byIndex + 0.2 * byPath);
        end[i] = tail + R * Vec2(-std::sin(a), -std::cos(a));
    }

    PlaneCells cells;
    const auto away = static_cast<std::size_t>(s.away);
    // Points: columns of the C; on a sharp edge the two banks of the cut share their points.
    std::vector<std::vector<int>> at(m, std::vector<int>(away + 1));
    for (std::size_t i = 0; i < m; ++i) {
        const double first = s.firstHeight + kWakeSlope * behind[i];
        const Vec2 reach = kReach * c * normal[i], far = end[i] - front[i];
        // A line that leaves along the normal and bends over to its far end.
        const auto place = [&](double t) -> Vec2 {
            const double bend = t * t * (3.0 - 2.0 * t), start = t * (1.0 - t) * (1.0 - t);
            return front[i] + bend * far + start * reach;
        };
        constexpr int kFine = 400;
        std::vector<double> length{0.0};
        const auto param = [](int k) { return std::pow(static_cast<double>(k) / kFine, 2.5); };
        for (int k = 1; k <= kFine; ++k)
            length.push_back(length.back() + (place(param(k)) - place(param(k - 1))).norm());
        const auto steps = stretched(length.back(), first, s.away);
        std::size_t k = 0;
        for (std::size_t j = 0; j <= away; ++j) {
            if (j == 0 && sharp && i > i1 && i < m) {
                at[i][0] = at[m - 1 - i][0];
                continue;
            }
            if (j == 0 && sharp && i == i1) {
                at[i][0] = at[i0][0];
                continue;
            }
            while (k + 2 < length.size() && length[k + 1] < steps[j]) ++k;
            const double f = std::clamp((steps[j] - length[k]) / (length[k + 1] - length[k]), 0.0, 1.0);
            const double t =
                param(static_cast<int>(k)) + f * (param(static_cast<int>(k) + 1) - param(static_cast<int>(k)));
            at[i][j] = static_cast<int>(cells.points.size());
            cells.points.push_back(j == 0 ? front[i] : j == away ? end[i] : place(t));
        }
    }
    for (std::size_t i = 0; i + 1 < m; ++i)
        for (std::size_t j = 0; j < away; ++j)
            cells.quads.push_back({at[i][j], at[i + 1][j], at[i + 1][j + 1], at[i][j + 1]});
    std::vector<char> onWall(cells.points.size(), 0), behindWake(cells.points.size(), 0);
    for (std::size_t i = i0; i <= i1; ++i) onWall[static_cast<std::size_t>(at[i][0])] = 1;
    std::vector<int> outlet;
    for (const std::size_t i : {std::size_t{0}, m - 1})
        for (std::size_t j = 0; j <= away; ++j) outlet.push_back(at[i][j]);
    if (!sharp) {
        // The block behind the base: rows between the two banks.
        const auto b = static_cast<std::size_t>(std::max(s.acrossBase, 2));
        std::vector<std::vector<int>> row(w + 1, std::vector<int>(b + 1));
        for (std::size_t k = 0; k <= w; ++k)
            for (std::size_t j = 0; j <= b; ++j) {
                const int lower = at[i0 - k][0], upper = at[i1 + k][0];
                if (j == 0 || j == b) {
                    row[k][j] = j == 0 ? lower : upper;
                    continue;
                }
                const double t =
                    0.5 * (1.0 - std::cos(std::acos(-1.0) * static_cast<double>(j) / static_cast<double>(b)));
                row[k][j] = static_cast<int>(cells.points.size());
                cells.points.push_back((1.0 - t) * cells.points[static_cast<std::size_t>(lower)] +
                                       t * cells.points[static_cast<std::size_t>(upper)]);
            }
        for (std::size_t k = 0; k < w; ++k)
            for (std::size_t j = 0; j < b; ++j)
                cells.quads.push_back({row[k][j], row[k + 1][j], row[k + 1][j + 1], row[k][j + 1]});
        onWall.resize(cells.points.size(), 0);
        for (const int p : row[0]) onWall[static_cast<std::size_t>(p)] = 1;
        for (const int p : row[w]) outlet.push_back(p);
    }
    std::vector<char> atOutlet(cells.points.size(), 0);
    for (const int p : outlet) atOutlet[static_cast<std::size_t>(p)] = 1;
    try {
        return planeGrid(cells, 1.0, [&](int a, int b) -> Patch {
            const auto A = static_cast<std::size_t>(a), B = static_cast<std::size_t>(b);
            if (onWall[A] && onWall[B]) return {"section", PatchKind::Wall, 0, -1, 0, 0};
            if (atOutlet[A] && atOutlet[B]) return {"x+", PatchKind::Side, -1, 1, 0, 0};
            return {"x-", PatchKind::Side, -1, 0, 0, 0};
        });
    } catch (const base::InputError&) {
        refuse("the cells about this outline fold.", "Refair the section, or take fewer cells away from the wall.");
        throw;
    }
}

}  // namespace cvane::grid
