#include "grid/wall_projection.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <numeric>

namespace cvane::grid {

shape::TriangleTree::Nearest onModelInSides(const shape::TriangleTree& model, const Vec3& p, Sides sides,
                                            const Box& tunnel, double within, std::int32_t near) {
    if (sides == 0) return model.nearest(p, within, near);
    constexpr int kMostSteps = 12;
    constexpr double kAlong = 0.02,
                     kFarthest = 8.0;  // sine of the angle between model and side; most of a step, in distances
    Vec3 x = p;
    holdInSides(x, sides, tunnel);
    shape::TriangleTree::Nearest best{x};
    for (int i = 0; i < kMostSteps; ++i) {
        const auto hit = model.nearest(x, within, near);
        if (hit.facet < 0 || hit.distance >= best.distance) break;
        const double nearest = hit.distance;
        best = {x, nearest, hit.facet};
        if (nearest < 1e-12) break;
        // Newton's step for the distance, in the sides: from one to the other by turns would creep where they meet at a
        // small angle.
        const Vec3 towards = (hit.point - x) / nearest;
        Vec3 along = towards;
        dropSideParts(along, sides);
        const double sine = along.norm();
        if (sine < kAlong) {
            x = hit.point;
            holdInSides(x, sides, tunnel);
        } else {
            x += std::min(nearest / sine, kFarthest * nearest) / sine * along;
        }
    }
    return best;
}

void overNeighbours(std::size_t n, const std::function<std::int32_t(std::size_t, std::int32_t)>& visit) {
    constexpr std::size_t kRun = 256;
    const auto runs = static_cast<std::ptrdiff_t>((n + kRun - 1) / kRun);
#pragma omp parallel for schedule(dynamic, 4)
    for (std::ptrdiff_t r = 0; r < runs; ++r) {
        std::int32_t near = -1;
        for (auto i = static_cast<std::size_t>(r) * kRun; i < std::min(n, (static_cast<std::size_t>(r) + 1) * kRun);
             ++i)
            near = visit(i, near);
    }
}

WallImage projectToWall(const Staircase& s, const shape::TriangleTree& surface, const Box& tunnel) {
    WallImage w;
    w.wallOf.assign(s.points.size(), -1);
    const auto gap = s.gapFaces();
    for (const FaceDraft* f : gap) {
        for (const auto p : f->points) {
            auto& i = w.wallOf[static_cast<std::size_t>(p)];
            if (i < 0) {
                i = static_cast<std::int32_t>(w.point.size());
                w.point.push_back(p);
                w.size.push_back(1e300);
            }
            w.size[static_cast<std::size_t>(i)] =
                std::min(w.size[static_cast<std::size_t>(i)], s.cellSize[static_cast<std::size_t>(f->owner)]);
        }
    }
    const std::size_t n = w.point.size();
    w.ring.resize(n);
    for (const FaceDraft* f : gap)
        for (std::size_t k = 0; k < f->points.size(); ++k) {
            const auto a = w.wallOf[static_cast<std::size_t>(f->points[k])];
            const auto b = w.wallOf[static_cast<std::size_t>(f->points[(k + 1) % f->points.size()])];
            w.ring[static_cast<std::size_t>(a)].push_back(b);
            w.ring[static_cast<std::size_t>(b)].push_back(a);
        }
    for (auto& r : w.ring) {
        std::sort(r.begin(), r.end());
        r.erase(std::unique(r.begin(), r.end()), r.end());
    }
    for (int sweep = 0; sweep < 6; ++sweep) {
        std::vector<double> next(n);
        for (std::size_t i = 0; i < n; ++i) {
            double sum = 0.0;
            for (const auto j : w.ring[i]) sum += w.size[static_cast<std::size_t>(j)];
            next[i] = 0.5 * w.size[i] + 0.5 * sum / static_cast<double>(w.ring[i].size());
        }
        w.size = std::move(next);
    }

    w.onWall.resize(n);
    overNeighbours(n, [&](std::size_t i, std::int32_t near) {
        const auto p = static_cast<std::size_t>(w.point[i]);
        const auto hit = onModelInSides(surface, s.points[p], s.sidesOf[p], tunnel, 1e300, near);
        w.onWall[i] = hit.point;
        return hit.facet;
    });
    return w;
}

void evenOut(const Staircase& s, const shape::TriangleTree& surface, const Box& tunnel, std::span<const char> held,
             int sweeps, WallImage& w) {
    for (int sweep = 0; sweep < sweeps; ++sweep) {
        std::vector<Vec3> next = w.onWall;
        overNeighbours(next.size(), [&](std::size_t i, std::int32_t near) {
            const auto p = static_cast<std::size_t>(w.point[i]);
            if (held[i]) return near;
            Vec3 mean = Vec3::Zero();
            for (const auto j : w.ring[i]) mean += w.onWall[static_cast<std::size_t>(j)];
            mean /= static_cast<double>(w.ring[i].size());
            // Lifted towards the staircase, so that a thin edge does not send the point to its other side.
            const Vec3 lifted = 0.5 * (mean + w.onWall[i]) + 0.5 * (s.points[p] - w.onWall[i]);
            // The model is no farther than the image now is.
            const double reach = s.sidesOf[p] != 0 ? 1e300 : (lifted - w.onWall[i]).norm() + 1e-6 * w.size[i];
            const auto hit = onModelInSides(surface, lifted, s.sidesOf[p], tunnel, reach, near);
            next[i] = hit.point;
            return hit.facet;
        });
        w.onWall = std::move(next);
    }
}

void findNormals(const Staircase& s, WallImage& w) {
    const std::size_t n = w.point.size();
    const auto at = [&](std::size_t i) -> const Vec3& { return s.points[static_cast<std::size_t>(w.point[i])]; };
    const auto sides = [&](std::size_t i) { return s.sidesOf[static_cast<std::size_t>(w.point[i])]; };
    const auto gap = s.gapFaces();
    std::vector<Vec3> area(n, Vec3::Zero());
    w.inwards.assign(n, Vec3::Zero());
    for (const FaceDraft* f : gap) {
        // Staircase faces look from the air to the wall; the wall's normal into the air is the opposite.
        Vec3 mean = Vec3::Zero(), S = Vec3::Zero();
        for (const auto p : f->points)
            mean += w.onWall[static_cast<std::size_t>(w.wallOf[static_cast<std::size_t>(p)])];
        mean /= static_cast<double>(f->points.size());
        for (std::size_t k = 0; k < f->points.size(); ++k) {
            const Vec3& a = w.onWall[static_cast<std::size_t>(w.wallOf[static_cast<std::size_t>(f->points[k])])];
            const Vec3& b = w.onWall[static_cast<std::size_t>(
                w.wallOf[static_cast<std::size_t>(f->points[(k + 1) % f->points.size()])])];
            S -= 0.5 * (a - mean).cross(b - mean);
        }
        Vec3 step = Vec3::Zero();
        for (std::size_t k = 1; k + 1 < f->points.size(); ++k)
            step +=
                (s.points[static_cast<std::size_t>(f->points[k])] - s.points[static_cast<std::size_t>(f->points[0])])
                    .cross(s.points[static_cast<std::size_t>(f->points[k + 1])] -
                           s.points[static_cast<std::size_t>(f->points[0])]);
        for (const auto p : f->points) {
            area[static_cast<std::size_t>(w.wallOf[static_cast<std::size_t>(p)])] += S;
            w.inwards[static_cast<std::size_t>(w.wallOf[static_cast<std::size_t>(p)])] += step;
        }
    }
    for (std::size_t i = 0; i < n; ++i) {
        dropSideParts(w.inwards[i], sides(i));
        w.inwards[i].normalize();
    }
    w.normal.resize(n);
    for (std::size_t i = 0; i < n; ++i) {
        const Vec3 away = at(i) - w.onWall[i];
        Vec3 dir = away.normalized();
        if (area[i].norm() > 1e-6 * w.size[i] * w.size[i]) {
            const Vec3 face = area[i].normalized();
            if (face.dot(dir) > 0.0 || away.norm() < 0.05 * w.size[i]) dir = (face + dir).normalized();
        }
        dropSideParts(dir, sides(i));
        w.normal[i] = dir.normalized();
    }
    for (int sweep = 0; sweep < 3; ++sweep) {
        std::vector<Vec3> next(n);
        for (std::size_t i = 0; i < n; ++i) {
            Vec3 mean = Vec3::Zero();
            for (const auto j : w.ring[i]) mean += w.normal[static_cast<std::size_t>(j)];
            Vec3 v = w.normal[i] + 0.5 * mean / static_cast<double>(w.ring[i].size());
            dropSideParts(v, sides(i));
            next[i] = v.norm() > 1e-6 ? v.normalized() : w.normal[i];
        }
        w.normal = std::move(next);
    }
}

std::vector<Vec3> moveToOffset(const Staircase& s, const WallImage& w, double offset) {
    std::vector<Vec3> out = s.points;
    constexpr int kRings = 5;
    std::vector<std::uint8_t> ringOf(s.points.size(), 255);
    for (const auto p : w.point) ringOf[static_cast<std::size_t>(p)] = 0;
    const auto faces = static_cast<std::ptrdiff_t>(s.faces.size());
    const auto forEachEdge = [&](auto&& visit) {
#pragma omp parallel for schedule(static)
        for (std::ptrdiff_t i = 0; i < faces; ++i) {
            const auto& points = s.faces[static_cast<std::size_t>(i)].points;
            for (std::size_t k = 0; k < points.size(); ++k) visit(points[k], points[(k + 1) % points.size()]);
        }
    };
    const auto ringAt = [&](PointIndex p) { return std::atomic_ref(ringOf[static_cast<std::size_t>(p)]); };
    for (std::uint8_t r = 1; r <= kRings; ++r)
        forEachEdge([&](PointIndex a, PointIndex b) {
            const auto ra = ringAt(a).load(std::memory_order_relaxed), rb = ringAt(b).load(std::memory_order_relaxed);
            if (ra == r - 1 && rb == 255) ringAt(b).store(r, std::memory_order_relaxed);
            if (rb == r - 1 && ra == 255) ringAt(a).store(r, std::memory_order_relaxed);
        });
    // The neighbours of each point that gives way, one list behind the other. Threads fill them in any order; sorted
    // they are the same every time.
    const auto gives = [&](PointIndex p) {
        return ringOf[static_cast<std::size_t>(p)] != 0 && ringOf[static_cast<std::size_t>(p)] != 255;
    };
    std::vector<std::int32_t> start(s.points.size() + 1, 0);
    forEachEdge([&](PointIndex a, PointIndex b) {
        if (gives(a)) std::atomic_ref(start[static_cast<std::size_t>(a) + 1]).fetch_add(1, std::memory_order_relaxed);
        if (gives(b)) std::atomic_ref(start[static_cast<std::size_t>(b) + 1]).fetch_add(1, std::memory_order_relaxed);
    });
    std::partial_sum(start.begin(), start.end(), start.begin());
    std::vector<PointIndex> beside(static_cast<std::size_t>(start.back()));
    auto end = start;
    forEachEdge([&](PointIndex a, PointIndex b) {
        const auto note = [&](PointIndex p, PointIndex q) {
            if (gives(p))
                beside[static_cast<std::size_t>(
                    std::atomic_ref(end[static_cast<std::size_t>(p)]).fetch_add(1, std::memory_order_relaxed))] = q;
        };
        note(a, b);
        note(b, a);
    });
    std::vector<PointIndex> giving;
    for (std::size_t p = 0; p < s.points.size(); ++p)
        if (gives(static_cast<PointIndex>(p))) giving.push_back(static_cast<PointIndex>(p));
    const auto count = static_cast<std::ptrdiff_t>(giving.size());
#pragma omp parallel for schedule(static)
    for (std::ptrdiff_t i = 0; i < count; ++i) {
        const auto p = static_cast<std::size_t>(giving[static_cast<std::size_t>(i)]);
        std::sort(beside.begin() + start[p], beside.begin() + end[p]);
        end[p] =
            static_cast<std::int32_t>(std::unique(beside.begin() + start[p], beside.begin() + end[p]) - beside.begin());
    }

    std::vector<Vec3> shift(s.points.size(), Vec3::Zero());
    for (std::size_t i = 0; i < w.point.size(); ++i) {
        const auto p = static_cast<std::size_t>(w.point[i]);
        // Images that have run together on an edge or in a corner say nothing of where their staircase points belong.
        double closest = 1e300;
        for (const auto j : w.ring[i])
            closest = std::min(closest, (w.onWall[static_cast<std::size_t>(j)] - w.onWall[i]).norm());
        const double trust = std::clamp(closest / w.size[i] / 0.4 - 0.25, 0.0, 1.0);
        shift[p] = trust * (w.onWall[i] + offset * w.size[i] * w.normal[i] - s.points[p]);
    }
    // Laplace's equation for the shift between the wall and the rings beyond, which stay: cells share the strain
    // evenly.
    std::vector<Vec3> next(giving.size());
    for (int sweep = 0; sweep < 40; ++sweep) {
#pragma omp parallel for schedule(static)
        for (std::ptrdiff_t i = 0; i < count; ++i) {
            const auto p = static_cast<std::size_t>(giving[static_cast<std::size_t>(i)]);
            Vec3 sum = Vec3::Zero();
            for (auto k = start[p]; k < end[p]; ++k)
                sum += shift[static_cast<std::size_t>(beside[static_cast<std::size_t>(k)])];
            sum /= end[p] - start[p];
            dropSideParts(sum, s.sidesOf[p]);
            next[static_cast<std::size_t>(i)] = sum;
        }
        for (std::size_t i = 0; i < giving.size(); ++i) shift[static_cast<std::size_t>(giving[i])] = next[i];
    }
    for (std::size_t p = 0; p < out.size(); ++p) out[p] += shift[p];
    return out;
}

}  // namespace cvane::grid
