#include "panels/wakes.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <memory>
#include <numbers>

#include "shape/edges.h"

namespace cvane::panels {
namespace {
constexpr double kLeaves = 0.25;  // least share of the wind that goes out over the edge
// Of values at neighbours, in sum, that go into what is carried to an edge.
constexpr double kMostByQuadratic = 7.0, kMostByPlane = 5.0;
constexpr int kEndEdges = 4;        // at either end of a line, to which nothing is carried
constexpr double kLengths = 200.0;  // of a wake, in sizes of the model

// How many edges a wake's edge is from the end of its line, where the load goes to nothing and panels are small and
// odd. One an edge, kEndEdges where it is further.
std::vector<int> stepsFromEnd(const std::vector<WakeEdge>& edges) {
    const auto key = [](const Vec3& p) { return std::array{p.x(), p.y(), p.z()}; };
    std::map<std::array<double, 3>, std::vector<std::size_t>> at;
    for (std::size_t k = 0; k < edges.size(); ++k)
        for (const Vec3* p : {&edges[k].a, &edges[k].b}) at[key(*p)].push_back(k);
    std::vector<int> steps(edges.size(), kEndEdges);
    for (int step = 0; step < kEndEdges; ++step)
        for (std::size_t k = 0; k < edges.size(); ++k)
            for (const Vec3* p : {&edges[k].a, &edges[k].b}) {
                const auto& there = at[key(*p)];
                const bool ends = there.size() == 1;
                for (const auto j : there)
                    if (step == 0 ? ends : steps[j] == step - 1) steps[k] = std::min(steps[k], step);
            }
    return steps;
}
}  // namespace

std::vector<WakeEdge> trailingEdges(const Panels& p, const Vec3& direction, double turn) {
    std::vector<WakeEdge> out;
    for (const auto& e : shape::edgesOf(p.surface)) {
        if (e.uses.size() != 2) continue;
        const bool first = e.uses[0].forward;
        const auto i = static_cast<std::size_t>(e.uses[first ? 0 : 1].facet),
                   j = static_cast<std::size_t>(e.uses[first ? 1 : 0].facet);
        const Vec3 &a = p.surface.points[static_cast<std::size_t>(e.a)],
                   &b = p.surface.points[static_cast<std::size_t>(e.b)];
        const Vec3 along = (b - a).normalized();
        if (p.normal[i].dot(p.normal[j]) > std::cos(turn)) continue;
        // Out over the edge, in the plane of either side.
        const Vec3 overI = along.cross(p.normal[i]), overJ = -along.cross(p.normal[j]);
        if (direction.dot(overI) < kLeaves || direction.dot(overJ) < kLeaves) continue;
        out.push_back({a, b, i, j});
    }
    return out;
}

Wakes::Wakes(const Panels& panels, const BentPanels& bent, const SurfaceFit& fit, std::vector<WakeEdge> edges,
             const Vec3& direction, const Mirrors& mirrors)
    : edges_(std::move(edges)), direction_(direction), views_(mirrors.views()) {
    const double length = wakeLength(panels);
    const auto fromEnd = stepsFromEnd(edges_);
    for (std::size_t w = 0; w < edges_.size(); ++w) {
        const WakeEdge& e = edges_[w];
        const Vec3 middle = 0.5 * (e.a + e.b);
        std::vector<std::pair<std::size_t, double>> shares;
        const auto add = [&](std::size_t i, double sign) {
            const Vec3 way = middle - bent.place[i];
            // A quadratic where its neighbours stand all around, else a plane; where they are few on one side, as at a
            // tip or beside another wake, carried on they would carry anything.
            const auto reach = [&](const SurfaceFit::Stencil& of) {
                double sum = 0.0;
                for (const Vec3& w : of.weights) sum += 2.0 * std::abs(w.dot(way));
                return sum;
            };
            auto stencil = fit.stencils[i];
            if (reach(stencil) > kMostByQuadratic) stencil = fit.plane(i);
            if (fromEnd[w] < kEndEdges || reach(stencil) > kMostByPlane) stencil = {};
            double own = sign;
            for (std::size_t k = 0; k < stencil.panels.size(); ++k) {
                const double share = sign * stencil.weights[k].dot(way);
                shares.emplace_back(stencil.panels[k], share);
                own -= share;
            }
            shares.emplace_back(i, own);
        };
        add(e.upper, 1.0);
        add(e.lower, -1.0);
        jump_.push_back(std::move(shares));
    }
    at_.resize(static_cast<Eigen::Index>(panels.size()), static_cast<Eigen::Index>(edges_.size()));
#pragma omp parallel for schedule(dynamic, 8)
    for (std::size_t w = 0; w < edges_.size(); ++w) {
        const auto triangles = wakeSheet(edges_[w], direction, length);
        for (std::size_t i = 0; i < panels.size(); ++i) {
            double sum = 0.0;
            for (const auto& view : views_)
                for (const auto& t : triangles) sum += doubletAt(view(bent.place[i]), t);
            at_(static_cast<Eigen::Index>(i), static_cast<Eigen::Index>(w)) = static_cast<float>(sum);
        }
    }
}

std::function<bool(std::size_t, std::size_t)> wakesBetween(const Panels& p, const std::vector<WakeEdge>& edges,
                                                           const Vec3& direction) {
    // Seen along the wakes an edge is a line, and a pair of panels another; they cross, or they do not.
    const Vec3 s = direction.unitOrthogonal(), t = direction.cross(s);
    struct Line {
        Eigen::Vector2d a, b;
        double along;  // where the wake begins
    };
    auto lines = std::make_shared<std::vector<Line>>();
    for (const auto& e : edges)
        lines->push_back({{e.a.dot(s), e.a.dot(t)}, {e.b.dot(s), e.b.dot(t)}, 0.5 * (e.a + e.b).dot(direction)});
    return [lines, s, t, direction, &p](std::size_t i, std::size_t j) {
        const Eigen::Vector2d a(p.middle[i].dot(s), p.middle[i].dot(t)), b(p.middle[j].dot(s), p.middle[j].dot(t));
        const double along = std::min(p.middle[i].dot(direction), p.middle[j].dot(direction));
        const auto side = [](const Eigen::Vector2d& from, const Eigen::Vector2d& to, const Eigen::Vector2d& at) {
            return (to - from).x() * (at - from).y() - (to - from).y() * (at - from).x();
        };
        return std::any_of(lines->begin(), lines->end(), [&](const Line& l) {
            return along > l.along && (side(l.a, l.b, a) > 0.0) != (side(l.a, l.b, b) > 0.0) &&
                   (side(a, b, l.a) > 0.0) != (side(a, b, l.b) > 0.0);
        });
    };
}

double wakeLength(const Panels& panels) {
    return kLengths * panels.surface.bounds().size().norm();
}

std::array<Triangle, 2> wakeSheet(const WakeEdge& e, const Vec3& direction, double length) {
    const Vec3 far = length * direction;
    return {Triangle{e.b, e.a, e.a + far}, Triangle{e.b, e.a + far, e.b + far}};
}

Eigen::VectorXd Wakes::jumps(const Eigen::VectorXd& potential) const {
    Eigen::VectorXd out(static_cast<Eigen::Index>(edges_.size()));
    for (std::size_t w = 0; w < edges_.size(); ++w) {
        double sum = 0.0;
        for (const auto& [panel, share] : jump_[w]) sum += share * potential[static_cast<Eigen::Index>(panel)];
        out[static_cast<Eigen::Index>(w)] = sum;
    }
    return out;
}

Eigen::VectorXd Wakes::of(const Eigen::VectorXd& jumps) const {
    Eigen::VectorXd out = Eigen::VectorXd::Zero(at_.rows());
    const Eigen::Index rows = at_.rows(), block = 4096;
#pragma omp parallel for schedule(static)
    for (Eigen::Index first = 0; first < rows; first += block) {
        const Eigen::Index count = std::min(block, rows - first);
        for (Eigen::Index w = 0; w < at_.cols(); ++w)
            out.segment(first, count) += jumps[w] * at_.col(w).segment(first, count).cast<double>();
    }
    return out;
}

void Wakes::addTo(Eigen::MatrixXd& block, const std::vector<std::size_t>& panels) const {
    std::map<std::size_t, Eigen::Index> place;
    for (std::size_t k = 0; k < panels.size(); ++k) place[panels[k]] = static_cast<Eigen::Index>(k);
    for (std::size_t w = 0; w < edges_.size(); ++w) {
        if (!place.count(edges_[w].upper) && !place.count(edges_[w].lower)) continue;
        for (const auto& [panel, share] : jump_[w])
            if (const auto at = place.find(panel); at != place.end())
                for (std::size_t k = 0; k < panels.size(); ++k)
                    block(static_cast<Eigen::Index>(k), at->second) +=
                        share *
                        static_cast<double>(at_(static_cast<Eigen::Index>(panels[k]), static_cast<Eigen::Index>(w)));
    }
}

Wakes::Far Wakes::farBehind(const Eigen::VectorXd& jumps, const air::FreeStream& wind) const {
    // Wakes are seen as lines in the plane across; each ends in two vortices of its strength, which cancel where
    // neighbours are equally strong.
    const Vec3 s = direction_.unitOrthogonal(), t = direction_.cross(s);
    const auto in = [&](const Vec3& p) { return Eigen::Vector2d(p.dot(s), p.dot(t)); };
    Far far;
    const double mass = wind.air.density * wind.speed;
    for (std::size_t k = 0; k < edges_.size(); ++k) {
        const auto& e = edges_[k];
        const double strength = jumps[static_cast<Eigen::Index>(k)];
        const Vec3 middle = 0.5 * (e.a + e.b);
        // Normal of the sheet to its upper side times its width: (a - b) x direction.
        const Vec3 across = (e.a - e.b).cross(direction_);
        Vec3 velocity = Vec3::Zero();
        for (std::size_t view = 0; view < views_.size(); ++view) {
            // Seen from the image of the place; what is found there is turned back by the same mirror.
            const auto place = in(views_[view](middle));
            Eigen::Vector2d v(0.0, 0.0);
            for (std::size_t j = 0; j < edges_.size(); ++j) {
                const auto& o = edges_[j];
                for (const auto& [end, sign] : {std::pair{o.a, 1.0}, std::pair{o.b, -1.0}}) {
                    const Eigen::Vector2d r = place - in(end);
                    const double rr = r.squaredNorm();
                    if (rr > 0.0)
                        v += sign * jumps[static_cast<Eigen::Index>(j)] / (2.0 * std::numbers::pi * rr) *
                             Eigen::Vector2d(-r.y(), r.x());
                }
            }
            const Vec3 found = v.x() * s + v.y() * t;
            velocity += views_[view](found) - views_[view](Vec3::Zero());
        }
        far.drag += 0.5 * wind.air.density * strength * velocity.dot(across);
        far.force += mass * strength * across;
    }
    return far;
}

}  // namespace cvane::panels
