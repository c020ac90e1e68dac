#include <gtest/gtest.h>

#include <chrono>
#include <fstream>

#include "base/errors.h"
#include "base/units.h"
#include "bench/karman_trefftz.h"
#include "section/outline/coordinates.h"
#include "section/outline/edit.h"
#include "section/outline/families.h"
#include "section/outline/faults.h"
#include "section/polar/batch.h"
#include "section/polar/table.h"

using namespace cvane;
using namespace cvane::section;
using base::degree;

namespace {

std::string rows(const std::vector<Vec2>& p, const char* by = " ", const char* end = "\n", double scale = 1.0) {
    std::string out;
    for (const Vec2& q : p) out += std::to_string(scale * q.x()) + by + std::to_string(scale * q.y()) + end;
    return out;
}

/// Greatest difference of thickness and camber along the chord.
double apart(const Contour& a, const Contour& b) {
    const Figures f = measure(a), g = measure(b);
    double most = 0.0;
    for (std::size_t i = 0; i < f.meanLine.size(); ++i)
        if (f.meanLine[i].x() > 0.01)
            most = std::max({most, std::abs(f.meanLine[i].y() - g.meanLine[i].y()),
                             std::abs(f.halfDepth[i].y() - g.halfDepth[i].y())});
    return most;
}

std::string refusal(const std::string& text) {
    try {
        readCoordinates(text, "file.txt");
    } catch (const base::InputError& e) {
        return e.what();
    }
    return "";
}

MarchedLayer laminarLayer(double m, bool stagnation) {
    std::vector<double> s, u;
    for (int i = 1; i <= 200; ++i) s.push_back(0.005 * i), u.push_back(std::pow(s.back(), m));
    return marchLayer(s, u, {1e6, 0.0}, {1e9, 1e9}, stagnation);
}

std::vector<PolarPoint> polar(const std::string& code, double re, double from, double to, double step = 1.0) {
    PolarCase c;
    c.flow.air.reynolds = re;
    for (double a = from; a <= to + 1e-9; a += step) c.values.push_back(a * degree);
    return computePolar(PanelFlow(panelsOf(sectionFromCode(code), {})), c);
}

}  // namespace

TEST(Coordinates, AreReadInEveryOrderThatPeopleWrite) {
    const Contour c = sectionFromCode("2415");
    const TwoSides sides = sidesOf(c);
    auto back = c.points;
    std::reverse(back.begin(), back.end());
    const std::string texts[] = {
        "A name\n" + rows(c.points),
        rows(back),                                                    // the other way round
        "A name\r\n" + rows(c.points, "\t", "\r\n"),                   // tabs, Windows line ends
        rows(c.points, ", "),                                          // commas
        "name 15 percent\n" + rows(c.points, "  ", "\n", 100.0),       // per cent
        "two lists\n" + rows(sides.upper) + "\n" + rows(sides.lower),  // each from nose to tail
        "counts\n121. 121.\n\n" + rows(sides.upper) + "\n" + rows(sides.lower),
        rows(sides.upper) + rows(sides.lower),     // nothing between
        rows(sides.lower) + rows(sides.upper),     // lower side first
        rows(c.points) + rows({c.points.back()}),  // a doubled tail
    };
    for (const auto& text : texts) EXPECT_LT(apart(readCoordinates(text, "x"), c), 2e-5) << text.substr(0, 60);
}

TEST(Coordinates, ComeBackAsTheyWereWritten) {
    const Contour c = sectionFromCode("23112");
    for (const auto order : {PointOrder::Loop, PointOrder::TwoLists})
        EXPECT_LT(apart(readCoordinates(writeCoordinates(c, order), "x"), c), 2e-6);
}

TEST(Coordinates, BadFilesAreRefusedInOneSentence) {
    EXPECT_NE(refusal("").find("empty"), std::string::npos);
    EXPECT_NE(refusal("0.1\n0.2\n0.3\n0.5\n").find("two"), std::string::npos);
    EXPECT_NE(refusal("only words here\nand here\n").find("no points"), std::string::npos);
    EXPECT_NE(refusal("1 0\n0 0.1\n1 0.01\n").find("3 points"), std::string::npos);
    EXPECT_NE(refusal("1 0\n0.5 nan\n0 0\n0.5 -0.1\n1 0\n").find("not finite"), std::string::npos);
    EXPECT_NE(refusal("1 0\n0.5 hello\n").find("line 2"), std::string::npos);
    std::string many;
    for (int i = 0; i < 10000; ++i) many += std::to_string(i / 10000.0) + " 0.1\n";
    EXPECT_NE(refusal(many).find("Thin"), std::string::npos);
    std::string upright, flat;
    for (int i = 0; i < 20; ++i) upright += "0.5 " + std::to_string(0.05 * i) + "\n";
    EXPECT_NE(refusal(upright).find("chord"), std::string::npos);
    for (int i = 0; i < 20; ++i) flat += std::to_string(1.0 - 0.1 * std::abs(10 - i)) + " 0\n";
    EXPECT_FALSE(refusal(flat).empty());
}

TEST(Faults, AreFoundWhereTheyAre) {
    EXPECT_TRUE(faultsOf(sectionFromCode("4412")).empty());
    EXPECT_TRUE(faultsOf(sectionFromCode("laminar:12,40,0.3")).empty());
    auto kinked = sectionFromCode("0012");
    std::size_t k = 0;
    while (kinked.points[k].x() > 0.5) ++k;
    kinked.points[k].y() += 0.004;
    const auto kinks = faultsOf(kinked);
    ASSERT_FALSE(kinks.empty());
    EXPECT_EQ(kinks[0].kind, Fault::Kind::Kink);
    EXPECT_NEAR(kinks[0].place.x(), kinked.points[k].x(), 0.03);
    const auto fair = mended(kinked, kinks[0].mend);
    EXPECT_TRUE(faultsOf(fair).empty());
    EXPECT_LT(apart(fair, sectionFromCode("0012")), 1e-3);
    auto crossed = sectionFromCode("0012");
    for (Vec2& p : crossed.points)
        if (p.x() > 0.9) p.y() = -p.y();
    EXPECT_EQ(faultsOf(crossed)[0].kind, Fault::Kind::Crossing);
}

// NACA Report 460: thickness and camber are what the digits say; nose radius 1.1019 t^2.
TEST(FormulaSections, AreWhatTheirCodesSay) {
    const Figures f = measure(sectionFromCode("4412"));
    EXPECT_NEAR(f.thickness, 0.12, 0.0005);
    EXPECT_NEAR(f.camber, 0.04, 0.0002);
    EXPECT_NEAR(f.camberAt, 0.4, 0.01);
    EXPECT_NEAR(f.noseRadius, 1.1019 * 0.0144, 0.0004);
    EXPECT_NEAR(measure(sectionFromCode("0012-64")).thicknessAt, 0.4, 0.005);
    EXPECT_NEAR(measure(sectionFromCode("23012")).camberAt, 0.15, 0.01);
    EXPECT_NEAR(measure(sectionFromCode("ellipse:20")).thickness, 0.2, 1e-4);
    // What has no digits of its own; closed at the tail where that is asked for, else as published.
    const auto between = sectionFromCode("arcs:2.5,45,13.4"), closed = sectionFromCode("arcs:2.5,45,13.4,0");
    EXPECT_NEAR(measure(between).thickness, 0.134, 0.0005);
    EXPECT_NEAR(measure(between).camber, 0.025, 0.0002);
    EXPECT_NEAR(measure(between).camberAt, 0.45, 0.01);
    EXPECT_NEAR((between.points.front() - between.points.back()).norm(), 0.021 * 0.134, 1e-5);
    EXPECT_NEAR((closed.points.front() - closed.points.back()).norm(), 0.0, 1e-12);
    EXPECT_EQ(sectionFromCode("arcs:4,40,12").points, sectionFromCode("4412").points);
    for (const char* code : {"4012", "abc", "arcs:2,40", "arcs:2,0,12", "arcs:2,40,12,30", "arcs:40,40,12", "99999",
                             "laminar:15", "plate:90", "laminar:15,95"})
        EXPECT_THROW(sectionFromCode(code), base::InputError) << code;
}

// The mean line carries its design lift at zero angle with the same load along the chord (Report 824).
TEST(UniformLoad, GivesItsDesignLiftAtZeroAngle) {
    const PanelFlow thin(panelsOf(sectionFromCode("load:0.4,1,2"), {200}));
    EXPECT_NEAR(liftOf(thin, {}, thin.speedAt(0.0), 0.0), 0.4, 0.02);
}

TEST(LaminarForms, HaveTheirLowestPressureWhereItWasAsked) {
    for (const double at : {30.0, 45.0, 60.0}) {
        const auto c = sectionFromCode("laminar:14," + std::to_string(at));
        EXPECT_NEAR(measure(c).thickness, 0.14, 0.001);
        SectionCase still;
        still.viscous = false;
        EXPECT_NEAR(potentialFigures(PanelFlow(panelsOf(c, {})), still, 0.0).lowestCpAt, 0.01 * at, 0.03);
    }
}

TEST(Edits, ChangeWhatIsAskedAndNothingElse) {
    const Contour c = sectionFromCode("4412");
    SectionEdit e;
    e.thickness = 0.15;
    const Figures f = measure(edited(c, e));
    EXPECT_NEAR(f.thickness, 0.15, 5e-4);
    EXPECT_NEAR(f.camber, 0.04, 5e-4);
    EXPECT_NEAR(f.noseRadius / measure(c).noseRadius, 1.5625, 0.05);  // by the square of the thickness
    e = {};
    e.noseRadius = 0.022;
    EXPECT_NEAR(measure(edited(c, e)).noseRadius, 0.022, 0.001);
    EXPECT_NEAR(measure(edited(c, e)).thickness, 0.12, 0.001);
    e = {};
    e.camberAt = 0.5;
    EXPECT_NEAR(measure(edited(c, e)).camberAt, 0.5, 0.02);
    EXPECT_LT(apart(edited(c, {}), c), 1e-3);
    EXPECT_LT(apart(between(c, sectionFromCode("0012"), 1.0), sectionFromCode("0012")), 1e-3);
    e = {};
    e.thickness = 3.0;
    EXPECT_THROW(edited(c, e), base::InputError);
}

// Thin-section theory: a flap at 75 % turned by 10 deg gives cl 2 (theta_h + sin theta_h) x angle, 1.22 of it per rad
// is lost to nothing in potential flow but thickness. H. Glauert, The Elements of Aerofoil and Airscrew Theory, 1926.
TEST(Flap, LiftsAsThinSectionTheorySays) {
    const auto lift = [](const Contour& c) {
        const PanelFlow f(panelsOf(c, {}));
        return liftOf(f, {}, f.speedAt(0.0), 0.0);
    };
    const Contour plain = sectionFromCode("0006");
    const double theta = std::acos(2.0 * 0.75 - 1.0);
    const double expected = 2.0 * (theta + std::sin(theta)) * 5.0 * degree;
    EXPECT_NEAR(lift(withFlap(plain, 0.75, 5.0 * degree)) - lift(plain), expected, 0.08 * expected);
    EXPECT_NEAR(lift(withFlap(plain, 0.75, -5.0 * degree)), -lift(withFlap(plain, 0.75, 5.0 * degree)), 1e-3);
}

// Exact flow: L. M. Milne-Thomson, Theoretical Aerodynamics, section 7.6. 10 % thick, trailing edge 10 deg.
TEST(PotentialFlow, IsThatOfTheKarmanTrefftzSection) {
    const bench::KarmanTrefftz exact(0.055, 0.0, 10.0 * degree);
    const auto c = exact.contour(400);
    const PanelFlow flow(panelsOf(c, {}));
    for (const double alpha : {0.0, 4.0, 8.0}) {
        const auto q = flow.speedAt(alpha * degree);
        double worst = 0.0;
        for (std::size_t i = 1; i + 1 < flow.count(); ++i) {
            const double e = exact.speed(exact.nearest(flow.nodes()[i]), alpha * degree);
            worst =
                std::max(worst, std::abs(q[static_cast<Eigen::Index>(i)] * q[static_cast<Eigen::Index>(i)] - e * e));
        }
        EXPECT_LT(worst, 0.02) << alpha;
        if (alpha == 0.0) continue;
        EXPECT_NEAR(liftOf(flow, {}, q, alpha * degree) / exact.lift(alpha * degree), 1.0, 0.002);
    }
}

TEST(PotentialFlow, FeelsNoDragAndNoSideOfAMirroredSection) {
    const PanelFlow flow(panelsOf(sectionFromCode("0015"), {}));
    const auto up = flow.speedAt(3.0 * degree), down = flow.speedAt(-3.0 * degree);
    for (Eigen::Index i = 0; i < up.size(); ++i) EXPECT_NEAR(up[i], -down[up.size() - 1 - i], 1e-6);
}

// H. Schlichting, Boundary-Layer Theory, 1979, tables 7.1 and 9: theta, H and wall shear in similarity units.
TEST(LaminarLayer, IsThatOfBlasiusAndOfFalknerAndSkan) {
    struct Exact {
        double beta, theta, H, shear, tolerance;
    };
    for (const Exact e : {Exact{0.0, 0.4696, 2.591, 0.4696, 0.01}, Exact{-0.1, 0.5150, 2.801, 0.3193, 0.03},
                          Exact{0.5, 0.3503, 2.297, 0.9277, 0.03}, Exact{1.0, 0.2923, 2.216, 1.2326, 0.03}}) {
        const double m = e.beta / (2.0 - e.beta);
        const auto p = laminarLayer(m, e.beta == 1.0).stations.back();
        const auto c = closureOf(p, {1e6, 0.0}, Regime::Laminar, 0.0);
        const double unit = std::sqrt(2.0 / (m + 1.0) / 1e6);
        EXPECT_NEAR(p.theta / unit / e.theta, 1.0, e.tolerance) << e.beta;
        EXPECT_NEAR(c.H / e.H, 1.0, e.tolerance) << e.beta;
        EXPECT_NEAR(0.5 * c.cf * 1e6 * unit / e.shear, 1.0, e.tolerance) << e.beta;
    }
}

// L. Howarth 1938: separation of U = 1 - x at x = 0.120.
TEST(LaminarLayer, SeparatesWhereHowarthsDoes) {
    std::vector<double> s, u;
    for (int i = 1; i <= 400; ++i) s.push_back(4e-4 * i), u.push_back(1.0 - s.back());
    const auto layer = marchLayer(s, u, {1e6, 0.0}, {1e9, 1e9}, false);
    double at = 0.0;
    for (std::size_t i = 0; i < s.size() && at == 0.0; ++i)
        if (closureOf(layer.stations[i], {1e6, 0.0}, Regime::Laminar, 0.0).cf < 0.0) at = s[i];
    EXPECT_NEAR(at, 0.120, 0.004);
}

// 0.455 / ln^2(0.06 Re_x), White; correlations differ by some 5 % at 1e6 (docs/validation.md has the numbers).
TEST(TurbulentLayer, HasTheFrictionOfAPlate) {
    std::vector<double> s, u;
    for (int i = 0; i <= 300; ++i) s.push_back(1e-4 * std::pow(1e4, i / 300.0)), u.push_back(1.0);
    const LayerAir air{1e8, 0.0};
    const auto layer = marchLayer(s, u, air, {9.0, 1.01e-4}, false);
    for (std::size_t i = 0; i < s.size(); ++i) {
        const double Rx = 1e8 * s[i];
        if (Rx < 1e6) continue;
        const double cf = closureOf(layer.stations[i], air, Regime::Turbulent, 0.0).cf;
        EXPECT_NEAR(cf * std::pow(std::log(0.06 * Rx), 2) / 0.455, 1.0, 0.07) << Rx;
    }
}

// A. M. O. Smith and N. Gamberoni 1956; J. L. van Ingen 1956: a plate in quiet air turns at Re_x of 2.5 to 3.5 million.
TEST(Transition, OfAPlateInQuietAirComesWhereItIsMeasured) {
    std::vector<double> s, u;
    for (int i = 1; i <= 400; ++i) s.push_back(0.01 * i), u.push_back(1.0);
    const LayerAir air{1e6, 0.0};
    const double quiet = marchLayer(s, u, air, {9.0, 1e9}, false).transitionS;
    EXPECT_GT(quiet, 2.5);
    EXPECT_LT(quiet, 3.5);
    EXPECT_LT(marchLayer(s, u, air, {nFromTurbulence(0.01), 1e9}, false).transitionS, 0.7 * quiet);
    EXPECT_NEAR(marchLayer(s, u, air, {9.0, 1.234}, false).transitionS, 1.234, 0.01);
}

TEST(SymmetricSection, HasNoLiftAtZeroAngleAndMirroredLiftElsewhere) {
    const auto p = polar("0012", 2e6, -4.0, 4.0, 4.0);
    ASSERT_TRUE(p[0].figures.converged && p[1].figures.converged && p[2].figures.converged);
    EXPECT_NEAR(p[1].figures.cl, 0.0, 1e-5);
    EXPECT_NEAR(p[0].figures.cl, -p[2].figures.cl, 2e-4);
    EXPECT_NEAR(p[0].figures.cd, p[2].figures.cd, 2e-5);
    EXPECT_NEAR(p[0].figures.transition[0], p[2].figures.transition[1], 2e-3);
}

// NACA Report 824, smooth, Re 6 to 9 M: cl max 1.66, least cd 0.0060 to 0.0063.
TEST(Polar, Of4412FindsStallAndLeastDrag) {
    const auto p = polar("4412", 6e6, -6.0, 18.0);
    int converged = 0;
    for (const auto& q : p) converged += q.figures.converged;
    EXPECT_GE(converged, 24);
    const auto f = figuresOfPolar(p);
    ASSERT_TRUE(f);
    EXPECT_TRUE(f->stalls);
    EXPECT_NEAR(f->clMax, 1.66, 0.12 * 1.66);
    EXPECT_NEAR(f->cdMin, 0.0061, 0.0006);
}

TEST(Polar, DragFallsAndTransitionMovesAftAsReynoldsNumberFalls) {
    const auto low = polar("0012", 1e6, 0.0, 0.0), high = polar("0012", 9e6, 0.0, 0.0);
    EXPECT_GT(low[0].figures.transition[0], high[0].figures.transition[0]);
    EXPECT_GT(low[0].figures.cdFriction, 0.0);
    EXPECT_LT(low[0].figures.cdFriction, low[0].figures.cd);
}

TEST(Polar, AtGivenLiftsFindsTheAnglesThatHaveThem) {
    const PanelFlow flow(panelsOf(sectionFromCode("2412"), {}));
    PolarCase c;
    c.along = PolarCase::Along::Lift;
    c.values = {0.2, 0.4, 0.6};
    const auto p = computePolar(flow, c);
    for (std::size_t i = 0; i < p.size(); ++i) {
        ASSERT_TRUE(p[i].figures.converged);
        EXPECT_NEAR(p[i].figures.cl, c.values[i], 1e-5);
    }
    c.kind = PolarCase::Kind::FixedLift;
    for (const auto& q : computePolar(flow, c))
        EXPECT_NEAR(q.figures.reynolds * std::sqrt(q.figures.cl), c.flow.air.reynolds, 100.0);
}

// Prandtl-Glauert: to first order lift grows by 1 / sqrt(1 - M^2).
TEST(MachNumber, RaisesLiftAndIsRefusedBeyondItsRange) {
    const PanelFlow flow(panelsOf(sectionFromCode("0006"), {}));
    SectionCase c;
    c.viscous = false;
    const double still = potentialFigures(flow, c, degree).cl;
    c.air.mach = 0.5;
    EXPECT_NEAR(potentialFigures(flow, c, degree).cl / still, 1.0 / std::sqrt(0.75), 0.03);
    PolarCase p;
    p.values = {0.0};
    p.flow.air.mach = 0.9;
    EXPECT_THROW(computePolar(flow, p), base::InputError);
    p.flow.air.mach = 0.0;
    for (const double re : {0.0, 1e12}) {
        p.flow.air.reynolds = re;
        EXPECT_THROW(computePolar(flow, p), base::InputError);
    }
    p.flow.air.reynolds = 1e6;
    p.values = {90.0 * degree};
    EXPECT_THROW(computePolar(flow, p), base::InputError);
}

TEST(Batch, IsThePolarsOneByOneAndCanBeStopped) {
    const auto flow = std::make_shared<const PanelFlow>(panelsOf(sectionFromCode("2412"), {}));
    PolarCase c;
    for (int a = -2; a <= 6; a += 2) c.values.push_back(a * degree);
    std::vector<BatchJob> jobs(2, {0, c});
    jobs[1].what.flow.air.reynolds = 3e6;
    const auto both = computeBatch({flow}, jobs);
    const auto one = computePolar(*flow, jobs[1].what);
    for (std::size_t i = 0; i < one.size(); ++i) EXPECT_EQ(both[1][i].figures.cl, one[i].figures.cl);
    EXPECT_THROW(computeBatch({flow}, jobs, [](std::size_t, const PolarPoint&) { return false; }), base::Cancelled);
}

TEST(Point, ComesBackFromItsJson) {
    const auto p = polar("4412", 1e6, 2.0, 2.0);
    const auto back = figuresFromJson(jsonOf(p[0].figures));
    EXPECT_EQ(back.cl, p[0].figures.cl);
    EXPECT_EQ(back.transition, p[0].figures.transition);
    EXPECT_THROW(figuresFromJson({{"cl", 1.0}}), base::InputError);
}
