#include "section/layer/march.h"

#include <algorithm>
#include <cmath>

namespace cvane::section {
namespace {

constexpr double kLeadLaminar = 3.8, kLeadTurbulent = 2.5;  ///< shape parameters from which on the shape leads

double shapeOf(const Station& p, const IntervalCase& c) {
    return p.m / (edgeSpeed(p.u, c.air) * p.theta) - c.deadSecond / p.theta;
}

/// Newton's method for theta, C and m at the given speed, or for theta, C and u at the given shape. `equations` gives
/// those of the station as it stands.
template <class F>
bool settle(Station& p, const IntervalCase& c, const F& equations, std::optional<double> shape) {
    for (int turn = 0; turn < 40; ++turn) {
        const Equations e = equations(p);
        Eigen::Matrix3d A;
        A.col(0) = e.bySecond.col(0);
        A.col(1) = e.bySecond.col(1);
        if (shape) {  // m = (H theta + dead) u
            const double speed = edgeSpeed(p.u, c.air);
            A.col(0) += e.bySecond.col(3) * *shape * speed;
            A.col(2) = e.bySecond.col(2) + e.bySecond.col(3) * p.m / p.u;
        } else {
            A.col(2) = e.bySecond.col(3);
        }
        const Eigen::Vector3d d = A.partialPivLu().solve(-e.residual);
        if (!d.allFinite()) return false;
        double& last = shape ? p.u : p.m;
        const bool turbulent = c.regime != Regime::Laminar;
        const double change = std::max({std::abs(d[0] / p.theta), std::abs(d[2] / last),
                                        turbulent ? std::abs(d[1] / p.C) : 0.1 * std::abs(d[1]) / (1.0 + p.C)});
        const double most = shape ? 0.2 : 0.3, r = change > most ? most / change : 1.0;
        p.theta += r * d[0];
        p.C = turbulent ? std::clamp(p.C + r * d[1], 1e-4, 0.6) : p.C + r * d[1];
        last += r * d[2];
        if (shape) p.m = (*shape * p.theta + c.deadSecond) * edgeSpeed(p.u, c.air);
        if (!(p.theta > 0.0) || !(p.m > 0.0) || !(p.u > 0.0)) return false;
        if (change < 1e-9) return true;
        if (!shape) {  // beyond these no layer follows a given speed: give up early
            const double H = shapeOf(p, c);
            if (H > 12.0 || H < 1.0) return false;
        }
    }
    return false;
}

/// With the speed kept if a layer exists that follows it, else with the shape led on.
template <class F>
bool follow(const Station& first, Station& second, const IntervalCase& c, const F& equations, double known) {
    const Station before = second;
    const double lead = c.regime == Regime::Laminar ? kLeadLaminar : kLeadTurbulent;
    if (known < lead && settle(second, c, equations, std::nullopt) &&
        (shapeOf(second, c) < lead || c.regime == Regime::Wake))
        return true;
    IntervalCase at = c;
    at.deadSecond = c.deadFirst;
    const double H1 = shapeOf(first, at), far = (second.s - first.s) / first.theta;
    // A separated laminar layer's shape grows by about 0.03 a momentum thickness; a turbulent one falls towards the
    // one that is kept, or rises to it.
    double H = c.regime == Regime::Laminar     ? std::min(H1 + 0.03 * far, 8.0)
               : c.regime == Regime::Turbulent ? kLeadTurbulent + (H1 - kLeadTurbulent) * std::exp(-0.03 * far)
                                               : 1.0 + (H1 - 1.0) * std::exp(-0.01 * far);
    if (known >= lead)
        H = known;
    else
        H = std::max(H, c.regime == Regime::Wake ? 1.01 : c.regime == Regime::Laminar ? lead : 1.3);
    second = before;
    second.theta = first.theta;
    second.m = (H * second.theta + c.deadSecond) * edgeSpeed(second.u, c.air);
    if (!settle(second, c, equations, H)) {  // a guess will do: Newton's method takes it from here
        second = before;
        second.theta = first.theta;
        second.m = (H * second.theta + c.deadSecond) * edgeSpeed(second.u, c.air);
        second.C = c.regime == Regime::Laminar ? first.C : std::max(first.C, 0.03);
    }
    return false;
}

}  // namespace

bool solveStation(const Station& first, Station& second, const IntervalCase& c, double lead) {
    return follow(
        first, second, c, [&](const Station& p) { return between(first, p, c); }, lead);
}

double solveTransition(const Station& first, Station& second, const IntervalCase& c, double nCritical, double tripS,
                       double lead) {
    double share = 1.0;
    follow(
        first, second, c,
        [&](const Station& p) {
            share = placeOfTransition(first, p, c, nCritical, tripS);
            const auto t = throughTransition(first, p, c, nCritical, share);
            Equations e = t.flow;
            const bool free = share < 1.0 && first.s + share * (p.s - first.s) < tripS - 1e-12;
            if (free && t.excessByShare > 1e-3) {  // the place moves with the second end
                e.bySecond -= t.byShare / t.excessByShare * t.excessBySecond;
            }
            return e;
        },
        lead);
    return share;
}

MarchedLayer marchLayer(const std::vector<double>& s, const std::vector<double>& u, const LayerAir& air,
                        const TransitionLaw& law, bool fromStagnation, const std::vector<double>& lead) {
    MarchedLayer out;
    const std::size_t n = s.size();
    out.firstTurbulent = n;
    out.guessed.assign(n, 0);
    IntervalCase c;
    c.air = air;
    // The exact layer of a stagnation point has theta = 0.29 sqrt(nu s / u), that of a plate 0.664 sqrt(nu s / u).
    Station first{fromStagnation ? 0.29 : 0.664, 0.0, 0.0, u[0], s[0]};
    first.theta *= std::sqrt(s[0] / (u[0] * air.reynolds));
    first.m = (fromStagnation ? 2.2 : 2.59) * first.theta * edgeSpeed(u[0], air);
    if (fromStagnation)
        settle(
            first, c, [&](const Station& p) { return atStagnation(p, c); }, std::nullopt);
    first.C = 0.0;
    out.stations.push_back(first);
    for (std::size_t i = 1; i < n; ++i) {
        const Station& before = out.stations.back();
        Station here = before;
        here.s = s[i];
        here.u = u[i];
        here.m *= u[i] / before.u;
        const double known = lead.empty() ? 0.0 : lead[i];
        if (out.firstTurbulent == n) {
            c.regime = Regime::Laminar;
            Station laminar = here;
            const bool kept = solveStation(before, laminar, c, known);
            laminar.C = amplified(before, laminar, c);
            if (laminar.C < law.nCritical && s[i] <= law.tripS) {
                out.guessed[i] = !kept;
                out.stations.push_back(laminar);
                continue;
            }
            out.firstTurbulent = i;
            c.regime = Regime::Turbulent;
            here.C = 0.03;
            const double share = solveTransition(before, here, c, law.nCritical, law.tripS, known);
            out.guessed[i] = here.u != u[i];
            out.transitionS = before.s + share * (s[i] - before.s);
            out.stations.push_back(here);
            continue;
        }
        out.guessed[i] = !solveStation(before, here, c, known);
        out.stations.push_back(here);
    }
    if (out.firstTurbulent == n) out.transitionS = s.back();
    return out;
}

}  // namespace cvane::section
