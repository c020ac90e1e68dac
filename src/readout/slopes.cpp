#include "readout/slopes.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "base/units.h"

namespace cvane::readout {

Fit fitLine(const std::vector<double>& x, const std::vector<double>& y, const std::vector<double>& sigma) {
    const auto [low, high] = std::minmax_element(x.begin(), x.end());
    if (x.size() < 2 || !(*high > *low))
        throw base::InputError("needs points at two or more places.", "the slope", "Run more points.");
    // A point that claims to be exact would decide alone.
    double largest = 0.0;
    for (const double s : sigma) largest = std::max(largest, s);
    double W = 0, X = 0, Y = 0;
    std::vector<double> w;
    for (std::size_t i = 0; i < x.size(); ++i) {
        const double s = largest > 0.0 ? std::max(i < sigma.size() ? sigma[i] : 0.0, 0.05 * largest) : 1.0;
        w.push_back(1.0 / (s * s));
        W += w[i];
        X += w[i] * x[i];
        Y += w[i] * y[i];
    }
    const double mx = X / W, my = Y / W;
    double xx = 0, xy = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        xx += w[i] * (x[i] - mx) * (x[i] - mx);
        xy += w[i] * (x[i] - mx) * (y[i] - my);
    }
    Fit f;
    f.points = static_cast<int>(x.size());
    f.slope = xy / xx;
    f.atZero = my - f.slope * mx;
    double chi = 0;
    for (std::size_t i = 0; i < x.size(); ++i) chi += w[i] * std::pow(y[i] - f.atZero - f.slope * x[i], 2);
    // Errors by the weights, and no less than the scatter about the line.
    const double scatter = x.size() > 2 ? chi / static_cast<double>(x.size() - 2) : 0.0;
    const double scale = largest > 0.0 ? std::max(1.0, scatter) : scatter;
    f.slopeError = std::sqrt(scale / xx);
    const double meanError2 = scale / W;
    f.atZeroError = std::sqrt(meanError2 + mx * mx * scale / xx);
    if (std::abs(f.slope) > 1e-12 * (std::abs(my) + std::abs(f.slope * mx))) {
        f.zero = -f.atZero / f.slope;
        const double away = *f.zero - mx;
        f.zeroError = std::sqrt(meanError2 + away * away * scale / xx) / std::abs(f.slope);
    }
    return f;
}

std::vector<Derivative> derivatives(const std::vector<Result>& results, bool overAlpha) {
    const auto angle = [&](const Result& r) { return (overAlpha ? r.wind.alpha : r.wind.beta) / base::degree; };
    for (const auto& r : results) {
        const auto& first = results.front().wind;
        const double other = overAlpha ? r.wind.beta - first.beta : r.wind.alpha - first.alpha;
        if (std::abs(r.wind.speed - first.speed) > 1e-6 * first.speed || std::abs(other) > 1e-9)
            throw base::InputError("differ in more than one angle.", "the points of the slope",
                                   "Choose points of one speed and one other angle.");
    }
    const auto fit = [&](double air::Coefficients::*y) {
        std::vector<double> xs, ys, sigma;
        for (const auto& r : results) {
            xs.push_back(angle(r));
            ys.push_back(r.coefficients.*y);
            sigma.push_back(r.trust().*y);
        }
        return fitLine(xs, ys, sigma);
    };
    std::vector<Derivative> out;
    const std::string per = overAlpha ? "alpha" : "beta";
    for (const auto& [name, which] : air::kNamedCoefficients) {
        const auto f = fit(which);
        out.push_back({fmt::format("{}_{}", name, per), fmt::format("slope of {} over {}", name, per), "1/deg", f.slope,
                       f.slopeError});
    }
    if (!overAlpha) return out;
    const auto lift = fit(&air::Coefficients::CL);
    if (lift.zero) out.push_back({"alpha_0", "angle without lift", "deg", *lift.zero, *lift.zeroError});
    // The moment over the lift: where both are straight lines over the angle, so is one over the other.
    std::vector<double> CL, Cm, sigma;
    for (const auto& r : results) {
        CL.push_back(r.coefficients.CL);
        Cm.push_back(r.coefficients.Cm);
        sigma.push_back(r.trust().Cm);
    }
    const auto [least, most] = std::minmax_element(CL.begin(), CL.end());
    if (!(*most > *least)) return out;
    const auto moment = fitLine(CL, Cm, sigma);
    const auto& ref = results.front().reference;
    out.push_back({"Cm_0", "pitching moment coefficient without lift", "", moment.atZero, moment.atZeroError});
    out.push_back({"Cm_CL", "slope of Cm over CL, below 0 where it is stable", "", moment.slope, moment.slopeError});
    out.push_back({"neutral_point_x", "place about which the moment does not change with lift", "m",
                   ref.momentCentre.x() - ref.length * moment.slope, ref.length * moment.slopeError});
    out.push_back({"static_margin", "neutral point behind the moment centre, of the reference length", "",
                   -moment.slope, moment.slopeError});
    return out;
}

}  // namespace cvane::readout
