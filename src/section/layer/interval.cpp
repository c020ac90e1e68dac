#include "section/layer/interval.h"

#include <algorithm>
#include <array>

namespace cvane::section {
namespace {

using Slopes = Eigen::Matrix<double, 10, 1>;
using Number = Eigen::AutoDiffScalar<Slopes>;

/// Numbers with a derivative each: four of the first end, four of the second, the start, the place of transition.
Layer<Number> lifted(const Station& p, int offset) {
    const auto number = [](double v, int k) { return Number(v, Slopes::Unit(k)); };
    Layer<Number> out{number(p.theta, offset), number(p.m, offset + 3), number(p.C, offset + 1),
                      number(p.u, offset + 2), number(p.s, 8)};
    return out;
}

double value(const Number& x) {
    return x.value();
}

struct Parts {
    Number momentum, shape, third;
};

Equations gathered(const Parts& parts) {
    Equations e;
    const Number* all[3] = {&parts.momentum, &parts.shape, &parts.third};
    for (int i = 0; i < 3; ++i) {
        e.residual[i] = all[i]->value();
        const Slopes& d = all[i]->derivatives();
        if (d.size() == 0) continue;
        e.byFirst.row(i) = d.segment<4>(0).transpose();
        e.bySecond.row(i) = d.segment<4>(4).transpose();
        e.byStart[i] = d[8];
    }
    return e;
}

/// Weight of the second end: the mean, and all of it where the shape changes much (after transition).
template <class T>
T towardsSecond(const Closure<T>& a, const Closure<T>& b) {
    const T r = log((b.Hk - 1.0) / (a.Hk - 1.0));
    return T(0.5 + 0.5 * (r * r) / (r * r + 0.3));
}

template <class T>
struct TwoEnds {
    T momentum, shape;
    T weight;
};

/// The first two equations.
template <class T>
TwoEnds<T> flowEquations(const Layer<T>& p, const Closure<T>& a, const Layer<T>& q, const Closure<T>& b) {
    const T w = towardsSecond(a, b), v = 1.0 - w;
    const T du = log(b.speed / a.speed), ds = log(q.s / p.s);
    const T friction = v * (0.5 * a.cf * p.s / p.theta) + w * (0.5 * b.cf * q.s / q.theta);
    const T dissipation = v * (a.dissipation * p.s / p.theta) + w * (b.dissipation * q.s / q.theta);
    const T H = v * a.H + w * b.H, M2 = v * a.Me2 + w * b.Me2;
    const T density = v * (a.Hss / a.Hstar) + w * (b.Hss / b.Hstar);
    TwoEnds<T> out;
    out.momentum = log(q.theta / p.theta) + (2.0 + H - M2) * du - friction * ds;
    out.shape = log(b.Hstar / a.Hstar) + (2.0 * density + 1.0 - H) * du - (dissipation - friction) * ds;
    out.weight = w;
    return out;
}

template <class T>
T lagEquation(const Layer<T>& p, const Closure<T>& a, const Layer<T>& q, const Closure<T>& b) {
    const T ds = q.s - p.s;
    const T delta = 0.5 * (a.delta + b.delta);
    // Where a stretch is long against the layer's memory only its end counts. The weight is held in the derivatives:
    // with its own ones as many angles converge (1144 of 1156), but others, among them everyday ones of 2412.
    const double memory = value(2.0 * delta) / (4.2 * std::max(value(b.balance), 1e-3));
    const double w = 0.5 + 0.5 * value(ds) / (value(ds) + memory), v = 1.0 - w;
    return T(log(q.C / p.C) - 2.1 * (v * (a.balance - p.C) + w * (b.balance - q.C)) * ds / delta);
}

template <class T>
T growth(const Layer<T>& p, const Closure<T>& a, const Layer<T>& q, const Closure<T>& b) {
    return T(0.5 * (amplification(a, p.theta) + amplification(b, q.theta)) * (q.s - p.s));
}

template <class T>
Layer<T> mixed(const Layer<T>& p, const Layer<T>& q, const T& w) {
    const T v = 1.0 - w;
    Layer<T> out{T(v * p.theta + w * q.theta), T(v * p.m + w * q.m), T(p.C), T(v * p.u + w * q.u),
                 T(v * p.s + w * q.s)};
    return out;
}

}  // namespace

Equations between(const Station& first, const Station& second, const IntervalCase& c) {
    const auto p = lifted(first, 0), q = lifted(second, 4);
    const auto a = closureOf(p, c.air, c.regime, c.deadFirst), b = closureOf(q, c.air, c.regime, c.deadSecond);
    const auto two = flowEquations(p, a, q, b);
    Parts out{two.momentum, two.shape, Number(0.0)};
    if (c.regime == Regime::Laminar)
        out.third = q.C - p.C - growth(p, a, q, b);
    else
        out.third = lagEquation(p, a, q, b);
    return gathered(out);
}

Equations atStagnation(const Station& at, const IntervalCase& c) {
    const auto q = lifted(at, 4);
    const auto b = closureOf(q, c.air, Regime::Laminar, 0.0);
    const Number friction = 0.5 * b.cf * q.s / q.theta;
    Parts out{Number(2.0 + b.H - b.Me2 - friction),
              Number(2.0 * b.Hss / b.Hstar + 1.0 - b.H - (b.dissipation * q.s / q.theta - friction)), Number(q.C)};
    return gathered(out);
}

double amplified(const Station& first, const Station& second, const IntervalCase& c) {
    const auto a = closureOf(first, c.air, Regime::Laminar, 0.0), b = closureOf(second, c.air, Regime::Laminar, 0.0);
    return first.C + growth(first, a, second, b);
}

double placeOfTransition(const Station& first, const Station& second, const IntervalCase& c, double nCritical,
                         double tripS) {
    const double trip = std::clamp((tripS - first.s) / (second.s - first.s), 0.0, 1.0);
    const auto excess = [&](double w) { return amplified(first, mixed(first, second, w), c) - nCritical; };
    constexpr int kLooks = 10;
    double low = 0.0;
    for (int i = 1; i <= kLooks; ++i) {
        double high = trip * i / kLooks;
        if (high > low && excess(high) >= 0.0) {
            for (int turn = 0; turn < 30; ++turn) (excess(0.5 * (low + high)) < 0.0 ? low : high) = 0.5 * (low + high);
            return high;
        }
        low = high;
    }
    return trip;
}

TransitionEquations throughTransition(const Station& first, const Station& second, const IntervalCase& c,
                                      double nCritical, double share) {
    constexpr double kLeast = 1e-5;  // both parts keep a length
    const auto p = lifted(first, 0), q = lifted(second, 4);
    const Number w(std::clamp(share, kLeast, 1.0 - kLeast), Slopes::Unit(9));
    const auto a = closureOf(p, c.air, Regime::Laminar, 0.0);
    auto t = mixed(p, q, w);
    const auto atEnd = closureOf(t, c.air, Regime::Laminar, 0.0);
    const auto laminar = flowEquations(p, a, t, atEnd);
    const Number n = p.C + growth(p, a, t, atEnd);
    auto start = closureOf(t, c.air, Regime::Turbulent, 0.0);
    t.C = kStartStress * start.balance;
    start = closureOf(t, c.air, Regime::Turbulent, 0.0);
    const auto b = closureOf(q, c.air, Regime::Turbulent, 0.0);
    const auto after = flowEquations(t, start, q, b);
    const Parts sums{Number(laminar.momentum + after.momentum), Number(laminar.shape + after.shape),
                     Number(lagEquation(t, start, q, b))};
    TransitionEquations out;
    out.flow = gathered(sums);
    out.byShare << sums.momentum.derivatives()[9], sums.shape.derivatives()[9], sums.third.derivatives()[9];
    out.excess = n.value() - nCritical;
    out.excessByFirst = n.derivatives().segment<4>(0).transpose();
    out.excessBySecond = n.derivatives().segment<4>(4).transpose();
    out.excessByStart = n.derivatives()[8];
    out.excessByShare = n.derivatives()[9];
    return out;
}

}  // namespace cvane::section
