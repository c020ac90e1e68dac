#include "section/coupled/state.h"

#include <algorithm>
#include <cmath>

namespace cvane::section {
namespace {

constexpr std::size_t kMoves = 6;     ///< stations by which transition moves at a time
constexpr std::size_t kNearNose = 4;  ///< nodes about the stagnation point whose layer is always marched
constexpr double kWakeLength = 1.0, kWakeGrowth = 1.25;

/// Layer of a stagnation point at a node whose s and u are known.
void asAtStagnation(const PanelFlow& flow, FlowState& state, const SectionCase& c, std::size_t node) {
    const double s = std::max(lengthTo(flow, state, node), 1e-7), u = std::max(state.u[node], 1e-7);
    state.theta[node] = 0.29 * std::sqrt(s / (u * c.air.reynolds));
    state.m[node] = 2.24 * state.theta[node] * edgeSpeed(u, c.air);
    state.C[node] = 0.0;
    state.turbulent[node] = 0;
}

void placeStagnation(const PanelFlow& flow, FlowState& state) {
    const std::size_t k = state.stagnation;
    const double a = state.u[k], b = state.u[k + 1], f = std::clamp(a / (a + b), 0.02, 0.98);
    state.stagnationPath = flow.path()[k] + f * (flow.path()[k + 1] - flow.path()[k]);
}

void marchSides(const PanelFlow& flow, FlowState& s, const SectionCase& c, const std::vector<double>& shapes = {}) {
    for (const Side side : {Side::Upper, Side::Lower}) {
        const auto nodes = nodesOf(s, side);
        std::vector<double> len, u, lead;
        for (const std::size_t i : nodes) {
            len.push_back(lengthTo(flow, s, i)), u.push_back(s.u[i]);
            if (!shapes.empty()) lead.push_back(shapes[i]);
        }
        const auto layer = marchLayer(len, u, c.air, {c.nCritical, tripLength(flow, s, c, side)}, true, lead);
        for (std::size_t j = 0; j < nodes.size(); ++j) {
            const Station& p = layer.stations[j];
            s.theta[nodes[j]] = p.theta, s.m[nodes[j]] = p.m, s.C[nodes[j]] = p.C, s.u[nodes[j]] = p.u;
            s.turbulent[nodes[j]] = j >= layer.firstTurbulent;
        }
        if (const std::size_t j = layer.firstTurbulent; j < nodes.size())
            s.share[static_cast<std::size_t>(side)] = (layer.transitionS - len[j - 1]) / (len[j] - len[j - 1]);
    }
}

void startWake(const PanelFlow& flow, FlowState& state, const SectionCase& c) {
    const std::size_t n = flow.count(), W = state.wake.size();
    state.wakeTheta.assign(W, 0.0);
    state.wakeM = state.wakeC = state.wakeU = state.wakeTheta;
    const double gap = flow.baseGap(), edge = 0.5 * (state.u[0] + state.u[n - 1]);
    state.wakeTheta[0] = state.theta[0] + state.theta[n - 1];
    state.wakeM[0] = state.m[0] + state.m[n - 1] + gap * edgeSpeed(edge, c.air);
    state.wakeC[0] =
        std::max({state.turbulent[0] ? state.C[0] : 0.0, state.turbulent[n - 1] ? state.C[n - 1] : 0.0, 0.03});
    state.wakeU[0] = edge;
    IntervalCase at{c.air, Regime::Wake, gap, gap};
    double behind = 0.0;
    for (std::size_t w = 1; w < W; ++w) {
        const double step = (state.wake[w] - state.wake[w - 1]).norm();
        const Station first{state.wakeTheta[w - 1], state.wakeM[w - 1], state.wakeC[w - 1], state.wakeU[w - 1],
                            1.0 + behind};
        at.deadFirst = deadAir(gap, behind);
        behind += step;
        at.deadSecond = deadAir(gap, behind);
        // The speed comes back to that of the wind.
        const double u = 1.0 + (edge - 1.0) * std::exp(-3.0 * behind);
        Station second{first.theta, first.m * u / first.u, first.C, u, 1.0 + behind};
        solveStation(first, second, at);
        state.wakeTheta[w] = second.theta, state.wakeM[w] = second.m, state.wakeC[w] = second.C;
        state.wakeU[w] = second.u;
    }
}

}  // namespace

double nFromTurbulence(double intensity) {
    return -8.43 - 2.4 * std::log(std::clamp(intensity, 0.0007, 0.0298));
}

Eigen::VectorXd signedSpeeds(const FlowState& s) {
    Eigen::VectorXd q(static_cast<Eigen::Index>(s.u.size()));
    for (std::size_t i = 0; i < s.u.size(); ++i)
        q[static_cast<Eigen::Index>(i)] = (i <= s.stagnation ? -1.0 : 1.0) * s.u[i];
    return q;
}

std::vector<std::size_t> nodesOf(const FlowState& state, Side side) {
    std::vector<std::size_t> out;
    if (side == Side::Upper)
        for (std::size_t i = state.stagnation + 1; i-- > 0;) out.push_back(i);
    else
        for (std::size_t i = state.stagnation + 1; i < state.u.size(); ++i) out.push_back(i);
    return out;
}

double lengthTo(const PanelFlow& flow, const FlowState& state, std::size_t node) {
    return std::abs(flow.path()[node] - state.stagnationPath);
}

double tripLength(const PanelFlow& flow, const FlowState& state, const SectionCase& c, Side side) {
    const double x = side == Side::Upper ? c.tripUpper : c.tripLower;
    if (x >= 1.0) return 1e9;
    const auto nodes = nodesOf(state, side);
    // From the trailing edge forward: the first place ahead of the trip.
    for (std::size_t i = nodes.size(); i-- > 1;) {
        const double a = flow.nodes()[nodes[i - 1]].x(), b = flow.nodes()[nodes[i]].x();
        if (a > x || b < a) continue;
        const double w = std::clamp((x - a) / std::max(b - a, 1e-12), 0.0, 1.0);
        return (1.0 - w) * lengthTo(flow, state, nodes[i - 1]) + w * lengthTo(flow, state, nodes[i]);
    }
    return 0.0;
}

double deadAir(double gap, double behind) {
    if (gap <= 0.0 || behind >= 2.5 * gap) return 0.0;
    const double t = 1.0 - behind / (2.5 * gap);
    return gap * t * t * (3.0 - 2.0 * t);
}

std::vector<Vec2> wakeOf(const PanelFlow& flow, double alpha) {
    const auto& p = flow.path();
    const double last = 0.5 * (p[1] - p[0] + p[p.size() - 1] - p[p.size() - 2]);
    return wakeLine(flow, alpha, last, kWakeLength, kWakeGrowth);
}

FlowState startState(const PanelFlow& flow, const SectionCase& c, double alpha) {
    FlowState s;
    const std::size_t n = flow.count();
    s.alpha = alpha;
    const Eigen::VectorXd Q = flow.speedAt(alpha);
    s.u.resize(n);
    // The stagnation point is the turn of the speed that lies nearest to where the contour's middle is.
    std::size_t best = n / 2;
    double reach = 1e300;
    for (std::size_t i = 0; i + 1 < n; ++i)
        if (Q[static_cast<Eigen::Index>(i)] < 0.0 && Q[static_cast<Eigen::Index>(i + 1)] >= 0.0) {
            const double d = std::abs(flow.path()[i] - 0.5 * flow.path().back());
            if (d < reach) reach = d, best = i;
        }
    s.stagnation = std::clamp<std::size_t>(best, 1, n - 3);
    for (std::size_t i = 0; i < n; ++i)
        s.u[i] = std::max((i <= s.stagnation ? -1.0 : 1.0) * Q[static_cast<Eigen::Index>(i)], 1e-4);
    s.theta.assign(n, 0.0);
    s.m = s.C = s.theta;
    s.turbulent.assign(n, 0);
    placeStagnation(flow, s);
    marchSides(flow, s, c);
    s.wake = wakeOf(flow, alpha);
    startWake(flow, s, c);
    return s;
}

FlowState turned(const PanelFlow& flow, const FlowState& from, const SectionCase& c, double alpha, bool marched) {
    FlowState s = from;
    const Eigen::VectorXd change = flow.speedAt(alpha) - flow.speedAt(from.alpha);
    s.alpha = alpha;
    for (std::size_t i = 0; i < s.u.size(); ++i)
        s.u[i] += (i <= s.stagnation ? -1.0 : 1.0) * change[static_cast<Eigen::Index>(i)];
    findStagnation(flow, s, c);
    for (double& u : s.u) u = std::max(u, 1e-4);
    s.wake = wakeOf(flow, alpha);
    if (!marched) return s;
    std::vector<double> lead(s.u.size());
    for (std::size_t i = 0; i < lead.size(); ++i) {
        const double H = from.m[i] / (edgeSpeed(from.u[i], c.air) * from.theta[i]);
        lead[i] = i > kNearNose + std::max(s.stagnation, from.stagnation) ||
                          i + kNearNose < std::min(s.stagnation, from.stagnation)
                      ? H
                      : 0.0;
    }
    marchSides(flow, s, c, lead);
    return s;
}

void findStagnation(const PanelFlow& flow, FlowState& s, const SectionCase& c) {
    const std::size_t before = s.stagnation, n = s.u.size();
    const auto signedSpeed = [&](std::size_t i) { return (i <= before ? -1.0 : 1.0) * s.u[i]; };
    std::size_t k = before;
    while (k > 1 && signedSpeed(k) > 0.0) --k;
    while (k == before && k + 3 < n && signedSpeed(k + 1) < 0.0) {
        std::size_t to = k + 1;
        while (to + 3 < n && signedSpeed(to + 1) < 0.0) ++to;
        k = to;
        break;
    }
    s.stagnation = k;
    for (std::size_t i = std::min(k, before) + 1; i <= std::max(k, before); ++i) s.u[i] = std::abs(s.u[i]);
    placeStagnation(flow, s);
    for (std::size_t i = std::min(k, before) + 1; i <= std::max(k, before); ++i) asAtStagnation(flow, s, c, i);
}

bool findTransition(const PanelFlow& flow, FlowState& s, const SectionCase& c, Side side, bool gently) {
    const auto nodes = nodesOf(s, side);
    const auto station = [&](std::size_t j) {
        const std::size_t i = nodes[j];
        return Station{s.theta[i], s.m[i], s.C[i], s.u[i], lengthTo(flow, s, i)};
    };
    const auto adopt = [&](std::size_t j, const Station& p, bool turbulent) {
        const std::size_t i = nodes[j];
        s.theta[i] = p.theta, s.m[i] = p.m, s.C[i] = p.C, s.u[i] = p.u;
        s.turbulent[i] = turbulent;
    };
    const double trip = tripLength(flow, s, c, side);
    const IntervalCase laminar{c.air, Regime::Laminar, 0.0, 0.0}, behind{c.air, Regime::Turbulent, 0.0, 0.0};
    double& share = s.share[static_cast<std::size_t>(side)];
    std::size_t first = 1, was = 1;
    while (was < nodes.size() && !s.turbulent[nodes[was]]) ++was;
    s.C[nodes[0]] = 0.0, s.turbulent[nodes[0]] = 0;
    for (; first < nodes.size(); ++first) {
        const Station before = station(first - 1);
        Station here = station(first);
        if (first >= was) {  // turbulent until now: what a laminar layer does there
            if (first - was >= kMoves || (first == was && share < 1.0 && here.s <= trip + 1e-12)) break;
            if (first == was && here.s > trip) break;
            here.m *= 2.5 / std::max(1.0, here.m / (edgeSpeed(here.u, c.air) * here.theta));
            solveStation(before, here, laminar);
        }
        here.C = amplified(before, here, laminar);
        if (here.C >= c.nCritical || here.s > trip) break;
        if (first >= was)
            adopt(first, here, false);
        else
            s.C[nodes[first]] = here.C;
    }
    if (was > kMoves && first < was - kMoves) {
        first = was - kMoves;
        // Beyond n critical and still laminar: as far as the layers are to be believed yet.
        for (std::size_t j = 1; j < first; ++j) s.C[nodes[j]] = amplified(station(j - 1), station(j), laminar);
    }
    for (std::size_t j = first; j < std::min(was, nodes.size()); ++j) {
        const Station before = station(j - 1);
        Station here = station(j);
        here.C = 0.03;
        if (j == first)
            share = solveTransition(before, here, behind, c.nCritical, trip);
        else
            solveStation(before, here, behind);
        adopt(j, here, true);
    }
    if (gently && first == was + 1) {
        share = std::clamp(share - 1.0, 0.0, 0.5);
    } else if (first > was && first < nodes.size()) {
        share = placeOfTransition(station(first - 1), station(first), laminar, c.nCritical, trip);
    }
    return first != was;
}

}  // namespace cvane::section
