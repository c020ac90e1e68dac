#include "flow/settle.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace cvane::flow {

std::string nameOf(Verdict v) {
    switch (v) {
        case Verdict::Settled:
            return "settled";
        case Verdict::Unsteady:
            return "unsteady";
        case Verdict::Diverged:
            return "diverged";
        case Verdict::Running:
            break;
    }
    return "running";
}

Spread spreadOf(const std::vector<double>& h, std::size_t window) {
    Spread s;
    const std::size_t n = std::min(window, h.size());
    if (n == 0) return s;
    const std::size_t half = n / 2;
    const auto first = h.end() - static_cast<std::ptrdiff_t>(n), middle = first + static_cast<std::ptrdiff_t>(half);
    double a = 0.0, b = 0.0;
    for (auto i = first; i != middle; ++i) a += *i;
    for (auto i = middle; i != h.end(); ++i) b += *i;
    s.mean = (a + b) / static_cast<double>(n);
    const auto [lo, hi] = std::minmax_element(first, h.end());
    s.low = *lo;
    s.high = *hi;
    if (n > 1) s.drift = b / static_cast<double>(n - half) - a / static_cast<double>(half);
    return s;
}

double errorOfMean(const std::vector<double>& h, std::size_t first) {
    const std::size_t n = h.size() > first ? h.size() - first : 0;
    if (n < 100) return std::numeric_limits<double>::infinity();
    double worst = 0.0;
    // Student's t for 95 % and one degree of freedom less than there are batches.
    constexpr std::pair<std::size_t, double> kBatches[] = {{4, 3.182}, {6, 2.571}, {8, 2.365}, {12, 2.201}};
    for (const auto& [batches, t] : kBatches) {
        std::vector<double> means(batches, 0.0);
        for (std::size_t b = 0; b < batches; ++b) {
            const std::size_t from = first + n * b / batches, to = first + n * (b + 1) / batches;
            for (std::size_t i = from; i < to; ++i) means[b] += h[i];
            means[b] /= static_cast<double>(to - from);
        }
        double mean = 0.0, square = 0.0;
        for (const double m : means) mean += m / static_cast<double>(batches);
        for (const double m : means) square += (m - mean) * (m - mean);
        worst = std::max(worst, t * std::sqrt(square / static_cast<double>((batches - 1) * batches)));
    }
    return worst;
}

double stillToGo(const std::vector<double>& h, std::size_t window) {
    const std::size_t n = std::min(window, h.size()), part = n / 6;
    if (part == 0) return 0.0;
    double m[3];
    for (std::size_t k = 0; k < 3; ++k) {
        const auto last = h.end() - static_cast<std::ptrdiff_t>((2 - k) * part);
        m[k] = 0.0;
        for (auto i = last - static_cast<std::ptrdiff_t>(part); i != last; ++i) m[k] += *i / static_cast<double>(part);
    }
    const double a = m[1] - m[0], b = m[2] - m[1];
    if (a * b <= 0.0) return 0.0;
    const double ratio = b / a;
    return ratio < 1.0 ? std::abs(b) * ratio / (1.0 - ratio) : std::abs(b);
}

std::vector<double> columnOf(const std::vector<air::Coefficients>& history, double air::Coefficients::*which) {
    std::vector<double> out;
    out.reserve(history.size());
    for (const auto& c : history) out.push_back(c.*which);
    return out;
}

namespace {
using C = air::Coefficients;
constexpr double kLeastCD = 1e-5;  // a tenth of a drag count: less is rest, also where there is no drag
constexpr double C::*kWatched[] = {&C::CD, &C::CL, &C::CY, &C::Cm};

double allowed(const FlowSettings& s, double C::*which, double mean) {
    return which == &C::CD ? std::max(s.toleranceCD * std::abs(mean), kLeastCD) : s.toleranceCL;
}
}  // namespace

double SettleWatch::unrest(const std::vector<C>& history, std::size_t end, std::size_t window) const {
    const std::size_t n = std::min(end, window);
    const std::vector<C> part(history.begin() + static_cast<std::ptrdiff_t>(end - n),
                              history.begin() + static_cast<std::ptrdiff_t>(end));
    double worst = 0.0;
    for (const auto which : kWatched) {
        const auto h = columnOf(part, which);
        const Spread s = spreadOf(h, n);
        const double most = allowed(settings_, which, s.mean);
        worst = std::max({worst, std::abs(s.drift) / most, 0.5 * s.halfRange() / most, stillToGo(h, n) / most});
    }
    return worst;
}

bool SettleWatch::atRest(const std::vector<C>& history, double residual,
                         std::optional<std::size_t> averagedFrom) const {
    const std::size_t n = history.size(), w = averagedFrom ? std::max(kSteps, window(n)) : window(n);
    const std::size_t from = averagedFrom ? *averagedFrom - std::min(*averagedFrom, kWashOut) : 0;
    return n >= from + w && residual < 1e-3 && unrest(history, n, w) <= 1.0;
}

bool SettleWatch::closes(const C& difference, const C& now) const {
    constexpr double C::*forces[] = {&C::CD, &C::CL, &C::CY};
    return std::all_of(std::begin(forces), std::end(forces),
                       [&](auto which) { return std::abs(difference.*which) <= allowed(settings_, which, now.CD); });
}

Verdict SettleWatch::judge(const std::vector<C>& history, double residual,
                           std::optional<std::size_t> averagedFrom) const {
    const std::size_t n = history.size();
    const auto& last = history.back();
    if (!std::isfinite(last.CD) || !std::isfinite(last.CL) || !std::isfinite(residual) || std::abs(last.CD) > 1e4 ||
        std::abs(last.CL) > 1e4)
        return Verdict::Diverged;
    const bool usedUp = n >= static_cast<std::size_t>(settings_.mostIterations);
    if (n >= static_cast<std::size_t>(settings_.leastIterations)) {
        if (atRest(history, residual, averagedFrom)) return Verdict::Settled;
        if (averagedFrom && n > *averagedFrom) {
            const bool known = std::all_of(std::begin(kWatched), std::end(kWatched), [&](auto which) {
                auto h = columnOf(history, which);
                const double most = allowed(settings_, which, spreadOf(h, n - *averagedFrom).mean);
                if (!(errorOfMean(h, *averagedFrom) <= most)) return false;
                // An error that is itself uncertain passes its limit early some time: it has to stay below while the
                // mean grows by a quarter.
                h.resize(n - (n - *averagedFrom) / 5);
                return errorOfMean(h, *averagedFrom) <= most;
            });
            if (known) return Verdict::Settled;
        }
    }
    return usedUp ? Verdict::Unsteady : Verdict::Running;
}

std::pair<bool, bool> SettleWatch::swingAndDrift(const std::vector<C>& history, std::size_t window) const {
    // However well the means shall be known: less than this is not a wake that moves, but what rounding and limiters
    // leave.
    FlowSettings least = settings_;
    least.toleranceCD = std::max(settings_.toleranceCD, FlowSettings{}.toleranceCD);
    least.toleranceCL = std::max(settings_.toleranceCL, FlowSettings{}.toleranceCL);
    std::pair<bool, bool> out{false, false};
    for (const auto which : kWatched) {
        const Spread s = spreadOf(columnOf(history, which), window);
        if (s.halfRange() <= 2.0 * allowed(least, which, s.mean)) continue;
        out.first = true;
        out.second = out.second || std::abs(s.drift) > 0.5 * s.halfRange();
    }
    return out;
}

bool SettleWatch::diesAway(const std::vector<C>& history, std::size_t window) const {
    const std::vector<C> older(history.begin(), history.end() - static_cast<std::ptrdiff_t>(window / 2));
    double before = 0.0, now = 0.0;
    for (const auto which : kWatched) {
        const Spread s = spreadOf(columnOf(history, which), window / 2);
        const double most = allowed(settings_, which, s.mean);
        now = std::max(now, s.halfRange() / most);
        before = std::max(before, spreadOf(columnOf(older, which), window / 2).halfRange() / most);
    }
    return now < 0.5 * before;
}

bool SettleWatch::swings(const std::vector<C>& history) const {
    const std::size_t n = history.size(), w = std::max<std::size_t>(100, n / 3);
    if (n < static_cast<std::size_t>(2 * settings_.leastIterations) || n < w) return false;
    const auto [swing, drift] = swingAndDrift(history, w);
    if (!swing || drift) return false;
    // What only the window's older half shows is the start dying away; so is what creeps one way over the younger half,
    // and what swings there by less than half of what it did before.
    const auto [still, creeps] = swingAndDrift(history, w / 2);
    return still && !creeps && !diesAway(history, w);
}

bool SettleWatch::driftsAway(const std::vector<C>& history, std::size_t averagedFrom) const {
    if (history.size() < averagedFrom + kSteps || (history.size() - averagedFrom) % kWashOut != 0) return false;
    return swingAndDrift(history, history.size() - averagedFrom).second;
}

std::size_t SettleWatch::iterationsLeft(const std::vector<C>& history) const {
    const std::size_t n = history.size(), most = static_cast<std::size_t>(std::max(0, settings_.mostIterations));
    if (n >= most) return 0;
    const std::size_t before = n - n / 5;
    const double now = unrest(history, n, window(n)),
                 then = before > 20 ? unrest(history, before, window(before)) : now;
    if (!(now > 1.0)) return 0;
    if (!(now < then)) return most - n;
    const double left = std::log(now) / std::log(then / now) * static_cast<double>(n - before);
    return std::min(most - n, static_cast<std::size_t>(std::min(left, 1e9)) + 1);
}

}  // namespace cvane::flow
