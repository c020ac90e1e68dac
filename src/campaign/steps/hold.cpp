#include "campaign/steps/hold.h"

#include <fmt/format.h>

#include <algorithm>

namespace cvane::campaign {

HeldStep holdingOf(const Campaign& base, const HeldLift& held, MeasureBook& book) {
    checkVariantNamed(base.settings.configurations, held.configuration, "a held lift");
    checkVariantNamed(base.settings.setUps, held.setUp, "a held lift");
    const bool byAlpha = held.follows == HeldLift::Follows::Alpha;
    Point p{held.from, held.configuration, held.setUp};
    const Campaign seen = base.of(p);
    const auto reference = book.reference(seen);
    const auto force = [&](const Condition& w) { return windOf(seen.settings, w).dynamicPressure() * reference.area; };
    std::vector<Tried> tried;
    HeldStep out;
    std::string failed;
    for (const Point& other : pointsOf(base.settings)) {
        const auto& w = other.condition;
        const bool alike = byAlpha ? w.speed == held.from.speed : w.alpha_deg == held.from.alpha_deg;
        if (other.configuration != p.configuration || other.setUp != p.setUp || other.method != p.method || !alike ||
            w.beta_deg != held.from.beta_deg)
            continue;
        const auto report = reportOf(seen, other, reference);
        if (report.state == PointState::Diverged) failed = other.name();
        if (!isDone(report.state) || !report.result) continue;
        const double CL = report.result->coefficients.CL;
        tried.push_back({byAlpha ? w.alpha_deg : w.speed, held.of == HeldLift::Of::Coefficient ? CL : CL * force(w)});
    }
    out.tries = static_cast<int>(tried.size());
    const double A = reference.span * reference.span / reference.area;
    const auto next = nextTry(held, tried, A, held.of == HeldLift::Of::Force && byAlpha ? force(held.from) : 1.0);
    out.kind = next.kind;
    out.why = next.why;
    (byAlpha ? p.condition.alpha_deg : p.condition.speed) = next.at;
    out.point = p;
    if (next.kind == NextTry::Kind::Reached)
        out.value = std::find_if(tried.begin(), tried.end(), [&](const auto& t) { return t.at == next.at; })->value;
    if (next.kind == NextTry::Kind::Run && p.name() == failed) {
        out.kind = NextTry::Kind::Cannot;
        out.why = fmt::format("The try at {} has blown up.", failed);
    }
    return out;
}

void noteTry(Settings& s, const Point& p) {
    const auto all = pointsOf(s);
    if (std::find(all.begin(), all.end(), p) == all.end())
        s.schedule.single.push_back({p.condition, p.configuration, p.setUp});
}

std::string wordsOf(const HeldLift& held) {
    const auto what = held.of == HeldLift::Of::Coefficient ? fmt::format("CL {:.4g}", held.value)
                                                           : fmt::format("lift {:.4g} N", held.value);
    const auto at = held.follows == HeldLift::Follows::Alpha ? fmt::format("{:.4g} m/s", held.from.speed)
                                                             : fmt::format("alpha {:.4g} deg", held.from.alpha_deg);
    std::string out = fmt::format("{} at {}", what, at);
    if (held.from.beta_deg != 0.0) out += fmt::format(", beta {:.4g} deg", held.from.beta_deg);
    if (!held.configuration.empty() || !held.setUp.empty())
        out += fmt::format(" ({}, {})", shownName(held.configuration), shownName(held.setUp));
    return out;
}

}  // namespace cvane::campaign
