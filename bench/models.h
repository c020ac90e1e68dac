#pragma once
#include <cmath>
#include <complex>
#include <utility>
#include <vector>

#include "shape/loft.h"
#include "shape/section.h"

namespace cvane::bench {

/// Rectangular half wing with unit chord along x from 0, root at y = 0, square tip.
inline shape::Surface rectangularHalfWing(double thickness, double halfSpan, int pointsASide, int stations) {
    shape::Surface s;
    auto line = shape::fourDigitSection(0.0, 0.4, thickness, pointsASide);
    line.pop_back();
    std::vector<std::vector<Vec3>> rings;
    for (int j = 0; j <= stations; ++j) {
        std::vector<Vec3> ring;
        for (const auto& [x, z] : line) ring.push_back({x, halfSpan * j / stations, z});
        rings.push_back(ring);
    }
    shape::addLoft(s, "wing", rings, false, true);
    shape::orientFacets(s);
    return s;
}

/// Wing section from the map of Karman and Trefftz, z = n ((w + 1)^n + (w - 1)^n) / ((w + 1)^n - (w - 1)^n), w on a
/// circle through w = 1 with its middle at -shift, n = 2 - edgeAngle / pi; scaled to unit chord along x from 0. Its
/// lift in potential flow is known.
struct MappedSection {
    double shift = 0.0, exponent = 2.0;
    static std::complex<double> map(std::complex<double> w, double n) {
        const auto a = std::pow(w + 1.0, n), b = std::pow(w - 1.0, n);
        return n * (a + b) / (a - b);
    }
    double leading() const { return map(-1.0 - 2.0 * shift, exponent).real(); }
    double chord() const { return exponent - leading(); }
    std::vector<std::pair<double, double>> line(int points) const {
        std::vector<std::pair<double, double>> xz;
        for (int i = 0; i < points; ++i) {
            const auto w = -shift + (1.0 + shift) * std::polar(1.0, 2.0 * std::acos(-1.0) * i / points);
            const auto z = i == 0 ? std::complex<double>(exponent) : map(w, exponent);
            xz.push_back({(z.real() - leading()) / chord(), z.imag() / chord()});
        }
        return xz;
    }
    /// cl = 8 pi (a / c) sin(alpha), from the circulation that lets the air leave the trailing edge smoothly.
    double lift(double alpha) const { return 8.0 * std::acos(-1.0) * (1.0 + shift) / chord() * std::sin(alpha); }
};

/// The section over y from -4 to 4.
inline shape::Surface sectionSlab(const MappedSection& section, int points) {
    shape::Surface s;
    std::vector<std::vector<Vec3>> rings;
    for (int j = 0; j <= 20; ++j) {
        std::vector<Vec3> ring;
        for (const auto& [x, z] : section.line(points)) ring.push_back({x, 8.0 * j / 20.0 - 4.0, z});
        rings.push_back(ring);
    }
    shape::addLoft(s, "section", rings, true, true);
    shape::orientFacets(s);
    return s;
}

inline shape::Surface sphere(double radius, int n) {
    shape::Surface s;
    shape::addSphere(s, "sphere", Vec3::Zero(), radius, n);
    shape::orientFacets(s);
    return s;
}

/// Cylinder along x with flat ends, its middle at the origin.
inline shape::Surface cylinder(double radius, double length, int around) {
    shape::Surface s;
    const double pi = std::acos(-1.0);
    std::vector<std::vector<Vec3>> rings;
    for (int j = 0; j <= 20; ++j) {
        std::vector<Vec3> ring;
        for (int i = 0; i < around; ++i)
            ring.push_back({length * (j / 20.0 - 0.5), radius * std::cos(2 * pi * i / around),
                            radius * std::sin(2 * pi * i / around)});
        rings.push_back(ring);
    }
    shape::addLoft(s, "cylinder", rings, true, true);
    shape::orientFacets(s);
    return s;
}

/// Solid half ball, the round side towards the wind and its flat side at x = 0.
inline shape::Surface hemisphere(double radius, int n) {
    shape::Surface s;
    const double pi = std::acos(-1.0);
    std::vector<std::vector<Vec3>> rings;
    for (int j = 1; j <= n / 2; ++j) {
        std::vector<Vec3> ring;
        const double theta = 0.5 * pi * j / (n / 2);
        for (int i = 0; i < n; ++i)
            ring.push_back({-radius * std::cos(theta), radius * std::sin(theta) * std::cos(2 * pi * i / n),
                            radius * std::sin(theta) * std::sin(2 * pi * i / n)});
        rings.push_back(ring);
    }
    shape::addLoft(s, "hemisphere", rings, true, true);
    shape::orientFacets(s);
    return s;
}

/// Box 1.044 x 0.389 x 0.288 m along x from 0 with its floor at z = 0, the four edges of its front rounded by 0.1 m;
/// the upper edge of its back cut off by `slant` [rad] over 0.222 m. After S. R. Ahmed, G. Ramm, G. Faltin, SAE 840300
/// (1984).
inline shape::Surface roundNosedBox(double slant) {
    constexpr double length = 1.044, width = 0.389, height = 0.288, radius = 0.1, cut = 0.222;
    constexpr int roundRings = 14, rings = 40, across = 16;
    const double pi = std::acos(-1.0);
    shape::Surface s;
    std::vector<std::vector<Vec3>> loft;
    const auto add = [&](double x, double inset, double top) {
        const double y = 0.5 * width - inset, low = inset, high = top - inset;
        std::vector<Vec3> ring;
        for (int side = 0; side < 4; ++side)
            for (int i = 0; i < across; ++i) {
                const double t = -1.0 + 2.0 * i / across, a = side % 2 == 0 ? t : 1.0, b = side % 2 == 0 ? -1.0 : t,
                             turn = side < 2 ? 1.0 : -1.0;
                ring.push_back({x, turn * a * y, 0.5 * (low + high) + 0.5 * turn * b * (high - low)});
            }
        loft.push_back(std::move(ring));
    };
    for (int i = 0; i <= roundRings; ++i) {
        const double angle = 0.5 * pi * i / roundRings;
        add(radius * (1.0 - std::cos(angle)), radius * (1.0 - std::sin(angle)), height);
    }
    const double bend = length - cut * std::cos(slant);
    for (int i = 1; i <= rings; ++i) add(radius + (bend - radius) * i / rings, 0.0, height);
    for (int i = 1; i <= rings / 4; ++i) {
        const double x = bend + (length - bend) * i / (rings / 4);
        add(x, 0.0, height - (x - bend) * std::tan(slant));
    }
    shape::addLoft(s, "box", loft, true, true);
    shape::orientFacets(s);
    return s;
}

/// Ellipsoid with its middle at the origin, its points mirrored at y = 0 and z = 0.
inline shape::Surface ellipsoid(const Vec3& axes, int n) {
    shape::Surface s = sphere(0.5, n);
    for (Vec3& p : s.points) p = p.cwiseProduct(axes);
    shape::orientFacets(s);
    return s;
}

/// Box between two corners as a part of its own.
inline void addBox(shape::Surface& s, const char* name, const Vec3& from, const Vec3& to) {
    const auto ring = [&](double x) {
        return std::vector<Vec3>{
            {x, from.y(), from.z()}, {x, to.y(), from.z()}, {x, to.y(), to.z()}, {x, from.y(), to.z()}};
    };
    shape::addLoft(s, name, {ring(from.x()), ring(to.x())}, true, true);
}

/// Plate of 1 x 0.5 x 0.05 m along x, in two pieces with a slot of 1 % of its length between them.
inline shape::Surface slottedPlate() {
    shape::Surface s;
    addBox(s, "front", {0.0, -0.25, 0.0}, {0.495, 0.25, 0.05});
    addBox(s, "rear", {0.505, -0.25, 0.0}, {1.0, 0.25, 0.05});
    shape::orientFacets(s);
    return s;
}

/// Box of 1 x 0.4 x 0.3 m with its floor at z = 0.
inline shape::Surface plainBox() {
    shape::Surface s;
    addBox(s, "box", {0.0, -0.2, 0.0}, {1.0, 0.2, 0.3});
    shape::orientFacets(s);
    return s;
}

inline shape::Surface cube(double side) {
    shape::Surface s;
    const double h = 0.5 * side;
    std::vector<std::vector<Vec3>> rings{{{-h, -h, -h}, {-h, h, -h}, {-h, h, h}, {-h, -h, h}},
                                         {{h, -h, -h}, {h, h, -h}, {h, h, h}, {h, -h, h}}};
    shape::addLoft(s, "cube", rings, true, true);
    shape::orientFacets(s);
    return s;
}

}  // namespace cvane::bench
