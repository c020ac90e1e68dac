// The equations of a boundary layer: their derivatives, their seams, and what they say where the answer is known.
#include <gtest/gtest.h>

#include <array>
#include <cmath>

#include "section/layer/closure.h"
#include "section/layer/interval.h"
#include "section/layer/march.h"

using namespace cvane::section;

namespace {
/// A laminar, turbulent or wake station with the given shape.
Station stationOf(double theta, double H, double C, double u, double s) {
    return {theta, u * H * theta, C, u, s};
}

struct Stretch {
    const char* name;
    Station first, second;
    IntervalCase c;
};

std::vector<Stretch> stretches() {
    std::vector<Stretch> out;
    for (const double mach : {0.0, 0.4}) {
        const LayerAir air{1e6, mach};
        out.push_back({"laminar",
                       stationOf(4e-4, 2.6, 1.0, 1.05, 0.30),
                       stationOf(4.3e-4, 2.7, 2.0, 1.04, 0.33),
                       {air, Regime::Laminar, 0.0, 0.0}});
        out.push_back({"turbulent",
                       stationOf(2e-3, 1.5, 0.05, 1.05, 0.60),
                       stationOf(2.2e-3, 1.6, 0.055, 1.00, 0.66),
                       {air, Regime::Turbulent, 0.0, 0.0}});
        out.push_back({"wake",
                       stationOf(5e-3, 1.6, 0.06, 0.90, 1.02),
                       stationOf(5e-3, 1.4, 0.06, 0.93, 1.06),
                       {air, Regime::Wake, 1e-3, 5e-4}});
    }
    return out;
}

double& unknown(Station& at, int i) {
    return i == 0 ? at.theta : i == 1 ? at.C : i == 2 ? at.u : at.m;
}

/// What a function of a station changes by when one of its unknowns does, by differences to both sides.
template <class F>
auto slopeOver(Station at, int i, F&& f) {
    const double h = 1e-6 * std::max(std::abs(unknown(at, i)), 1e-6);
    Station low = at, high = at;
    unknown(low, i) -= h;
    unknown(high, i) += h;
    return ((f(high) - f(low)) / (2.0 * h)).eval();
}

// Rounding of the difference's numerator, 1e-16 / 1e-6 of the residual, and the curvature's share of its step.
// @param equations  how many of the three: the lag's derivatives hold its weight, and are not its slopes
template <class A, class B>
void expectAlike(const A& ours, const B& byDifferences, const std::string& what, int equations = 3) {
    EXPECT_LT((ours - byDifferences).head(equations).norm(), 1e-5 * byDifferences.norm() + 1e-6)
        << what << ": " << ours.transpose() << " for " << byDifferences.transpose();
}
}  // namespace

TEST(LayerEquations, DerivativesAreTheSlopesOfTheirResiduals) {
    for (const auto& [name, first, second, c] : stretches()) {
        const auto e = between(first, second, c);
        const int equations = c.regime == Regime::Laminar ? 3 : 2;
        for (int i = 0; i < 4; ++i) {
            const std::string what = std::string(name) + ", unknown " + std::to_string(i);
            expectAlike(e.byFirst.col(i),
                        slopeOver(first, i, [&](const Station& s) { return between(s, second, c).residual; }), what,
                        equations);
            expectAlike(e.bySecond.col(i),
                        slopeOver(second, i, [&](const Station& s) { return between(first, s, c).residual; }), what,
                        equations);
        }
        const auto moved = [&](double by) {
            Station a = first, b = second;
            a.s += by;
            b.s += by;
            return between(a, b, c).residual;
        };
        expectAlike(e.byStart, ((moved(1e-6) - moved(-1e-6)) / 2e-6).eval(), std::string(name) + ", start", equations);
    }
}

TEST(LayerEquations, OfAStretchWithTransitionHaveTheSlopesOfTheirResidualsToo) {
    const auto laminar = stationOf(4e-4, 2.7, 8.0, 1.05, 0.40), turbulent = stationOf(5.5e-4, 1.9, 0.05, 1.03, 0.46);
    const IntervalCase c{{1e6, 0.0}, Regime::Laminar, 0.0, 0.0};
    const double share = 0.4;
    const auto at = [&](const Station& a, const Station& b, double x) { return throughTransition(a, b, c, 9.0, x); };
    const auto e = at(laminar, turbulent, share);
    for (int i = 0; i < 4; ++i) {
        const std::string what = "unknown " + std::to_string(i);
        expectAlike(e.flow.byFirst.col(i),
                    slopeOver(laminar, i, [&](const Station& s) { return at(s, turbulent, share).flow.residual; }),
                    what, 2);
        expectAlike(e.flow.bySecond.col(i),
                    slopeOver(turbulent, i, [&](const Station& s) { return at(laminar, s, share).flow.residual; }),
                    what, 2);
    }
    const double h = 1e-6;
    expectAlike(e.byShare,
                ((at(laminar, turbulent, share + h).flow.residual - at(laminar, turbulent, share - h).flow.residual) /
                 (2.0 * h))
                    .eval(),
                "share", 2);
    EXPECT_NEAR(e.excessByShare,
                (at(laminar, turbulent, share + h).excess - at(laminar, turbulent, share - h).excess) / (2.0 * h),
                1e-5 * std::abs(e.excessByShare));
    // Waves grow along the way: the later the place, the more n is above the critical one.
    EXPECT_GT(e.excessByShare, 0.0);
}

// H. Schlichting, Boundary-Layer Theory, 1979, tables 7.1 and 9: H, energy shape H*, theta's Reynolds number times
// cf/2.
TEST(LaminarClosure, HasTheShapeAndFrictionOfExactLayers) {
    struct Exact {
        double H, Hstar, shear;
    };
    for (const Exact e : {Exact{2.591, 1.573, 0.2205}, Exact{2.216, 1.626, 0.3603}}) {
        EXPECT_NEAR(laminarEnergy(e.H), e.Hstar, 0.004) << e.H;
        EXPECT_NEAR(0.5 * laminarFriction(e.H, 1.0), e.shear, 0.03 * e.shear) << e.H;
    }
    // The last attached of Falkner's and Skan's layers has H 4.03 and no friction.
    EXPECT_NEAR(0.5 * laminarFriction(4.03, 1.0), 0.0, 0.01);
}

// The formulas of both branches meet with one value: a layer that passes the seam must not jump.
TEST(Closure, IsContinuousWhereItsBranchesMeet) {
    const double h = 1e-9;
    EXPECT_NEAR(laminarEnergy(4.0 - h), laminarEnergy(4.0 + h), 1e-7);
    EXPECT_NEAR(laminarFriction(7.4 - h, 500.0), laminarFriction(7.4 + h, 500.0), 1e-9);
    EXPECT_NEAR(laminarDissipation(4.0 - h, 500.0), laminarDissipation(4.0 + h, 500.0), 1e-9);
    for (const double R : {300.0, 1000.0, 20000.0}) {
        const double seam = R < 400.0 ? 4.0 : 3.0 + 400.0 / R;
        EXPECT_NEAR(turbulentEnergy(seam - h, R), turbulentEnergy(seam + h, R), 1e-7) << R;
    }
    EXPECT_NEAR(turbulentEnergy(2.0, 400.0 - 1e-7), turbulentEnergy(2.0, 400.0 + 1e-7), 1e-7);
}

TEST(TurbulentClosure, InEquilibriumOnAPlateHasTheStressOfItsWall) {
    // On a plate the stress of the outer layer is about that of the wall: 2 C_eq^2 of the order of cf.
    const LayerAir air{1e7, 0.0};
    const auto c = closureOf(stationOf(1.2e-3, 1.36, 0.03, 1.0, 0.8), air, Regime::Turbulent, 0.0);
    EXPECT_GT(2.0 * c.balance * c.balance, 0.5 * c.cf);
    EXPECT_LT(2.0 * c.balance * c.balance, 2.0 * c.cf);
    // Friction falls with H and vanishes where layers separate, near 2.4 to 3.
    EXPECT_GT(turbulentFriction(1.4, 5000.0, 0.0), turbulentFriction(2.0, 5000.0, 0.0));
    EXPECT_GT(turbulentFriction(2.0, 5000.0, 0.0), 0.0);
    EXPECT_LT(turbulentFriction(3.5, 5000.0, 0.0), 0.0);
}

TEST(Wake, KeepsItsDragAtTheSpeedOfTheWind) {
    // Without friction and at constant speed theta, half the drag, does not change, whatever H does.
    const IntervalCase c{{1e6, 0.0}, Regime::Wake, 0.0, 0.0};
    const auto first = stationOf(4e-3, 1.5, 0.06, 1.0, 1.2);
    auto second = stationOf(4e-3, 1.3, 0.05, 1.0, 1.4);
    EXPECT_NEAR(between(first, second, c).residual[0], 0.0, 1e-12);
    // A wake that fills up is carried to the wind's speed: theta falls where the air speeds up (Squire and Young).
    auto station = first;
    for (int i = 1; i <= 10; ++i) {
        Station next = station;
        next.s += 0.05;
        next.u = 0.9 + 0.01 * i;
        if (i == 1) station.u = 0.9, station.m = 0.9 * 1.5 * station.theta;
        next.m = next.u * station.m / station.u;
        ASSERT_TRUE(solveStation(station, next, c));
        EXPECT_LT(next.theta, station.theta);
        station = next;
    }
}

TEST(Stagnation, LayerHasTheThicknessOfHiemenz) {
    // u = a s: theta = 0.2923 (nu / a)^(1/2), H = 2.216 (K. Hiemenz 1911, in Schlichting).
    const double a = 4.0, R = 1e6, theta = 0.2923 / std::sqrt(a * R);
    std::vector<double> s, u;
    for (int i = 1; i <= 20; ++i) {
        s.push_back(1e-3 * i);
        u.push_back(a * s.back());
    }
    const auto layer = marchLayer(s, u, {R, 0.0}, {9.0, 1e9});
    for (const Station& at : layer.stations) {
        EXPECT_NEAR(at.theta, theta, 0.03 * theta) << at.s;
        EXPECT_NEAR(at.m / at.u / at.theta, 2.216, 0.03 * 2.216) << at.s;
    }
    EXPECT_EQ(layer.firstTurbulent, layer.stations.size());
}

TEST(Transition, ComesSoonerInRougherAirAndWhereTheSpeedFalls) {
    const auto place = [](double n, double slope) {
        std::vector<double> s, u;
        for (int i = 1; i <= 300; ++i) {
            s.push_back(0.01 * i);
            u.push_back(std::pow(s.back() / s.front(), slope));
        }
        return marchLayer(s, u, {1e6, 0.0}, {n, 1e9}, false).transitionS;
    };
    EXPECT_LT(place(3.0, 0.0), place(6.0, 0.0));
    EXPECT_LT(place(6.0, 0.0), place(9.0, 0.0));
    EXPECT_LT(place(9.0, -0.04), place(9.0, 0.0));
    EXPECT_GT(place(9.0, 0.05), place(9.0, 0.0));
}

TEST(Similarity, OfLayersHoldsBetweenLengthAndReynoldsNumber) {
    // Twice as long at half the Reynolds number: the same layer in other units.
    const auto march = [](double length) {
        std::vector<double> s, u;
        for (int i = 1; i <= 200; ++i) {
            s.push_back(0.005 * length * i);
            u.push_back(1.0 + 0.2 * std::sin(0.01 * i));
        }
        return marchLayer(s, u, {2e6 / length, 0.0}, {9.0, 1e9}, false);
    };
    const auto one = march(1.0), two = march(2.0);
    EXPECT_EQ(one.firstTurbulent, two.firstTurbulent);
    for (std::size_t i = 0; i < one.stations.size(); ++i) {
        const auto &a = one.stations[i], &b = two.stations[i];
        EXPECT_NEAR(b.theta, 2.0 * a.theta, 1e-6 * b.theta) << i;  // to what the steps' iteration leaves
        EXPECT_NEAR(b.m, 2.0 * a.m, 1e-6 * b.m) << i;
    }
}
