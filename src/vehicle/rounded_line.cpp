#include "vehicle/rounded_line.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"

namespace cvane::vehicle {
namespace {
double cross(const Point2& a, const Point2& b) {
    return a.x() * b.y() - a.y() * b.x();
}
Point2 leftOf(const Point2& d) {
    return {-d.y(), d.x()};
}
}  // namespace

RoundedLine::RoundedLine(const std::vector<Corner>& corners, bool closed, double chord, const std::string& where)
    : closed_(closed) {
    const std::size_t n = corners.size();
    const auto at = [&](std::size_t k) { return Point2(corners[k % n].x, corners[k % n].z); };
    std::vector<double> taken(n, 0.0);  // of the sides by a corner's arc
    for (std::size_t k = 0; k < n; ++k) {
        Round r;
        r.at = at(k);
        const bool first = !closed && k == 0, last = !closed && k + 1 == n;
        const Point2 in = at(k) - at(k + n - 1), out = at(k + 1) - at(k);
        if ((!first && in.norm() < 1e-9) || (!last && out.norm() < 1e-9))
            throw base::InputError(fmt::format("corner {} lies where its neighbour does.", k + 1), where,
                                   "Move it, or take it out.");
        r.in = first ? out.normalized() : in.normalized();
        r.out = last ? in.normalized() : out.normalized();
        r.turn = std::atan2(cross(r.in, r.out), r.in.dot(r.out));
        r.radius = first || last ? 0.0 : corners[k].radius;
        if (std::abs(r.turn) > 3.1)
            throw base::InputError(fmt::format("at corner {} the line turns back on itself.", k + 1), where,
                                   "Move it, or take it out.");
        taken[k] = std::abs(r.turn) < 1e-6 ? 0.0 : r.radius * std::tan(0.5 * std::abs(r.turn));
        rounds_.push_back(r);
    }
    for (std::size_t k = 0; k + (closed ? 0 : 1) < n; ++k) {
        const double side = (at(k + 1) - at(k)).norm(), used = taken[k] + taken[(k + 1) % n];
        if (used > side * (1.0 + 1e-9)) {
            const std::size_t larger = taken[k] >= taken[(k + 1) % n] ? k : (k + 1) % n;
            throw base::InputError(fmt::format("the radius {:.3g} m of corner {} has no room: its side is {:.3g} m "
                                               "long and the arcs take {:.3g} m of it.",
                                               rounds_[larger].radius, larger + 1, side, used),
                                   where, "Make the radius smaller, or the side longer.");
        }
    }
    for (std::size_t k = 0; k < n; ++k) {
        const Round& r = rounds_[k];
        if (r.radius <= 0.0 || std::abs(r.turn) < 1e-6) {
            places_.push_back({k, Point2::Zero()});
            continue;
        }
        // Chords of an arc stand off it by R (1 - cos(step / 2)).
        const double step = 2.0 * std::acos(std::max(1.0 - chord / r.radius, 0.5));
        const int pieces = std::clamp(static_cast<int>(std::ceil(std::abs(r.turn) / step)), 2, 48);
        const double sign = r.turn > 0.0 ? -1.0 : 1.0;  // the centre is to the left of a turn to the left
        for (int i = 0; i <= pieces; ++i) {
            const double angle = r.turn * i / pieces;
            const Point2 start = sign * leftOf(r.in);
            places_.push_back({k,
                               {start.x() * std::cos(angle) - start.y() * std::sin(angle),
                                start.x() * std::sin(angle) + start.y() * std::cos(angle)}});
        }
    }
}

Point2 RoundedLine::mitre(std::size_t k, double d) const {
    const Round& r = rounds_[k];
    const Point2 bisector = leftOf(r.in) + leftOf(r.out);
    return r.at + 2.0 * d / bisector.squaredNorm() * bisector;
}

Point2 RoundedLine::arc(std::size_t k, const Point2& direction, double d) const {
    const Round& r = rounds_[k];
    const double sign = r.turn > 0.0 ? 1.0 : -1.0;
    // A turn to the left has its centre inwards: its arc grows smaller on the way there.
    const double radius = r.radius - sign * d;
    if (radius <= 0.0) return mitre(k, d);
    const Point2 bisector = (leftOf(r.in) + leftOf(r.out)).normalized();
    const Point2 centre = r.at + sign * r.radius / std::cos(0.5 * r.turn) * bisector;
    return centre + radius * direction;
}

std::pair<Point2, Point2> RoundedLine::straight(std::size_t k, double d) const {
    const std::size_t next = (k + 1) % rounds_.size();
    const auto end = [&](std::size_t c, bool leaving) {
        const Round& r = rounds_[c];
        if (r.radius <= 0.0 || std::abs(r.turn) < 1e-6) return mitre(c, d);
        const double sign = r.turn > 0.0 ? -1.0 : 1.0;
        return arc(c, sign * leftOf(leaving ? r.out : r.in), d);
    };
    return {end(k, true), end(next, false)};
}

std::vector<Point2> RoundedLine::placesAt(double d) const {
    std::vector<Point2> out;
    out.reserve(places_.size());
    for (const auto& p : places_)
        out.push_back(p.direction.isZero() ? mitre(p.corner, d) : arc(p.corner, p.direction, d));
    return out;
}

std::vector<Point2> RoundedLine::inset(double d) const {
    const auto places = placesAt(d);
    if (cuts_.empty()) return places;
    std::vector<Point2> out;
    out.reserve(cuts_.size());
    for (const auto& c : cuts_) {
        const Point2 &a = places[c.place], &b = places[(c.place + 1) % places.size()];
        out.push_back(a + c.share * (b - a));
    }
    return out;
}

std::vector<std::size_t> RoundedLine::cutAt(const std::vector<double>& x, double d) {
    const auto places = placesAt(d);
    const auto numberOf = [&](double v) {
        const auto after = static_cast<std::size_t>(std::lower_bound(x.begin(), x.end(), v) - x.begin());
        if (after == 0) return after;
        return after == x.size() || v - x[after - 1] < x[after] - v ? after - 1 : after;
    };
    cuts_.clear();
    std::vector<std::size_t> number;
    for (std::size_t k = 0; k < places.size(); ++k) {
        const Point2 &a = places[k], &b = places[(k + 1) % places.size()];
        const auto i = numberOf(a.x()), j = numberOf(b.x());
        cuts_.push_back({k, 0.0});
        number.push_back(i);
        if (!closed_ && k + 1 == places.size()) break;
        for (std::size_t m = i; m != j;) {
            m = i < j ? m + 1 : m - 1;
            if (m == j) break;
            cuts_.push_back({k, std::clamp((x[m] - a.x()) / (b.x() - a.x()), 0.0, 1.0)});
            number.push_back(m);
        }
    }
    return number;
}

std::pair<double, std::size_t> RoundedLine::room(double most) const {
    const std::size_t sides = rounds_.size() - (closed_ ? 0 : 1);
    for (int step = 1; step <= 64; ++step) {
        const double d = most * step / 64.0;
        for (std::size_t k = 0; k < sides; ++k) {
            const auto [a, b] = straight(k, d);
            if ((b - a).dot(rounds_[k].out) < -1e-9) return {most * (step - 1) / 64.0, k};
        }
    }
    return {most, 0};
}

}  // namespace cvane::vehicle
