#include "vehicle/body_skin.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/errors.h"
#include "base/units.h"
#include "vehicle/rounded_line.h"

namespace cvane::vehicle {
namespace {
constexpr int kEdgePieces = 6;    // of the quarter round an edge
constexpr double kChord = 4e-4;   // that arcs stand off, in lengths of the profile
constexpr double kStations = 60;  // at least so many along it

double areaOf(const std::vector<Corner>& c) {
    double sum = 0.0;
    for (std::size_t k = 0; k < c.size(); ++k) {
        const auto &a = c[k], &b = c[(k + 1) % c.size()];
        sum += 0.5 * (a.x * b.z - b.x * a.z);
    }
    return sum;
}

// Half width at each x, by straight pieces between its rounded line's places.
class Plan {
  public:
    Plan(const std::vector<Corner>& corners, double chord, const std::string& where) {
        if (corners.size() == 1) {
            places_ = {{0.0, corners[0].z}};
            return;
        }
        for (const auto& p : RoundedLine(corners, false, chord, where).inset(0.0)) places_.emplace_back(p.x(), p.y());
        std::stable_sort(places_.begin(), places_.end(),
                         [](const auto& a, const auto& b) { return a.first < b.first; });
    }
    double at(double x) const {
        if (x <= places_.front().first) return places_.front().second;
        if (x >= places_.back().first) return places_.back().second;
        const auto after =
            std::upper_bound(places_.begin(), places_.end(), x, [](double v, const auto& p) { return v < p.first; });
        const auto before = after - 1;
        const double way = after->first - before->first;
        return before->second + (way > 0.0 ? (x - before->first) / way : 0.0) * (after->second - before->second);
    }
    std::vector<double> stations() const {
        std::vector<double> out;
        for (const auto& p : places_) out.push_back(p.first);
        return out;
    }

  private:
    std::vector<std::pair<double, double>> places_;
};

// Cuts what a closed line encloses into triangles whose corners are its own, slab by slab between stations.
// @param station  of each corner, by which alone it is known where along x it lies
std::vector<std::array<std::int32_t, 3>> slabs(const std::vector<Point2>& ring, const std::vector<std::size_t>& station,
                                               std::size_t stations) {
    const auto n = static_cast<std::int32_t>(ring.size());
    std::vector<std::vector<std::int32_t>> on(stations);
    struct Side {
        std::int32_t left, right;
    };
    std::vector<std::vector<Side>> through(stations);
    for (std::int32_t k = 0; k < n; ++k) {
        const std::int32_t m = (k + 1) % n;
        const auto a = station[static_cast<std::size_t>(k)], b = station[static_cast<std::size_t>(m)];
        on[a].push_back(k);
        if (a + 1 == b) through[a].push_back({k, m});
        if (b + 1 == a) through[b].push_back({m, k});
    }
    const auto z = [&](std::int32_t k) { return ring[static_cast<std::size_t>(k)].y(); };
    std::vector<std::array<std::int32_t, 3>> out;
    for (std::size_t s = 0; s + 1 < stations; ++s) {
        auto& sides = through[s];
        std::sort(sides.begin(), sides.end(),
                  [&](const Side& p, const Side& q) { return z(p.left) + z(p.right) < z(q.left) + z(q.right); });
        for (std::size_t k = 0; k + 1 < sides.size(); k += 2) {
            const auto chain = [&](std::size_t at, std::int32_t low, std::int32_t high) {
                std::vector<std::int32_t> c{low};
                for (const auto p : on[at])
                    if (p != low && p != high && z(p) > z(low) && z(p) < z(high)) c.push_back(p);
                std::sort(c.begin() + 1, c.end(), [&](auto p, auto q) { return z(p) < z(q); });
                if (high != low) c.push_back(high);
                return c;
            };
            const auto left = chain(s, sides[k].left, sides[k + 1].left),
                       right = chain(s + 1, sides[k].right, sides[k + 1].right);
            std::size_t i = 0, j = 0;
            while (i + 1 < left.size() || j + 1 < right.size()) {
                const bool climbLeft =
                    j + 1 >= right.size() || (i + 1 < left.size() && z(left[i + 1]) < z(right[j + 1]));
                if (climbLeft) {
                    out.push_back({left[i], right[j], left[i + 1]});
                    ++i;
                } else {
                    out.push_back({left[i], right[j], right[j + 1]});
                    ++j;
                }
            }
        }
    }
    return out;
}
}  // namespace

void addDrawnOut(shape::Surface& s, const std::string& part, const std::vector<Corner>& profile,
                 const std::vector<Corner>& halfWidth, double edge, const Vec3& place, double turn) {
    double low = 1e300, high = -1e300, narrowest = 1e300;
    for (const auto& c : profile) {
        low = std::min(low, c.x);
        high = std::max(high, c.x);
    }
    const double length = high - low;
    const Plan plan(halfWidth, kChord * length, part + ", plan");
    RoundedLine line(profile, true, kChord * length, part + ", profile");
    if (const auto [room, corner] = line.room(edge); room < edge)
        throw base::InputError(
            fmt::format("its edge's radius {:.3g} m has no room at x {:.3g} m, z {:.3g} m: {:.3g} m is "
                        "the most.",
                        edge, profile[corner].x, profile[corner].z, room),
            part, "Make the edge's radius smaller.");
    // Straight pieces are cut where the sides' triangles need corners.
    std::vector<double> stations = plan.stations();
    for (int k = 1; k < kStations; ++k) stations.push_back(low + length * k / kStations);
    for (const auto& p : line.inset(edge)) stations.push_back(p.x());
    std::sort(stations.begin(), stations.end());
    const double near = 1e-7 * length;
    stations.erase(std::unique(stations.begin(), stations.end(), [&](double a, double b) { return b - a < near; }),
                   stations.end());
    const auto station = line.cutAt(stations, edge);
    const auto inner = line.inset(edge);
    for (const auto& p : inner) narrowest = std::min(narrowest, plan.at(p.x()));
    if (edge >= narrowest)
        throw base::InputError(
            fmt::format("its edge's radius {:.3g} m is not below its half width {:.3g} m.", edge, narrowest), part,
            "Make the edge's radius smaller, or the body wider.");
    const auto id = static_cast<std::int32_t>(s.parts.size());
    s.parts.push_back({part});
    const auto first = static_cast<std::int32_t>(s.points.size());
    const auto n = static_cast<std::int32_t>(inner.size());
    const double co = std::cos(turn), si = std::sin(turn);
    const auto add = [&](const Point2& p, double y) {
        // Nose up: the tail goes down.
        s.points.push_back(place + Vec3(co * p.x() + si * p.y(), y, -si * p.x() + co * p.y()));
    };
    // Rings from port to starboard: round one edge, straight across, round the other.
    const int pieces = edge > 0.0 ? kEdgePieces : 0;
    const int rings = 2 * (pieces + 1);
    for (int r = 0; r < rings; ++r) {
        const bool port = r <= pieces;
        const int step = port ? r : rings - 1 - r;
        const double angle = pieces > 0 ? 0.5 * std::numbers::pi * step / pieces : 0.0;
        const double in = edge * (1.0 - std::sin(angle)), back = edge * (1.0 - std::cos(angle));
        const auto places = line.inset(in);
        for (std::size_t k = 0; k < places.size(); ++k) {
            const double half = plan.at(inner[k].x()) - back;
            add(places[k], port ? -half : half);
        }
    }
    const auto facet = [&](std::int32_t a, std::int32_t b, std::int32_t c) {
        s.facets.push_back({a, b, c});
        s.partOf.push_back(id);
    };
    for (std::int32_t r = 0; r + 1 < rings; ++r)
        for (std::int32_t k = 0; k < n; ++k) {
            const std::int32_t m = (k + 1) % n, a = first + r * n + k, b = first + r * n + m, c = a + n, d = b + n;
            facet(a, b, d);
            facet(a, d, c);
        }
    for (const auto& t : slabs(inner, station, stations.size())) {
        facet(first + t[0], first + t[1], first + t[2]);
        const std::int32_t last = first + (rings - 1) * n;
        facet(last + t[0], last + t[2], last + t[1]);
    }
}

Box bodyBox(const Outline& o) {
    double half = 0.0;
    for (const auto& p : o.plan) half = std::max(half, p.z);
    Box box;
    for (const auto& c : o.profile)
        for (const double y : {-half, half}) box.add(Vec3(c.x, y, c.z + o.clearance));
    return box;
}

std::vector<Corner> profileOf(const Outline& o) {
    std::vector<Corner> out = o.profile;
    if (areaOf(out) < 0.0) std::reverse(out.begin(), out.end());
    if (o.diffuserLength > 0.0 && o.diffuser_deg > 0.0) {
        // The rearmost of the lowest corners goes up; another one stays where the slope begins.
        double lowest = 1e300;
        for (const auto& c : out) lowest = std::min(lowest, c.z);
        std::size_t rear = 0;
        double far = -1e300;
        for (std::size_t k = 0; k < out.size(); ++k)
            if (out[k].z < lowest + 1e-9 && out[k].x > far) {
                far = out[k].x;
                rear = k;
            }
        const Corner at = out[rear];
        out[rear].z += o.diffuserLength * std::tan(o.diffuser_deg * base::degree);
        // Turning to the left the underside is gone along from nose to tail.
        out.insert(out.begin() + static_cast<std::ptrdiff_t>(rear), {at.x - o.diffuserLength, at.z, 0.0});
    }
    for (auto& c : out) c.z += o.clearance;
    return out;
}

shape::Surface skinOf(const Outline& o) {
    check(o);
    shape::Surface s;
    addDrawnOut(s, "body", profileOf(o), o.plan, o.edge, Vec3::Zero(), 0.0);
    for (const auto& w : o.wheels) {
        std::vector<Corner> round;
        constexpr int kSides = 48;
        for (int k = 0; k < kSides; ++k) {
            const double a = 2.0 * std::numbers::pi * k / kSides;
            round.push_back({w.radius * std::cos(a), w.radius * std::sin(a), 0.0});
        }
        const double half = 0.5 * w.track;
        const auto add = [&](const std::string& name, double y) {
            addDrawnOut(s, name, round, {{0.0, 0.5 * w.width, 0.0}}, w.edge, Vec3(w.x, y, w.radius), 0.0);
        };
        if (half > 0.0) {
            add(w.name + ", starboard", half);
            add(w.name + ", port", -half);
        } else {
            add(w.name, 0.0);
        }
    }
    for (const auto& p : o.plates) {
        const double a = 0.5 * p.length, b = 0.5 * p.height;
        const std::vector<Corner> box{{-a, -b, p.edge}, {a, -b, p.edge}, {a, b, p.edge}, {-a, b, p.edge}};
        const auto add = [&](const std::string& name, const Vec3& middle) {
            addDrawnOut(s, name, box, {{0.0, 0.5 * p.width, 0.0}}, p.edge, middle, p.angle_deg * base::degree);
        };
        add(p.mirrored ? p.name + ", starboard" : p.name, p.middle);
        if (p.mirrored) add(p.name + ", port", Vec3(p.middle.x(), -p.middle.y(), p.middle.z()));
    }
    shape::weld(s);
    // Arcs that have shrunk to a point have left facets without an area.
    std::size_t kept = 0;
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        const auto& t = s.facets[f];
        if (t[0] == t[1] || t[1] == t[2] || t[2] == t[0]) continue;
        s.facets[kept] = t;
        s.partOf[kept++] = s.partOf[f];
    }
    s.facets.resize(kept);
    s.partOf.resize(kept);
    shape::orientFacets(s);
    return s;
}

}  // namespace cvane::vehicle
