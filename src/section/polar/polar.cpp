#include "section/polar/polar.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "base/errors.h"

namespace cvane::section {
namespace {

const double kDegree = std::acos(-1.0) / 180.0;
constexpr int kTries = 30;           ///< Newton steps
constexpr int kHalvings = 3;         ///< of a step between neighbours
constexpr double kLeastLift = 0.05;  ///< a lower one has no speed that carries a weight

/// A point on the way: solved, with the case it was solved for (the Reynolds number may follow the lift).
struct Solved {
    FlowState state;
    Settled settled;
    SectionCase flow;
};

class Sweep {
  public:
    Sweep(const PanelFlow& flow, const PolarCase& c) : flow_(flow), case_(c) {}

    /// From scratch.
    Solved start(double value) const {
        Solved s{{}, {}, caseAt(case_.along == PolarCase::Along::Lift ? value : 0.5)};
        const double alpha = case_.along == PolarCase::Along::Alpha ? value : alphaOfLift(value);
        s.state = startState(flow_, s.flow, alpha);
        settle(s, value);
        return s;
    }
    /// From a neighbour.
    Solved from(const Solved& near, double value, bool marched) const {
        Solved s = near;
        const double alpha = case_.along == PolarCase::Along::Alpha
                                 ? value
                                 : near.state.alpha + alphaOfLift(value) - alphaOfLift(liftOfState(near.state));
        if (case_.along == PolarCase::Along::Lift) s.flow = caseAt(value);
        s.state = turned(flow_, near.state, s.flow, alpha, marched);
        settle(s, value);
        return s;
    }
    /// From scratch, or by way of values nearby: an iteration that begins far from its end may turn for ever between
    /// two places of transition, as at the curvature's jump of 23012 at 4 degrees, where one from a neighbour settles.
    Solved startOrNearby(double value) const {
        const Solved s = start(value);
        if (s.settled.converged) return s;
        const double step = case_.along == PolarCase::Along::Alpha ? kDegree : 0.1;
        for (const double away : {-1.0, 1.0, -2.0, 2.0, -4.0, 4.0})
            if (const Solved near = start(value + away * step); near.settled.converged)
                if (Solved t = reach(near, value); t.settled.converged) return t;
        return s;
    }
    double valueOf(const Solved& s) const {
        return case_.along == PolarCase::Along::Alpha ? s.state.alpha : liftOfState(s.state);
    }
    /// From a neighbour, by steps that are halved until they lead there.
    Solved reach(const Solved& near, double value, int halvings = kHalvings) const {
        Solved s = from(near, value, true);
        if (s.settled.converged) return s;
        if (Solved t = from(near, value, false); t.settled.converged) return t;
        if (halvings == 0) return s;
        const double middle = 0.5 * (valueOf(near) + value);
        if (std::abs(middle - value) < 1e-6) return s;
        const Solved half = reach(near, middle, halvings - 1);
        if (!half.settled.converged) return s;
        Solved t = reach(half, value, halvings - 1);
        return t.settled.converged ? t : s;
    }

  private:
    SectionCase caseAt(double lift) const {
        SectionCase c = case_.flow;
        if (case_.kind == PolarCase::Kind::FixedLift)
            c.air.reynolds = case_.flow.air.reynolds / std::sqrt(std::max(std::abs(lift), kLeastLift));
        return c;
    }
    double liftOfState(const FlowState& s) const { return liftOf(flow_, case_.flow.air, signedSpeeds(s), s.alpha); }
    double alphaOfLift(double lift) const {
        const double at0 = liftOf(flow_, case_.flow.air, flow_.speedAt(0.0), 0.0),
                     at1 = liftOf(flow_, case_.flow.air, flow_.speedAt(0.1), 0.1);
        return 0.1 * (lift - at0) / (at1 - at0);
    }
    void settle(Solved& s, double value) const {
        std::optional<double> lift;
        if (case_.along == PolarCase::Along::Lift) lift = value;
        s.settled = solveCoupled(flow_, s.flow, s.state, lift, kTries);
        if (case_.kind != PolarCase::Kind::FixedLift || lift) return;
        // The Reynolds number follows the lift that it makes.
        for (int turn = 0; turn < 8 && s.settled.converged; ++turn) {
            const SectionCase next = caseAt(liftOfState(s.state));
            const bool same = std::abs(next.air.reynolds / s.flow.air.reynolds - 1.0) < 1e-4;
            s.flow = next;
            if (same) break;
            const int before = s.settled.iterations;
            s.settled = solveCoupled(flow_, s.flow, s.state, lift, kTries);
            s.settled.iterations += before;
        }
    }

    const PanelFlow& flow_;
    const PolarCase& case_;
};

}  // namespace

void checkCase(const PolarCase& c) {
    const auto inside = [](double v, double low, double high, const std::string& what, double scale = 1.0,
                           const char* unit = "") {
        if (!(v >= low && v <= high))
            throw base::InputError(fmt::format("{} is {:g}{}.", what, v * scale, unit), "section",
                                   fmt::format("Give {:g} to {:g}{}.", low * scale, high * scale, unit));
    };
    if (c.flow.viscous) inside(c.flow.air.reynolds, 1e3, 1e9, "the Reynolds number");
    inside(c.flow.air.mach, 0.0, 0.7, "the Mach number");
    inside(c.flow.nCritical, 0.5, 20.0, "the amplification exponent n");
    inside(c.flow.tripUpper, 0.0, 1.0, "the upper trip x/c");
    inside(c.flow.tripLower, 0.0, 1.0, "the lower trip x/c");
    if (c.values.empty() || c.values.size() > 2000)
        throw base::InputError(fmt::format("the sweep has {} values.", c.values.size()), "section", "Give 1 to 2000.");
    for (const double v : c.values) {
        if (c.along == PolarCase::Along::Alpha)
            inside(v, -30.0 * kDegree, 30.0 * kDegree, "an angle of attack", 1.0 / kDegree, " deg");
        else
            inside(v, -5.0, 5.0, "a lift coefficient");
    }
}

std::vector<PolarPoint> computePolar(const PanelFlow& flow, const PolarCase& c, const OnPoint& onPoint) {
    checkCase(c);
    const std::size_t n = c.values.size();
    std::vector<PolarPoint> out(n);
    const auto tell = [&](std::size_t i) {
        if (onPoint && !onPoint(out[i])) throw base::Cancelled();
    };
    std::vector<std::size_t> order(n);
    std::iota(order.begin(), order.end(), 0u);
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return c.values[a] < c.values[b]; });
    if (!c.flow.viscous) {
        const double at0 = potentialFigures(flow, c.flow, 0.0).cl, at1 = potentialFigures(flow, c.flow, 0.1).cl;
        for (const std::size_t i : order) {
            const double v = c.values[i];
            const double alpha = c.along == PolarCase::Along::Alpha ? v : 0.1 * (v - at0) / (at1 - at0);
            out[i] = {v, potentialFigures(flow, c.flow, alpha), nullptr};
            tell(i);
        }
        return out;
    }
    const Sweep sweep(flow, c);
    const double middle = c.along == PolarCase::Along::Alpha ? 2.0 * kDegree : 0.4;
    std::size_t first = 0;
    for (std::size_t k = 1; k < n; ++k)
        if (std::abs(c.values[order[k]] - middle) < std::abs(c.values[order[first]] - middle)) first = k;
    std::vector<std::optional<Solved>> good(n);
    const auto note = [&](std::size_t k, const Solved& s) {
        const std::size_t i = order[k];
        const bool converged = s.settled.converged;
        out[i] = {c.values[i], figuresOf(flow, s.flow, s.state, s.settled),
                  converged ? std::make_shared<const FlowState>(s.state) : nullptr};
        if (c.kind == PolarCase::Kind::FixedLift && out[i].figures.cl < kLeastLift) out[i].figures.converged = false;
        if (converged) good[k] = s;
        tell(i);
    };
    const auto at = [&](std::size_t k) { return c.values[order[k]]; };
    note(first, sweep.startOrNearby(at(first)));
    for (const int way : {+1, -1}) {
        std::optional<Solved> last = good[first];
        int missed = 0;
        for (auto k = static_cast<std::ptrdiff_t>(first) + way; k >= 0 && k < static_cast<std::ptrdiff_t>(n);
             k += way) {
            const auto here = static_cast<std::size_t>(k);
            // Far beyond stall nothing converges: after some misses in a row one try is enough.
            Solved s = last && missed < 3 ? sweep.reach(*last, at(here)) : sweep.start(at(here));
            if (!s.settled.converged && last && missed < 3)
                if (Solved fresh = sweep.start(at(here)); fresh.settled.converged) s = fresh;
            note(here, s);
            missed = s.settled.converged ? 0 : missed + 1;
            if (s.settled.converged) last = s;
        }
        // On the way back: from the points beyond.
        last.reset();
        for (auto k = way > 0 ? static_cast<std::ptrdiff_t>(n) - 1 : 0; k != static_cast<std::ptrdiff_t>(first);
             k -= way) {
            const auto here = static_cast<std::size_t>(k);
            if (good[here]) {
                last = good[here];
            } else if (last) {
                const Solved s = sweep.reach(*last, at(here));
                if (s.settled.converged) note(here, s), last = s;
            }
        }
    }
    if (!good[first]) {  // the first was unlucky: its neighbours may lead to it
        for (const std::size_t k : {first + 1, first - 1})
            if (k < n && good[k] && !good[first])
                if (const Solved s = sweep.reach(*good[k], at(first)); s.settled.converged) note(first, s);
    }
    return out;
}

std::optional<PolarFigures> figuresOfPolar(const std::vector<PolarPoint>& points) {
    std::vector<const PointFigures*> p;
    for (const auto& q : points)
        if (q.figures.converged) p.push_back(&q.figures);
    std::sort(p.begin(), p.end(), [](auto* a, auto* b) { return a->alpha < b->alpha; });
    if (p.size() < 3) return {};
    PolarFigures f;
    // Slope by least squares where the lift is small: within 4 degrees of the zero of the lift, or of the smallest.
    const auto least =
        *std::min_element(p.begin(), p.end(), [](auto* a, auto* b) { return std::abs(a->cl) < std::abs(b->cl); });
    double n = 0, sa = 0, sc = 0, saa = 0, sac = 0, sm = 0;
    for (const auto* q : p) {
        if (q->alpha < least->alpha - 1e-9 - 2.0 * kDegree || q->alpha > least->alpha + 6.0 * kDegree) continue;
        n += 1, sa += q->alpha, sc += q->cl, saa += q->alpha * q->alpha, sac += q->alpha * q->cl, sm += q->cm;
    }
    if (n >= 2) {
        f.slope = (n * sac - sa * sc) / (n * saa - sa * sa);
        f.zeroLift = sa / n - sc / n / f.slope;
    }
    f.momentAtZeroLift = least->cm;
    // The top of the parabola over the angle through the best point and its neighbours, no further than half a step.
    struct Top {
        double value, alpha, cl;
        bool inside;
    };
    const auto top = [&](auto value, double sign) {
        std::size_t k = 0;
        for (std::size_t i = 0; i < p.size(); ++i)
            if (sign * value(*p[i]) > sign * value(*p[k])) k = i;
        Top best{value(*p[k]), p[k]->alpha, p[k]->cl, k > 0 && k + 1 < p.size()};
        if (!best.inside) return best;
        const double h0 = p[k]->alpha - p[k - 1]->alpha, h1 = p[k + 1]->alpha - p[k]->alpha;
        const double s0 = (value(*p[k]) - value(*p[k - 1])) / h0, s1 = (value(*p[k + 1]) - value(*p[k])) / h1;
        const double bend = (s1 - s0) / (h0 + h1), slope = s0 + bend * h0;
        if (sign * bend >= 0.0) return best;
        const double t = std::clamp(-0.5 * slope / bend, -0.5 * h0, 0.5 * h1);
        best.value += slope * t + bend * t * t;
        best.alpha += t;
        best.cl += t * (t > 0.0 ? (p[k + 1]->cl - p[k]->cl) / h1 : (p[k]->cl - p[k - 1]->cl) / h0);
        return best;
    };
    const Top most = top([](const PointFigures& q) { return q.cl; }, 1.0);
    f.clMax = most.value, f.clMaxAt = most.alpha, f.stalls = most.alpha < p.back()->alpha - 1e-9;
    const Top cleanest = top([](const PointFigures& q) { return q.cd; }, -1.0);
    f.cdMin = cleanest.value, f.cdMinAt = cleanest.cl;
    const Top ratio = top([](const PointFigures& q) { return q.cd > 0.0 ? q.cl / q.cd : 0.0; }, 1.0);
    f.bestRatio = ratio.value, f.bestRatioAt = ratio.cl;
    return f;
}

}  // namespace cvane::section
