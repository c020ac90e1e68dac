#include "lifting/bodies.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace cvane::lifting {
namespace {
constexpr int kSlices = 200;

struct Slice {
    double x, z, width, height, power;
};
Slice at(const wing::Body& b, double x) {
    std::size_t i = 0;
    while (i + 2 < b.stations.size() && x > b.stations[i + 1].x) ++i;
    const auto &p = b.stations[i], &q = b.stations[i + 1];
    const double share = std::clamp((x - p.x) / (q.x - p.x), 0.0, 1.0);
    const auto mix = [&](double u, double v) { return u + share * (v - u); };
    return {x, mix(p.z, q.z), mix(p.width, q.width), mix(p.height, q.height), mix(p.power, q.power)};
}
// Of a superellipse: w h Gamma(1 + 1/n)^2 / Gamma(1 + 2/n).
double area(const Slice& s) {
    const double g = std::tgamma(1.0 + 1.0 / s.power);
    return s.width * s.height * g * g / std::tgamma(1.0 + 2.0 / s.power);
}
double perimeter(const Slice& s) {
    constexpr int kPlaces = 64;
    double sum = 0.0;
    Eigen::Vector2d last;
    for (int k = 0; k <= kPlaces; ++k) {
        const double t = 2.0 * std::numbers::pi * k / kPlaces;
        const auto reach = [&](double v) { return std::copysign(std::pow(std::abs(v), 2.0 / s.power), v); };
        const Eigen::Vector2d p(0.5 * s.width * reach(std::cos(t)), 0.5 * s.height * reach(std::sin(t)));
        if (k > 0) sum += (p - last).norm();
        last = p;
    }
    return sum;
}
}  // namespace

BodyLoad loadOf(const wing::Body& b, const air::FreeStream& wind, const Vec3& centre) {
    BodyLoad out;
    const double from = b.stations.front().x, to = b.stations.back().x, step = (to - from) / kSlices;
    const Vec3 v = wind.velocity() / wind.speed;
    const double q = wind.dynamicPressure();
    double widest = 0.0;
    for (int k = 0; k < kSlices; ++k) {
        const auto a = at(b, from + k * step), c = at(b, from + (k + 1) * step), m = at(b, from + (k + 0.5) * step);
        const double growth = area(c) - area(a);
        widest = std::max(widest, area(m));
        out.wetted += std::hypot(step, 0.25 * (c.width - a.width + c.height - a.height)) * perimeter(m);
        const Vec3 force = 2.0 * q * v.x() * growth * Vec3(0.0, v.y(), v.z());
        const Vec3 place = b.place + Vec3(m.x, 0.0, m.z);
        out.force += force;
        out.moment += (place - centre).cross(force);
    }
    // Prandtl and Schlichting's friction of a plate that is turbulent from its front edge.
    const double length = to - from, reynolds = std::max(1e4, wind.reynolds(length)),
                 cf = 0.455 / std::pow(std::log10(reynolds), 2.58),
                 slender = 2.0 * std::sqrt(widest / std::numbers::pi) / length;
    out.friction = q * out.wetted * cf * (1.0 + 1.5 * std::pow(slender, 1.5) + 7.0 * std::pow(slender, 3.0));
    if (b.mirrored) {
        // Of the image forces along y point the other way.
        BodyLoad image = out;
        const Vec3 away = 2.0 * b.place.y() * Vec3::UnitY();
        image.moment = out.moment - away.cross(out.force);
        out.force += image.force;
        out.moment += image.moment;
        out.friction *= 2.0;
        out.wetted *= 2.0;
    }
    const Vec3 drag = out.friction * v;
    Vec3 middle = b.place + Vec3(0.5 * (from + to), 0.0, 0.0);
    if (b.mirrored) middle.y() = 0.0;
    out.force += drag;
    out.moment += (middle - centre).cross(drag);
    return out;
}

}  // namespace cvane::lifting
