#include "section/outline/contour.h"

#include <algorithm>
#include <cmath>

#include "base/errors.h"

namespace cvane::section {
namespace {

/// Where the spline is farthest from the middle of the trailing edge.
double noseOf(const Spline& curve, const Vec2& tail) {
    const auto& s = curve.knots();
    std::size_t far = 0;
    double most = -1.0;
    for (std::size_t i = 0; i < s.size(); ++i)
        if (const double d = (curve.at(s[i]) - tail).squaredNorm(); d > most) most = d, far = i;
    double s0 = s[far > 0 ? far - 1 : 0], s1 = s[std::min(far + 1, s.size() - 1)];
    const auto slope = [&](double at) { return (curve.at(at) - tail).dot(curve.slope(at)); };
    if (slope(s0) < 0.0 || slope(s1) > 0.0) return s[far];
    for (int turn = 0; turn < 60; ++turn) {
        const double middle = 0.5 * (s0 + s1);
        (slope(middle) > 0.0 ? s0 : s1) = middle;
    }
    return 0.5 * (s0 + s1);
}

/// Top of the parabola through the largest of the values and its neighbours.
std::pair<double, double> peak(const std::vector<Vec2>& curve) {
    std::size_t k = 0;
    for (std::size_t i = 0; i < curve.size(); ++i)
        if (std::abs(curve[i].y()) > std::abs(curve[k].y())) k = i;
    if (k == 0 || k + 1 == curve.size()) return {curve[k].x(), curve[k].y()};
    const Vec2 &a = curve[k - 1], &b = curve[k], &c = curve[k + 1];
    const double left = (b.y() - a.y()) / (b.x() - a.x()), right = (c.y() - b.y()) / (c.x() - b.x());
    const double bend = (right - left) / (c.x() - a.x());
    if (std::abs(bend) < 1e-12) return {b.x(), b.y()};
    const double slope = left + bend * (b.x() - a.x());  // of the parabola at b
    const double x = std::clamp(b.x() - 0.5 * slope / bend, a.x(), c.x()), t = x - b.x();
    return {x, b.y() + slope * t + bend * t * t};
}

}  // namespace

double heightAt(const std::vector<Vec2>& side, double x) {
    const auto it = std::lower_bound(side.begin(), side.end(), x, [](const Vec2& p, double at) { return p.x() < at; });
    if (it == side.begin()) return side.front().y();
    if (it == side.end()) return side.back().y();
    const Vec2& a = *(it - 1);
    const double w = it->x() > a.x() ? (x - a.x()) / (it->x() - a.x()) : 1.0;
    return a.y() + w * (it->y() - a.y());
}

Figures measure(const Contour& contour) {
    if (contour.points.size() < 5)
        throw base::InputError("an outline needs at least five points.", contour.name, "Give more points.");
    const Spline curve(contour.points);
    Figures f;
    f.tail = contour.trailingEdge();
    const double nose = noseOf(curve, f.tail);
    f.nose = curve.at(nose);
    if (f.nose.norm() < kPlaced && (f.tail - Vec2(1.0, 0.0)).norm() < kPlaced)
        f.nose = Vec2(0.0, 0.0), f.tail = Vec2(1.0, 0.0);
    const Vec2 along = f.tail - f.nose;
    f.chord = along.norm();
    if (!(f.chord > 1e-9))
        throw base::InputError("the chord has no length.", contour.name, "Give points from nose to tail.");
    f.angle = std::atan2(-along.y(), along.x());
    const Vec2 ex = along / f.chord, ez(-ex.y(), ex.x());
    const auto local = [&](double s) {
        const Vec2 d = curve.at(s) - f.nose;
        return Vec2(d.dot(ex) / f.chord, d.dot(ez) / f.chord);
    };
    std::vector<Vec2> upper, lower;
    const int fine = 400;
    for (int i = 0; i <= fine; ++i) {
        const double w = std::pow(static_cast<double>(i) / fine, 1.5);
        upper.push_back(local(nose * (1.0 - w)));
        lower.push_back(local(nose + (curve.length() - nose) * w));
    }
    for (const double x : cosinePlaces(200)) {
        const double top = heightAt(upper, x), bottom = heightAt(lower, x);
        f.meanLine.push_back({x, 0.5 * (top + bottom)});
        f.halfDepth.push_back({x, 0.5 * (top - bottom)});
    }
    std::tie(f.thicknessAt, f.thickness) = peak(f.halfDepth);
    f.thickness *= 2.0;
    std::tie(f.camberAt, f.camber) = peak(f.meanLine);
    const double bend = std::abs(curve.curvature(nose)) * f.chord;
    f.noseRadius = bend > 1e-9 ? 1.0 / bend : 0.0;
    f.gap = (contour.points.front() - contour.points.back()).norm() / f.chord;
    const Vec2 up = -curve.slope(0.0).normalized(), down = curve.slope(curve.length()).normalized();
    f.trailingAngle = std::acos(std::clamp(up.dot(down), -1.0, 1.0));
    return f;
}

Contour onUnitChord(const Contour& contour) {
    const Figures f = measure(contour);
    const Vec2 ex = (f.tail - f.nose) / f.chord, ez(-ex.y(), ex.x());
    Contour out{contour.name, {}};
    for (const Vec2& p : contour.points) {
        const Vec2 d = (p - f.nose) / f.chord;
        out.points.push_back({d.dot(ex), d.dot(ez)});
    }
    return out;
}

TwoSides sidesOf(const Contour& contour) {
    const Vec2 tail = contour.trailingEdge();
    const auto far = std::max_element(contour.points.begin(), contour.points.end(), [&](const Vec2& a, const Vec2& b) {
        return (a - tail).squaredNorm() < (b - tail).squaredNorm();
    });
    TwoSides out{{contour.points.begin(), far + 1}, {far, contour.points.end()}};
    std::reverse(out.upper.begin(), out.upper.end());
    return out;
}

Contour fromSides(std::string name, const std::vector<Vec2>& upper, const std::vector<Vec2>& lower) {
    Contour out{std::move(name), {upper.rbegin(), upper.rend()}};
    const double size = (upper.back() - upper.front()).norm();
    const bool shared = (upper.front() - lower.front()).norm() < 1e-9 * size;
    out.points.insert(out.points.end(), lower.begin() + (shared ? 1 : 0), lower.end());
    return out;
}

Contour fromOrdinates(std::string name, const std::vector<Ordinate>& stations) {
    std::vector<Vec2> upper, lower;
    for (const Ordinate& s : stations) {
        const Vec2 across = Vec2(-s.slope, 1.0).normalized();
        const Vec2 mean(s.x, s.camber);
        upper.push_back(mean + s.half * across);
        lower.push_back(mean - s.half * across);
    }
    return fromSides(std::move(name), upper, lower);
}

std::vector<double> cosinePlaces(int n) {
    std::vector<double> x;
    for (int i = 0; i <= n; ++i) x.push_back(0.5 * (1.0 - std::cos(std::acos(-1.0) * i / n)));
    return x;
}

}  // namespace cvane::section
