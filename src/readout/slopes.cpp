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

namespace {
constexpr double kKink = 0.25;  // change of slope, of the slope before

double angleOf(const Result& r, bool overAlpha) {
    return (overAlpha ? r.wind.alpha : r.wind.beta) / base::degree;
}

Fit fitOf(const std::vector<Result>& results, const std::vector<std::size_t>& used, bool overAlpha,
          double air::Coefficients::*y) {
    std::vector<double> xs, ys, sigma;
    for (const auto i : used) {
        xs.push_back(angleOf(results[i], overAlpha));
        ys.push_back(results[i].coefficients.*y);
        sigma.push_back(results[i].trust().*y);
    }
    return fitLine(xs, ys, sigma);
}

// Takes the points at one end of those that are used, outwards, up to a kink.
void extend(const std::vector<Result>& results, const std::vector<std::size_t>& settled, bool overAlpha, bool upwards,
            std::vector<std::size_t>& used) {
    const auto y = overAlpha ? &air::Coefficients::CL : &air::Coefficients::CY;
    const auto at = [&](std::size_t i) { return angleOf(results[i], overAlpha); };
    const auto edge = [&] { return upwards ? used.back() : used.front(); };
    auto place = std::find(settled.begin(), settled.end(), edge()) - settled.begin();
    for (;;) {
        place += upwards ? 1 : -1;
        if (place < 0 || place >= static_cast<std::ptrdiff_t>(settled.size())) return;
        const auto next = settled[static_cast<std::size_t>(place)];
        const auto line = fitOf(results, used, overAlpha, y);
        const double value = results[next].coefficients.*y, before = results[edge()].coefficients.*y;
        const double local = (value - before) / (at(next) - at(edge()));
        const double doubt = results[next].trust().*y + results[edge()].trust().*y;
        if (std::abs(local - line.slope) > kKink * std::abs(line.slope) &&
            std::abs(value - line.atZero - line.slope * at(next)) > doubt)
            return;
        used.insert(upwards ? used.end() : used.begin(), next);
    }
}

// Which points a slope may rest on, and why not the others.
void choose(const std::vector<Result>& results, bool overAlpha, Slopes& out) {
    const auto at = [&](std::size_t i) { return angleOf(results[i], overAlpha); };
    std::vector<std::size_t> settled;
    for (std::size_t i = 0; i < results.size(); ++i)
        if (results[i].verdict == flow::Verdict::Settled)
            settled.push_back(i);
        else
            out.leftOut.push_back({i, results[i].provisional() ? "provisional" : flow::nameOf(results[i].verdict)});
    std::sort(settled.begin(), settled.end(), [&](auto i, auto j) { return at(i) < at(j); });
    if (settled.size() < 2 || !(at(settled.back()) > at(settled.front())))
        throw base::InputError("needs settled points at two or more places.", "the slope",
                               "Run more points, or let them settle.");
    const auto y = overAlpha ? &air::Coefficients::CL : &air::Coefficients::CY;
    const auto off = [&](std::size_t k) {
        return std::abs(results[settled[k]].coefficients.*y + results[settled[k + 1]].coefficients.*y);
    };
    std::size_t first = 0;
    for (std::size_t k = 0; k + 1 < settled.size(); ++k)
        if (at(settled[k + 1]) > at(settled[k]) &&
            (off(k) < off(first) || !(at(settled[first + 1]) > at(settled[first]))))
            first = k;
    out.used = {settled[first], settled[first + 1]};
    extend(results, settled, overAlpha, true, out.used);
    extend(results, settled, overAlpha, false, out.used);
    for (const auto i : settled)
        if (std::find(out.used.begin(), out.used.end(), i) == out.used.end())
            out.leftOut.push_back({i, "beyond the straight part"});
}
}  // namespace

Slopes slopesOf(const std::vector<Result>& results, bool overAlpha) {
    Slopes s;
    for (const auto& r : results) {
        const auto& first = results.front().wind;
        const double other = overAlpha ? r.wind.beta - first.beta : r.wind.alpha - first.alpha;
        if (std::abs(r.wind.speed - first.speed) > 1e-6 * first.speed || std::abs(other) > 1e-9)
            throw base::InputError("differ in more than one angle.", "the points of the slope",
                                   "Choose points of one speed and one other angle.");
    }
    choose(results, overAlpha, s);
    auto& out = s.values;
    const auto fit = [&](double air::Coefficients::*y) { return fitOf(results, s.used, overAlpha, y); };
    const std::string per = overAlpha ? "alpha" : "beta";
    for (const auto& [name, which] : air::kNamedCoefficients) {
        const auto f = fit(which);
        out.push_back({fmt::format("{}_{}", name, per), fmt::format("slope of {} over {}", name, per), "1/deg", f.slope,
                       f.slopeError});
    }
    if (!overAlpha) return s;
    const auto lift = fit(&air::Coefficients::CL);
    if (lift.zero) out.push_back({"alpha_0", "zero-lift angle", "deg", *lift.zero, *lift.zeroError});
    // The moment over the lift: where both are straight lines over the angle, so is one over the other.
    std::vector<double> CL, Cm, sigma;
    for (const auto i : s.used) {
        CL.push_back(results[i].coefficients.CL);
        Cm.push_back(results[i].coefficients.Cm);
        sigma.push_back(results[i].trust().Cm);
    }
    const auto [least, most] = std::minmax_element(CL.begin(), CL.end());
    if (!(*most > *least)) return s;
    const auto moment = fitLine(CL, Cm, sigma);
    const auto& ref = results.front().reference;
    out.push_back({"Cm_0", "zero-lift pitching moment", "", moment.atZero, moment.atZeroError});
    out.push_back({"Cm_CL", "slope of Cm over CL, below 0 where it is stable", "", moment.slope, moment.slopeError});
    out.push_back({"neutral_point_x", "neutral point, x", "m", ref.momentCentre.x() - ref.length * moment.slope,
                   ref.length * moment.slopeError});
    out.push_back({"static_margin", "static margin, of the reference length", "", -moment.slope, moment.slopeError});
    return s;
}

}  // namespace cvane::readout
