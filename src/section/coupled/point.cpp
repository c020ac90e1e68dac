#include "section/coupled/point.h"

#include <algorithm>
#include <cmath>

namespace cvane::section {
namespace {

/// x at a length along the contour.
double placeAt(const PanelFlow& flow, double path) {
    const auto& p = flow.path();
    const auto it = std::upper_bound(p.begin() + 1, p.end() - 1, path);
    const auto i = static_cast<std::size_t>(it - p.begin()) - 1;
    const double w = std::clamp((path - p[i]) / (p[i + 1] - p[i]), 0.0, 1.0);
    return (1.0 - w) * flow.nodes()[i].x() + w * flow.nodes()[i + 1].x();
}

/// Moment about the quarter chord, nose up, by pressures at the nodes.
double momentOf(const PanelFlow& flow, const LayerAir& air, const Eigen::VectorXd& q) {
    const std::size_t n = flow.count();
    double sum = 0.0;
    for (std::size_t i = 0; i < n; ++i) {
        const std::size_t j = (i + 1) % n;
        const Vec2 &a = flow.nodes()[i], &b = flow.nodes()[j];
        const double pa = pressureAt(q[static_cast<Eigen::Index>(i)], air),
                     pb = pressureAt(q[static_cast<Eigen::Index>(j)], air);
        const Vec2 d = b - a, arm = 0.5 * (a + b) - Vec2(0.25, 0.0);
        // Force -p n, n = (dz, -dx); moment nose up = z fx - x fz, and what p's slope adds about the piece's middle.
        const double p = 0.5 * (pa + pb);
        sum += -p * (arm.y() * d.y() + arm.x() * d.x()) - (pb - pa) / 12.0 * d.squaredNorm();
    }
    return sum;
}

void notePressures(PointFigures& f, const PanelFlow& flow, const LayerAir& air, const Eigen::VectorXd& q) {
    f.lowestCp = 1e300;
    for (Eigen::Index i = 0; i < q.size(); ++i) {
        const double cp = pressureAt(q[i], air);
        if (cp < f.lowestCp) f.lowestCp = cp, f.lowestCpAt = flow.nodes()[static_cast<std::size_t>(i)].x();
        f.highestMach = std::max(f.highestMach, std::sqrt(edgeMachSquared(edgeSpeed(std::abs(q[i]), air), air)));
    }
}

}  // namespace

std::optional<double> PointFigures::separation(Side side) const {
    const auto& all = backflow[static_cast<std::size_t>(side)];
    if (all.empty() || all.back().to < 0.999) return {};
    return all.back().from;
}

std::vector<Stretch> PointFigures::bubbles(Side side) const {
    auto all = backflow[static_cast<std::size_t>(side)];
    if (separation(side)) all.pop_back();
    return all;
}

Distribution distributionOf(const PanelFlow& flow, const SectionCase& c, const FlowState& s) {
    Distribution out;
    for (const Side side : {Side::Upper, Side::Lower})
        for (const std::size_t i : nodesOf(s, side)) {
            const Station p{s.theta[i], s.m[i], s.C[i], s.u[i], lengthTo(flow, s, i)};
            const bool turbulent = s.turbulent[i];
            const auto k = closureOf(p, c.air, turbulent ? Regime::Turbulent : Regime::Laminar, 0.0);
            const Vec2& x = flow.nodes()[i];
            // On the wind's pressure, not the edge's.
            const double cf = k.cf * k.speed * k.speed;
            (side == Side::Upper ? out.upper : out.lower)
                .push_back({x.x(), x.y(), p.s, pressureAt(p.u, c.air), k.speed, k.H * p.theta, p.theta, k.H, cf,
                            turbulent ? 0.0 : p.C, turbulent ? p.C * p.C : 0.0, turbulent});
        }
    double behind = 0.0;
    for (std::size_t w = 0; w < s.wake.size(); ++w) {
        if (w > 0) behind += (s.wake[w] - s.wake[w - 1]).norm();
        const Station p{s.wakeTheta[w], s.wakeM[w], s.wakeC[w], s.wakeU[w], 1.0 + behind};
        const auto k = closureOf(p, c.air, Regime::Wake, deadAir(flow.baseGap(), behind));
        out.wake.push_back({s.wake[w].x(), s.wake[w].y(), behind, pressureAt(p.u, c.air), k.speed, p.m / k.speed,
                            p.theta, k.H, 0.0, 0.0, p.C * p.C, true});
    }
    return out;
}

PointFigures figuresOf(const PanelFlow& flow, const SectionCase& c, const FlowState& s, const Settled& settled) {
    PointFigures f;
    f.alpha = s.alpha, f.reynolds = c.air.reynolds, f.mach = c.air.mach, f.nCritical = c.nCritical;
    f.converged = settled.converged, f.iterations = settled.iterations, f.residual = settled.residual;
    const auto q = signedSpeeds(s);
    f.cl = liftOf(flow, c.air, q, s.alpha);
    f.cm = momentOf(flow, c.air, q);
    notePressures(f, flow, c.air, q);
    const auto d = distributionOf(flow, c, s);
    const LayerSample& end = d.wake.back();
    // Far behind: H. B. Squire and A. D. Young, ARC R&M 1838, 1937.
    f.cd = 2.0 * end.theta * std::pow(end.speed, 0.5 * (end.H + 5.0));
    const Vec2 wind(std::cos(s.alpha), std::sin(s.alpha));
    for (const Side side : {Side::Upper, Side::Lower}) {
        const auto which = static_cast<std::size_t>(side);
        const auto& l = side == Side::Upper ? d.upper : d.lower;
        f.transition[which] = std::clamp(placeAt(flow, s.transitionPath[which]), 0.0, 1.0);
        f.tripped[which] = s.tripped[which];
        auto& back = f.backflow[which];
        for (std::size_t j = 1; j < l.size(); ++j) {
            const auto &a = l[j - 1], &b = l[j];
            f.cdFriction += 0.5 * (a.cf + b.cf) * Vec2(b.x - a.x, b.z - a.z).dot(wind);
            const double w = a.cf / (a.cf - b.cf), x = a.x + w * (b.x - a.x);
            if (a.cf >= 0.0 && b.cf < 0.0) back.push_back({x, 1.0});
            if (a.cf < 0.0 && b.cf >= 0.0 && !back.empty()) back.back().to = x;
        }
    }
    return f;
}

PointFigures potentialFigures(const PanelFlow& flow, const SectionCase& c, double alpha) {
    PointFigures f;
    f.alpha = alpha, f.mach = c.air.mach, f.viscous = false, f.converged = true;
    const Eigen::VectorXd q = flow.speedAt(alpha);
    f.cl = liftOf(flow, c.air, q, alpha);
    f.cm = momentOf(flow, c.air, q);
    notePressures(f, flow, c.air, q);
    return f;
}

Distribution potentialDistribution(const PanelFlow& flow, const SectionCase& c, double alpha) {
    const Eigen::VectorXd q = flow.speedAt(alpha);
    Distribution out;
    std::size_t k = 0;
    while (k + 1 < flow.count() && q[static_cast<Eigen::Index>(k)] < 0.0) ++k;
    for (std::size_t i = 0; i < flow.count(); ++i) {
        const double u = std::abs(q[static_cast<Eigen::Index>(i)]);
        LayerSample p;
        p.x = flow.nodes()[i].x(), p.z = flow.nodes()[i].y();
        p.s = std::abs(flow.path()[i] - flow.path()[k]);
        p.Cp = pressureAt(u, c.air), p.speed = edgeSpeed(u, c.air);
        (i < k ? out.upper : out.lower).push_back(p);
    }
    std::reverse(out.upper.begin(), out.upper.end());
    for (const Vec2& w : wakeOf(flow, alpha)) out.wake.push_back({w.x(), w.y()});
    return out;
}

std::optional<double> sonicCp(const LayerAir& air) {
    if (air.mach <= 0.0) return {};
    const double M2 = air.mach * air.mach;
    return 2.0 / (1.4 * M2) * (std::pow((1.0 + 0.2 * M2) / 1.2, 3.5) - 1.0);
}

}  // namespace cvane::section
