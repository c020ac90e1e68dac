#include "campaign/plan/held.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace cvane::campaign {
namespace {
constexpr double kFarthestStep_deg = 6.0, kSteepest_deg = 40.0;  // from what was tried; from the wind
constexpr double kLeastAspectRatio = 0.3, kMostAspectRatio = 20.0;
constexpr double kLargestSpeed = 300.0, kMostSpeedRatio = 3.0;

NextTry cannot(std::string why) {
    return {NextTry::Kind::Cannot, 0.0, std::move(why)};
}

// A thousandth of a degree, or of a metre a second: points have readable names.
double rounded(double at) {
    return std::round(1000.0 * at) / 1000.0 + 0.0;
}

void sortNearestFirst(std::vector<Tried>& tried, double value) {
    std::sort(tried.begin(), tried.end(),
              [&](const auto& a, const auto& b) { return std::abs(a.value - value) < std::abs(b.value - value); });
}

// The two tries between which the value lies most tightly, else the two that come nearest to it.
std::pair<Tried, Tried> around(std::vector<Tried> tried, double value) {
    std::sort(tried.begin(), tried.end(), [](const auto& a, const auto& b) { return a.at < b.at; });
    std::optional<std::pair<Tried, Tried>> best;
    for (std::size_t i = 1; i < tried.size(); ++i) {
        const auto &a = tried[i - 1], &b = tried[i];
        if ((a.value - value) * (b.value - value) <= 0.0 && (!best || b.at - a.at < best->second.at - best->first.at))
            best = {a, b};
    }
    if (best) return *best;
    sortNearestFirst(tried, value);
    return {tried[0], tried[1]};
}

// Where the parabola through the three tries nearest to the value has it, near the nearest of them.
std::optional<double> onParabola(std::vector<Tried> tried, double value) {
    if (tried.size() < 3) return std::nullopt;
    sortNearestFirst(tried, value);
    const auto &a = tried[0], &b = tried[1], &c = tried[2];
    // value = a.value + p d + q d^2 of the distance d from the nearest.
    const double b1 = b.at - a.at, c1 = c.at - a.at, bv = b.value - a.value, cv = c.value - a.value;
    const double q = (cv / c1 - bv / b1) / (c1 - b1), p = bv / b1 - q * b1, rest = a.value - value;
    const double root = p * p - 4.0 * q * rest;
    if (!(root > 0.0) || p == 0.0) return std::nullopt;
    return a.at - 2.0 * rest / (p + std::copysign(std::sqrt(root), p));
}

NextTry nextAlpha(const HeldLift& held, const std::vector<Tried>& tried, double aspectRatio, double perUnit) {
    double slope, from, value;  // slope: of a degree
    if (tried.size() == 1) {
        const double A = std::clamp(aspectRatio, kLeastAspectRatio, kMostAspectRatio), pi = std::numbers::pi;
        slope = perUnit * 2.0 * pi * A / (A + 2.0) * pi / 180.0;
        from = tried[0].at, value = tried[0].value;
    } else {
        const auto [a, b] = around(tried, held.value);
        if (std::abs(b.value - a.value) < 1e-6 * perUnit)
            return cannot(
                fmt::format("The lift is the same at alpha {:.4g} and {:.4g} deg: it does not follow.", a.at, b.at));
        slope = (b.value - a.value) / (b.at - a.at);
        from = a.at, value = a.value;
        const bool between = (a.value - held.value) * (b.value - held.value) <= 0.0;
        // Beyond a largest lift the secant turns back; where no try has enough, there may be none.
        if (!between && slope <= 0.0)
            return cannot(
                fmt::format("Lift falls with alpha between {:.4g} and {:.4g} deg and none of the tries has "
                            "come past the value.",
                            std::min(a.at, b.at), std::max(a.at, b.at)));
    }
    const auto [least, most] =
        std::minmax_element(tried.begin(), tried.end(), [](const auto& a, const auto& b) { return a.at < b.at; });
    const double at = std::clamp(onParabola(tried, held.value).value_or(from + (held.value - value) / slope),
                                 least->at - kFarthestStep_deg, most->at + kFarthestStep_deg);
    if (std::abs(at) > kSteepest_deg)
        return cannot(fmt::format("It would take an alpha beyond {:.0f} deg.", kSteepest_deg));
    return {NextTry::Kind::Run, rounded(at), {}};
}

NextTry nextSpeed(const HeldLift& held, const std::vector<Tried>& tried) {
    const auto nearest = *std::min_element(tried.begin(), tried.end(), [&](const auto& a, const auto& b) {
        return std::abs(a.value - held.value) < std::abs(b.value - held.value);
    });
    if (!(nearest.value * held.value > 0.0))
        return cannot(
            fmt::format("At {:.4g} m/s the lift is {:.4g} N: no speed gives it the sign of what is asked for. "
                        "Choose another alpha.",
                        nearest.at, nearest.value));
    double power = 2.0;
    if (tried.size() > 1) {
        const auto [a, b] = around(tried, held.value);
        if (a.value * b.value > 0.0 && a.at != b.at)
            power = std::clamp(std::log(b.value / a.value) / std::log(b.at / a.at), 1.0, 3.0);
    }
    const double ratio =
        std::clamp(std::pow(held.value / nearest.value, 1.0 / power), 1.0 / kMostSpeedRatio, kMostSpeedRatio);
    if (nearest.at * ratio > kLargestSpeed)
        return cannot(fmt::format("It would take more than {:.0f} m/s.", kLargestSpeed));
    return {NextTry::Kind::Run, rounded(nearest.at * ratio), {}};
}
}  // namespace

NextTry nextTry(const HeldLift& held, const std::vector<Tried>& tried, double aspectRatio, double perUnit) {
    const bool byAlpha = held.follows == HeldLift::Follows::Alpha;
    if (!byAlpha && held.of == HeldLift::Of::Coefficient)
        return cannot("CL hardly follows the speed. Let alpha follow, or hold the lift in newtons.");
    if (tried.empty()) return {NextTry::Kind::Run, byAlpha ? held.from.alpha_deg : held.from.speed, {}};
    const double within = kHeldWithin * (held.of == HeldLift::Of::Coefficient ? 1.0 : std::abs(held.value));
    for (const auto& t : tried)
        if (std::abs(t.value - held.value) <= within) return {NextTry::Kind::Reached, t.at, {}};
    auto next = byAlpha ? nextAlpha(held, tried, aspectRatio, perUnit) : nextSpeed(held, tried);
    if (next.kind == NextTry::Kind::Run &&
        std::any_of(tried.begin(), tried.end(), [&](const auto& t) { return t.at == next.at; }))
        return cannot(
            fmt::format("The tries have closed in on {:.6g} and are still off by more than {:.3g}: the runs "
                        "settle too loosely, or the lift jumps there.",
                        next.at, within));
    return next;
}

}  // namespace cvane::campaign
