#include "flow/settle.h"

#include <algorithm>
#include <cmath>

namespace cvane::flow {

std::string nameOf(Verdict v) {
    switch (v) {
        case Verdict::Settled: return "settled";
        case Verdict::Unsteady: return "unsteady";
        case Verdict::Diverged: return "diverged";
        case Verdict::Running: break;
    }
    return "running";
}

Spread spreadOf(const std::vector<double>& h, std::size_t window) {
    Spread s;
    const std::size_t n = std::min(window, h.size());
    if (n == 0) return s;
    const auto first = h.end() - static_cast<std::ptrdiff_t>(n), middle = first + static_cast<std::ptrdiff_t>(n / 2);
    double a = 0.0, b = 0.0;
    for (auto i = first; i != middle; ++i) a += *i;
    for (auto i = middle; i != h.end(); ++i) b += *i;
    s.mean = (a + b) / static_cast<double>(n);
    const auto [lo, hi] = std::minmax_element(first, h.end());
    s.low = *lo;
    s.high = *hi;
    if (n > 1) s.drift = b / static_cast<double>(n - n / 2) - a / static_cast<double>(n / 2);
    return s;
}

Verdict SettleWatch::judge(const std::vector<air::Coefficients>& history, double residual) const {
    const std::size_t n = history.size();
    const auto& last = history.back();
    if (!std::isfinite(last.CD) || !std::isfinite(last.CL) || !std::isfinite(residual) || std::abs(last.CD) > 1e4 || std::abs(last.CL) > 1e4)
        return Verdict::Diverged;
    const bool usedUp = n >= static_cast<std::size_t>(settings_.mostIterations);
    if (n < static_cast<std::size_t>(settings_.leastIterations)) return usedUp ? Verdict::Unsteady : Verdict::Running;
    const auto still = [&](auto&& pick, double tolerance) {
        std::vector<double> h;
        for (std::size_t i = n - std::min(n, window(n)); i < n; ++i) h.push_back(pick(history[i]));
        const Spread s = spreadOf(h, h.size());
        const double allowed = tolerance < 0.0 ? -tolerance * std::abs(s.mean) : tolerance;
        return std::abs(s.drift) <= allowed && s.halfRange() <= 2.0 * allowed;
    };
    const bool settled = residual < 1e-3 && still([](const auto& c) { return c.CD; }, -settings_.toleranceCD) &&
                         still([](const auto& c) { return c.CL; }, settings_.toleranceCL) &&
                         still([](const auto& c) { return c.CY; }, settings_.toleranceCL) &&
                         still([](const auto& c) { return c.Cm; }, settings_.toleranceCL);
    return settled ? Verdict::Settled : usedUp ? Verdict::Unsteady : Verdict::Running;
}

}  // namespace cvane::flow
