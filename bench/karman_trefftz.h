#pragma once
#include <cmath>
#include <complex>
#include <vector>

#include "section/outline/contour.h"

namespace cvane::bench {

/// Sections that are the image of a circle under the map of Karman and Trefftz, with their exact potential flow.
/// Source: L. M. Milne-Thomson, Theoretical Aerodynamics, 1958, section 7.6.
class KarmanTrefftz {
  public:
    /// @param offset of the circle's centre from the origin: forward for thickness, upward for camber (in units of the
    /// map's half chord), @param tailAngle of the trailing edge [rad]
    KarmanTrefftz(double forward, double upward, double tailAngle)
        : centre_(-forward, upward), power_(2.0 - tailAngle / std::acos(-1.0)), radius_(std::abs(1.0 - centre_)) {
        double least = 1e300, most = -1e300;
        for (int i = 0; i < 20000; ++i) {
            const double x = map(at(2.0 * std::acos(-1.0) * i / 20000)).real();
            least = std::min(least, x), most = std::max(most, x);
        }
        nose_ = least, chord_ = most - least;
    }
    /// Along the contour from the trailing edge over the upper side: t from 0 to 1.
    section::Vec2 place(double t) const {
        const auto z = (map(at(tail() + 2.0 * std::acos(-1.0) * t)) - nose_) / chord_;
        return {z.real(), z.imag()};
    }
    section::Contour contour(int n) const {
        section::Contour c{"Karman-Trefftz", {}};
        for (int i = 0; i <= n; ++i) c.points.push_back(place(static_cast<double>(i) / n));
        c.points.front() = c.points.back() = place(0.0);
        return c;
    }
    /// Speed over that of the wind at t, signed along the contour. The chord line is the x axis of the map.
    double speed(double t, double alpha) const {
        using C = std::complex<double>;
        const C zeta = at(tail() + 2.0 * std::acos(-1.0) * t), d = zeta - centre_, i(0.0, 1.0);
        const double K = 2.0 * radius_ * std::sin(alpha - tail());  // circulation over 2 pi: the tail is at rest
        const C w = std::exp(-i * alpha) - radius_ * radius_ * std::exp(i * alpha) / (d * d) + i * K / d;
        const C slope = slopeOfMap(zeta);
        // tangential: real part of w times the direction of travel on the circle, i d / R
        return (w * i * d / radius_).real() / std::abs(slope);
    }
    double lift(double alpha) const {
        return 2.0 * 2.0 * std::acos(-1.0) * 2.0 * radius_ * std::sin(alpha - tail()) / chord_;
    }
    double thickness() const {
        double top = 0.0, bottom = 0.0;
        for (int i = 0; i < 4000; ++i)
            top = std::max(top, place(i / 4000.0).y()), bottom = std::min(bottom, place(i / 4000.0).y());
        return top - bottom;
    }
    /// The t of the contour's point nearest to a place on it.
    double nearest(const section::Vec2& p) const {
        double best = 0.0;
        const int n = 4000;
        for (int i = 0; i <= n; ++i)
            if ((place(static_cast<double>(i) / n) - p).norm() < (place(best) - p).norm())
                best = static_cast<double>(i) / n;
        for (double step = 0.5 / n; step > 1e-13; step *= 0.5)
            for (const double t : {best - step, best + step})
                if (t >= 0.0 && t <= 1.0 && (place(t) - p).norm() < (place(best) - p).norm()) best = t;
        return best;
    }

  private:
    using C = std::complex<double>;
    C at(double angle) const { return centre_ + std::polar(radius_, angle); }
    double tail() const { return std::arg(1.0 - centre_); }
    C ratio(C zeta) const { return std::pow((zeta - 1.0) / (zeta + 1.0), power_); }
    C map(C zeta) const {
        const C r = ratio(zeta);
        return power_ * (1.0 + r) / (1.0 - r);
    }
    C slopeOfMap(C zeta) const {
        const C r = ratio(zeta);
        return 4.0 * power_ * power_ * r / ((1.0 - r) * (1.0 - r)) / ((zeta - 1.0) * (zeta + 1.0));
    }
    C centre_;
    double power_, radius_, nose_ = 0.0, chord_ = 1.0;
};

}  // namespace cvane::bench
