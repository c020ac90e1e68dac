#include "section/outline/laminar_form.h"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <complex>

#include "base/errors.h"

namespace cvane::section {
namespace {
using Complex = std::complex<double>;

constexpr int kPoints = 512;         ///< along the half circle
constexpr int kTerms = 128;          ///< of the series
constexpr double kTailAngle = 0.04;  ///< e: 7 degrees
const double pi = std::acos(-1.0);

double phiAt(int i) {
    return pi * (i + 0.5) / kPoints;  // from the tail to the nose
}

/// a_n of an even function given at phiAt.
std::vector<double> cosineSeries(const std::vector<double>& f) {
    static const Eigen::MatrixXd waves = [] {
        Eigen::MatrixXd w(kTerms, kPoints);
        for (int n = 0; n < kTerms; ++n)
            for (int i = 0; i < kPoints; ++i) w(n, i) = (n == 0 ? 1.0 : 2.0) / kPoints * std::cos(n * phiAt(i));
        return w;
    }();
    const Eigen::VectorXd a = waves * Eigen::Map<const Eigen::VectorXd>(f.data(), kPoints);
    return {a.begin(), a.end()};
}

struct Half {
    std::vector<Vec2> place;  ///< at phi_i, nose at (0, 0), tail at (1, 0)
    double thickness = 0.0;
};

/// Integrates dz along the half circle.
Half mapped(const std::vector<double>& a) {
    std::vector<Complex> z(kPoints + 1);
    for (int i = 0; i < kPoints; ++i) {
        const double phi = phiAt(i);
        const Complex back = std::polar(1.0, -phi);
        Complex sum = 0.0, power = back;
        for (int n = 1; n < kTerms; ++n, power *= back) sum += a[static_cast<std::size_t>(n)] * power;
        const Complex slope = std::pow(1.0 - back, 1.0 - kTailAngle) * std::exp(sum);
        z[static_cast<std::size_t>(i + 1)] =
            z[static_cast<std::size_t>(i)] + slope * Complex(0.0, 1.0) * std::polar(1.0, phi) * (pi / kPoints);
    }
    Half out;
    const Complex nose = z.back();
    const double chord = std::abs(nose.real());
    for (int i = 0; i < kPoints; ++i) {  // middle of the steps, where phi_i is
        const Complex m = 0.5 * (z[static_cast<std::size_t>(i)] + z[static_cast<std::size_t>(i + 1)]);
        out.place.push_back({(m.real() - nose.real()) / chord, m.imag() / chord});
        out.thickness = std::max(out.thickness, 2.0 * out.place.back().y());
    }
    return out;
}

/// The section for one roundness of the nose. x: places of phi_i, a guess and the result.
Half formFor(double roundness, double roofSlope, double lowest, std::vector<double>& x) {
    Half half;
    for (int turn = 0; turn < 30; ++turn) {
        std::vector<double> fixed, fall;
        for (int i = 0; i < kPoints; ++i) {
            const double c = 2.0 * std::cos(0.5 * phiAt(i)), at = x[static_cast<std::size_t>(i)];
            fixed.push_back(0.5 * std::log(c * c + roundness * roundness) - roofSlope * std::min(at / lowest, 1.0));
            const double t = std::max(0.0, (at - lowest) / (1.0 - lowest));
            fall.push_back(t * t * (1.5 - 0.5 * t));
        }
        const auto a0 = cosineSeries(fixed), a1 = cosineSeries(fall);
        const double depth = (1.0 - kTailAngle - a0[1]) / a1[1];
        auto a = a0;
        for (int n = 0; n < kTerms; ++n) a[static_cast<std::size_t>(n)] += depth * a1[static_cast<std::size_t>(n)];
        half = mapped(a);
        double moved = 0.0;
        for (int i = 0; i < kPoints; ++i) {
            const double to = std::clamp(half.place[static_cast<std::size_t>(i)].x(), 0.0, 1.0);
            moved = std::max(moved, std::abs(to - x[static_cast<std::size_t>(i)]));
            x[static_cast<std::size_t>(i)] = to;
        }
        if (moved < 1e-7) break;
    }
    return half;
}
}  // namespace

std::vector<Vec2> laminarForm(double thickness, double lowest) {
    if (!(thickness >= 0.04 && thickness <= 0.24) || !(lowest >= 0.2 && lowest <= 0.7))
        throw base::InputError(fmt::format("a laminar form of {:g} % with its lowest pressure at {:g} % is not made.",
                                           100.0 * thickness, 100.0 * lowest),
                               "section", "Ask for 4 to 24 % thickness and a place from 20 to 70 %.");
    const double roofSlope = 0.4 * thickness;  // pressure falls by 0.8 t along the roof: enough to be felt, not a peak
    double low = 0.02, high = 3.0;             // a rounder nose makes a thicker section
    Half half;
    std::vector<double> x;
    x.reserve(kPoints);
    for (int i = 0; i < kPoints; ++i) x.push_back(0.5 * (1.0 + std::cos(phiAt(i))));
    for (int turn = 0; turn < 40 && std::abs(half.thickness - thickness) > 1e-6; ++turn) {
        const double middle = 0.5 * (low + high);
        half = formFor(middle, roofSlope, lowest, x);
        (half.thickness < thickness ? low : high) = middle;
    }
    if (std::abs(half.thickness - thickness) > 1e-4)
        throw base::InputError(fmt::format("no laminar form of {:g} % has its lowest pressure at {:g} %.",
                                           100.0 * thickness, 100.0 * lowest),
                               "section", "Ask for another thickness.");
    std::vector<Vec2> side{{0.0, 0.0}};
    for (auto it = half.place.rbegin(); it != half.place.rend(); ++it) side.push_back(*it);
    side.push_back({1.0, 0.0});
    return side;
}

}  // namespace cvane::section
