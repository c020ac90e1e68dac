// What results say: quantities, slopes, loadings, the wake's drag, against closed forms.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>
#include <random>

#include "base/errors.h"
#include "base/units.h"
#include "bench/models.h"
#include "grid/build.h"
#include "readout/loading.h"
#include "readout/quantities.h"
#include "readout/re_reference.h"
#include "readout/slopes.h"
#include "readout/wake_survey.h"
#include "readout/what_differs.h"

using namespace cvane;
using readout::Result;

namespace {
constexpr double kPi = std::numbers::pi;

/// A result with this force [N] and moment [N m] about the moment centre.
Result resultOf(const Vec3& force, const Vec3& moment, double alpha_deg = 0.0, double beta_deg = 0.0) {
    Result r;
    r.verdict = flow::Verdict::Settled;
    r.wind.speed = 10.0;
    r.wind.alpha = alpha_deg * base::degree;
    r.wind.beta = beta_deg * base::degree;
    r.reference = {2.0, 0.5, 4.0, Vec3(0.3, 0.0, 0.1)};
    r.total.pressureForce = force;
    r.total.moment = moment;
    r.total.coefficients = r.coefficients = air::coefficients(force, moment, r.wind, r.reference);
    return r;
}
double valueOf(const char* id, const Result& r, const std::optional<readout::Axles>& axles = {}) {
    const auto v = readout::resultQuantity(id).of(r, axles);
    EXPECT_TRUE(v.value.has_value()) << id << ": " << v.why;
    return v.value.value_or(std::nan(""));
}

struct Walls {
    grid::Grid grid;
    grid::Geometry geometry;
    readout::WallField field;
};
const Walls& ball() {
    static const Walls made = [] {
        Walls w;
        grid::GridSettings s;
        s.cellBudget = 8000;
        s.wakeLength = 0.0;
        w.grid = grid::build(bench::sphere(0.5, 60), {2, 2, 2, 2, 2, grid::Floor::None, 0, false}, s, {});
        w.geometry = grid::geometryOf(w.grid);
        for (const auto& p : w.grid.patches)
            if (p.kind == grid::PatchKind::Wall)
                for (auto f = p.first; f < p.first + p.count; ++f) {
                    w.field.face.push_back(f);
                    w.field.Cp.push_back(1.0);
                    w.field.Cf.push_back(Vec3::Zero());
                    w.field.yPlus.push_back(1.0);
                }
        return w;
    }();
    return made;
}
}  // namespace

TEST(Quantities, OfAPlateInANormalPressureLieWhereTheLoadIs) {
    // A plate in the plane z = 0.1 from x = 0 to 1 under a pressure that rises along it: 12 N at two thirds of it.
    const double lift = 12.0, at = 2.0 / 3.0;
    const Vec3 centre(0.3, 0.0, 0.1);
    const auto r = resultOf({0, 0, lift}, Vec3(at - centre.x(), 0, 0).cross(Vec3(0, 0, lift)));
    EXPECT_NEAR(valueOf("cp_x", r), at, 1e-12);
    EXPECT_NEAR(valueOf("lift", r), lift, 1e-12);
    EXPECT_NEAR(valueOf("CN", r), lift / (r.wind.dynamicPressure() * 2.0), 1e-12);
    // Axles at 0.2 and 1.2: by the lever.
    const readout::Axles axles{0.2, 1.2, 0.1};
    EXPECT_NEAR(valueOf("front_lift", r, axles), lift * (1.2 - at), 1e-10);
    EXPECT_NEAR(valueOf("rear_lift", r, axles), lift * (at - 0.2), 1e-10);
    EXPECT_NEAR(valueOf("front_share", r, axles), 1.2 - at, 1e-10);
    EXPECT_NE(readout::resultQuantity("front_lift").of(r, {}).why.find("axles"), std::string::npos);
    // A force along the plane crosses it nowhere.
    const auto along = readout::resultQuantity("cp_x").of(resultOf({1, 0, 0}, Vec3::Zero()), {});
    EXPECT_FALSE(along.value.has_value());
    EXPECT_FALSE(along.why.empty());
    EXPECT_FALSE(readout::resultQuantity("cp_x").of(resultOf(Vec3::Zero(), Vec3::Zero()), {}).value.has_value());
}

TEST(Quantities, DragAboveTheGroundLoadsTheRearAxle) {
    const double drag = 100.0, height = 0.6, ground = -0.5;
    const auto r = resultOf({drag, 0, 0}, Vec3(0, 0, height - 0.1).cross(Vec3(drag, 0, 0)));
    const readout::Axles axles{0.0, 2.5, ground};
    EXPECT_NEAR(valueOf("front_lift", r, axles), drag * (height - ground) / 2.5, 1e-9);
    EXPECT_NEAR(valueOf("rear_lift", r, axles), -drag * (height - ground) / 2.5, 1e-9);
    EXPECT_NEAR(valueOf("power", r), drag * 10.0, 1e-9);
}

TEST(Quantities, AreTheSameForceInAllAxes) {
    const Vec3 F(3, -2, 7), M(0.4, 1.1, -0.6);
    const auto r = resultOf(F, M, 11.0, -7.0);
    const double qS = r.wind.dynamicPressure() * r.reference.area;
    EXPECT_NEAR(std::hypot(valueOf("CL", r), valueOf("CD", r), valueOf("CY", r)) * qS, F.norm(), 1e-9);
    EXPECT_NEAR(std::hypot(valueOf("CA", r), valueOf("CN", r), valueOf("CS_body", r)) * qS, F.norm(), 1e-9);
    EXPECT_NEAR(std::hypot(valueOf("CD_stability", r), valueOf("CL", r), valueOf("CY_stability", r)) * qS, F.norm(),
                1e-9);
    EXPECT_NEAR(valueOf("rolling_moment", r), -M.x(), 1e-9);
    EXPECT_NEAR(valueOf("pitching_moment", r), M.y(), 1e-9);
    EXPECT_NEAR(valueOf("yawing_moment", r), -M.z(), 1e-9);
    const double b = r.reference.span, c = r.reference.length;
    EXPECT_NEAR(std::hypot(valueOf("Cl_wind", r) * b, valueOf("Cm_wind", r) * c, valueOf("Cn_wind", r) * b) * qS,
                M.norm(), 1e-9);
    for (const auto& q : readout::resultQuantities())
        EXPECT_TRUE(std::isfinite(q.of(r, readout::Axles{0, 1, 0}).value.value_or(0.0))) << q.id;
    EXPECT_THROW(readout::resultQuantity("CQ"), base::InputError);
}

TEST(Quantities, OfDevicesAddUpAndSayWhereThereAreNone) {
    auto r = resultOf(Vec3(3, 0, 0), Vec3::Zero(), 0.0);
    std::string why = readout::resultQuantity("mass_flow").of(r, std::nullopt).why;
    EXPECT_TRUE(why.find("no porous block") != std::string::npos) << why;
    EXPECT_FALSE(readout::resultQuantity("disc_efficiency").of(r, std::nullopt).value);
    r.field.emplace().blocks = {{"left", 2.0, 100.0}, {"right", 1.0, 40.0}};
    EXPECT_NEAR(valueOf("mass_flow", r), 3.0, 1e-12);
    EXPECT_NEAR(valueOf("pressure_drop", r), 80.0, 1e-12);
    // An ideal disc at twice the stream's speed gives half of its power to the craft.
    const double V = r.wind.speed;
    r.field->discs = {{"fan", 5.0, 2.0 * V, 10.0 * V, 0.0, 0.0}};
    EXPECT_NEAR(valueOf("disc_thrust", r), 5.0, 1e-12);
    EXPECT_NEAR(valueOf("disc_efficiency", r), 0.5, 1e-12);
}

TEST(Quantities, FollowAnotherMomentCentreAsIfRunWithIt) {
    const Vec3 F(3, -2, 7), M(0.4, 1.1, -0.6), other(1.0, 0.2, -0.4);
    const auto r = resultOf(F, M, 5.0);
    auto reference = r.reference;
    reference.momentCentre = other;
    reference.area = 3.0;
    const auto moved = readout::onReference(r, reference);
    auto anew = resultOf(F, M, 5.0);
    anew.reference = reference;
    anew.coefficients = air::coefficients(F, M + (r.reference.momentCentre - other).cross(F), anew.wind, reference);
    for (const char* id : {"CL", "CD", "CY", "Cl", "Cm", "Cn", "cp_x", "Cn_stability"})
        EXPECT_NEAR(valueOf(id, moved), valueOf(id, anew), 1e-9) << id;
}

TEST(Slopes, AreThoseOfTheLineWithErrorsOfTheirBands) {
    const auto f = readout::fitLine({0, 1, 2, 3}, {1, 3, 5, 7}, {0.1, 0.1, 0.1, 0.1});
    EXPECT_NEAR(f.slope, 2.0, 1e-12);
    EXPECT_NEAR(f.atZero, 1.0, 1e-12);
    EXPECT_NEAR(*f.zero, -0.5, 1e-12);
    EXPECT_NEAR(f.slopeError, 0.1 / std::sqrt(5.0), 1e-12);  // sigma / sqrt(sum (x - mean)^2)
    EXPECT_FALSE(readout::fitLine({0, 1}, {2, 2}, {}).zero.has_value());
    EXPECT_THROW(readout::fitLine({1, 1}, {2, 3}, {}), base::InputError);
    // What is known badly counts little.
    EXPECT_NEAR(readout::fitLine({0, 1, 2}, {0, 1, 9}, {0.01, 0.01, 10.0}).slope, 1.0, 0.1);
}

TEST(Slopes, FindTheNeutralPointOfAWing) {
    // Lift acts at x = 0.45, with a moment of its own that does not change.
    std::vector<Result> polar;
    for (const double alpha : {-2.0, 0.0, 3.0, 5.0}) {
        auto r = resultOf(Vec3::Zero(), Vec3::Zero(), alpha);
        r.coefficients.CL = 0.09 * (alpha + 1.5);
        r.coefficients.Cm = -0.04 - r.coefficients.CL * (0.45 - 0.3) / 0.5;
        polar.push_back(r);
    }
    const auto all = readout::slopesOf(polar, true).values;
    const auto find = [&](const std::string& id) {
        for (const auto& d : all)
            if (d.id == id) return d.value;
        ADD_FAILURE() << id;
        return 0.0;
    };
    EXPECT_NEAR(find("CL_alpha"), 0.09, 1e-12);
    EXPECT_NEAR(find("alpha_0"), -1.5, 1e-12);
    EXPECT_NEAR(find("Cm_0"), -0.04, 1e-12);
    EXPECT_NEAR(find("neutral_point_x"), 0.45, 1e-12);
    EXPECT_NEAR(find("static_margin"), (0.45 - 0.3) / 0.5, 1e-12);
    polar[1].wind.speed = 12.0;
    EXPECT_THROW(readout::slopesOf(polar, true), base::InputError);
    EXPECT_THROW(readout::slopesOf({polar[0]}, true), base::InputError);
}

TEST(Slopes, LeaveOutWhatHasNotSettledAndWhatLiesBeyondAKink) {
    std::vector<Result> polar;
    const auto add = [&](double alpha, double CL, flow::Verdict verdict) {
        auto r = resultOf(Vec3::Zero(), Vec3::Zero(), alpha);
        r.coefficients.CL = CL;
        r.coefficients.Cm = -0.2 * CL;
        r.band.CL = 0.002;
        r.verdict = verdict;
        polar.push_back(r);
    };
    using enum flow::Verdict;
    for (const double alpha : {-8.0, -4.0, 0.0, 4.0, 8.0}) add(alpha, 0.1 * alpha + 0.2, Settled);
    add(12.0, 1.1, Settled);     // stalled: the line has 1.4
    add(16.0, 0.9, Settled);     // and farther beyond
    add(2.0, 0.9, Unsteady);     // a swing that the line must not see
    add(-12.0, -0.55, Settled);  // a stall at the other end: the line has -1
    const auto s = readout::slopesOf(polar, true);
    EXPECT_EQ(s.used, (std::vector<std::size_t>{0, 1, 2, 3, 4}));
    ASSERT_EQ(s.leftOut.size(), 4u);
    EXPECT_EQ(s.values.front().id, "CL_alpha");
    EXPECT_NEAR(s.values.front().value, 0.1, 1e-12);
    // What lies beyond by less than is known of it is no kink.
    for (auto& r : polar) r.band.CL = 1.0;
    EXPECT_EQ(readout::slopesOf(polar, true).used.size(), 8u);
    for (auto& r : polar) r.verdict = Unsteady;
    EXPECT_THROW(readout::slopesOf(polar, true), base::InputError);
}

TEST(Difference, IsNotJudgedByABandThatKnowsNothingOfTheGrids) {
    auto a = resultOf(Vec3(1, 0, 0), Vec3::Zero(), 0.0), b = resultOf(Vec3(1.2, 0, 0), Vec3::Zero(), 0.0);
    a.band.CD = b.band.CD = 1e-6;
    for (const char* id : {"CD", "drag"}) {
        const auto d = readout::differenceOf(readout::resultQuantity(id), a, {}, b, {});
        ASSERT_TRUE(d) << id;
        EXPECT_FALSE(d->band) << id;
        EXPECT_FALSE(d->within()) << id;
    }
}

TEST(Difference, IsSaidInASentenceWithWhereAndInWhatItLies) {
    auto reference = resultOf(Vec3(12, 0, 0), Vec3::Zero()), other = resultOf(Vec3(6, 0, 0), Vec3::Zero());
    for (auto* r : {&reference, &other}) {
        r->cells = 64000;
        r->coarse = readout::CoarseResult{16000, 100, flow::Verdict::Settled, r->coefficients, {}, {}};
        r->parts.push_back({"body", {}, {}, {}, r->coefficients});
    }
    reference.parts[0].coefficients.CD -= 0.055;
    reference.parts.push_back({"front wheels", {}, {}, {}, {}});
    reference.parts[1].coefficients.CD = 0.055;
    // Drag a metre: the other lacks what stands at x 0.6 to 1.0.
    readout::Loading a, b;
    for (int i = 0; i < 20; ++i) {
        const double from = 0.1 * i, to = from + 0.1;
        a.strips.push_back({from, to, Vec3(from > 0.55 && from < 0.95 ? 2.0 : 0.1, 0, 0), Vec3::Zero(), 0.0});
        b.strips.push_back({from, to, Vec3(0.1, 0, 0), Vec3::Zero(), 0.0});
    }
    const auto where = readout::stretchOfDifference({a, Vec3::UnitX(), 1.0}, {b, Vec3::UnitX(), 1.0});
    ASSERT_TRUE(where);
    EXPECT_GE(where->from, 0.55);
    EXPECT_LE(where->to, 1.05);
    EXPECT_EQ(readout::partOfDifference(reference, other), "front wheels");
    const auto said = readout::sentenceOfDifference("no wheels", "base", reference, other, where);
    EXPECT_EQ(said.find("no wheels less base: CD -0.0490 (-50.0 %) \u00b1"), 0u) << said;
    EXPECT_NE(said.find("(front wheels)"), std::string::npos) << said;
    // The same all along: no stretch of it has most.
    for (auto& s : a.strips) s.pressure.x() = 0.2;
    EXPECT_FALSE(readout::stretchOfDifference({a, Vec3::UnitX(), 1.0}, {b, Vec3::UnitX(), 1.0}));
    EXPECT_FALSE(readout::stretchOfDifference({b, Vec3::UnitX(), 1.0}, {b, Vec3::UnitX(), 1.0}));
}

TEST(Loading, AddsUpToTheForceOfAllFacesAlongAnyAxis) {
    auto w = ball();
    std::mt19937 random(7);
    std::uniform_real_distribution<double> any(-1.0, 1.0);
    for (std::size_t i = 0; i < w.field.face.size(); ++i) {
        w.field.Cp[i] = any(random);
        w.field.Cf[i] = 0.1 * Vec3(any(random), any(random), any(random));
    }
    air::FreeStream wind;
    wind.speed = 7.0;
    Vec3 force = Vec3::Zero();
    double size = 0.0;
    for (std::size_t i = 0; i < w.field.face.size(); ++i) {
        const Vec3& S = w.geometry.faceArea[static_cast<std::size_t>(w.field.face[i])];
        const Vec3 one = wind.dynamicPressure() * (w.field.Cp[i] * S + S.norm() * w.field.Cf[i]);
        force += one;
        size += one.norm();
    }
    for (const Vec3& axis : {Vec3(1, 0, 0), Vec3(0, 1, 0), Vec3(1, 2, 3)}) {
        const auto l = readout::loadingAlong(w.grid, w.geometry, w.field, wind, axis, 23);
        EXPECT_LT((l.total() - force).norm(), 1e-12 * size);
        const auto carried = readout::carriedBeyond(l, wind.liftAxis());
        EXPECT_NEAR(carried.shear.front(), force.dot(wind.liftAxis()), 1e-10 * size);
    }
    EXPECT_THROW(readout::loadingAlong(w.grid, w.geometry, w.field, wind, Vec3::Zero(), 5), base::InputError);
    EXPECT_THROW(readout::loadingAlong(w.grid, w.geometry, w.field, wind, Vec3::UnitX(), 0), base::InputError);
    EXPECT_THROW(readout::loadingAlong(w.grid, w.geometry, w.field, wind, Vec3::UnitX(), 5, {"nobody"}),
                 base::InputError);
}

TEST(Loading, OfABallUnderAnEvenPressureIsThatOfItsRings) {
    const auto& w = ball();
    air::FreeStream wind;
    wind.speed = 7.0;
    const double q = wind.dynamicPressure();
    const auto l = readout::loadingAlong(w.grid, w.geometry, w.field, wind, Vec3::UnitX(), 10);
    EXPECT_LT(l.total().norm(), 1e-10 * q);
    // Up to x the pressure pushes aft on a disc of what the ball is wide there, pi (r^2 - x^2).
    double sum = 0.0;
    for (const auto& s : l.strips) {
        sum += s.force().x();
        EXPECT_NEAR(sum, q * kPi * std::max(0.0, 0.25 - s.to * s.to), 0.03 * q * kPi * 0.25) << s.to;
    }
}

TEST(Loading, OfAnEllipseHasASpanEfficiencyOfOne) {
    readout::Loading l;
    const Vec3 up = Vec3::UnitZ();
    constexpr int kStrips = 60;
    const auto fill = [&](double from, double to, const auto& lift) {
        l.strips.clear();
        for (int k = 0; k < kStrips; ++k) {
            readout::Strip s;
            s.from = from + (to - from) * k / kStrips;
            s.to = from + (to - from) * (k + 1) / kStrips;
            s.pressure = lift(s.middle()) * (s.to - s.from) * up;
            l.strips.push_back(s);
        }
    };
    const auto ellipse = [](double y) { return std::sqrt(1.0 - y * y); };
    fill(-1, 1, ellipse);
    EXPECT_NEAR(*readout::spanEfficiency(l, up, false), 1.0, 0.002);
    fill(0, 1, ellipse);
    EXPECT_NEAR(*readout::spanEfficiency(l, up, true), 1.0, 0.002);
    // With a third of the first term in the third one: 1 / (1 + 3 / 9).
    fill(0, 1, [](double y) {
        const double a = std::acos(-y);
        return std::sin(a) + std::sin(3.0 * a) / 3.0;
    });
    EXPECT_NEAR(*readout::spanEfficiency(l, up, true), 0.75, 0.002);
}

TEST(WakeSurvey, PartsWhatWasLostFromWhatTurns) {
    const auto& w = ball();
    const auto grid = std::make_shared<const grid::Grid>(w.grid);
    const auto mesh =
        std::make_shared<const field::Mesh>(grid, std::make_shared<const grid::Geometry>(grid::geometryOf(*grid)));
    air::FreeStream wind;
    wind.speed = 10.0;
    const field::WallValues walls{w.field.face, w.field.Cp, w.field.Cf, w.field.yPlus};
    const auto survey = [&](const auto& velocity, const auto& pressure) {
        std::map<std::string, std::vector<double>> arrays;
        for (const Vec3& x : mesh->geometry().cellCentre) {
            const Vec3 u = velocity(x);
            arrays["VelocityX"].push_back(u.x());
            arrays["VelocityY"].push_back(u.y());
            arrays["VelocityZ"].push_back(u.z());
            arrays["PressureKinematic"].push_back(pressure(x, u));
        }
        return readout::surveyWake(field::FlowField(mesh, arrays, wind, walls), 1.5, 20);
    };
    const auto still = [](const Vec3&, const Vec3&) { return 0.0; };
    const auto even = survey([](const Vec3&) { return Vec3(10, 0, 0); }, still);
    EXPECT_NEAR(even.profile, 0.0, 1e-9);
    EXPECT_NEAR(even.induced, 0.0, 1e-9);
    // Air that turns about x without a loss: rho/2 of the speed across, over the tunnel's section.
    const auto bernoulli = [](const Vec3&, const Vec3& u) { return 0.5 * (100.0 - u.squaredNorm()); };
    const auto turning = survey([](const Vec3& x) { return Vec3(10.0, 0.5 * x.z(), -0.5 * x.y()); }, bernoulli);
    Box section;
    for (const Vec3& x : mesh->grid().points) section.add(x);
    const double a = section.size().y(), b = section.size().z();
    const double exact = 0.5 * wind.air.density * 0.25 * (a * b * (a * a + b * b) / 12.0);
    EXPECT_NEAR(turning.induced, exact, 0.03 * exact);
    EXPECT_LT(std::abs(turning.profile), 0.01 * exact);
    // A column of air that is slower at the free stream's pressure: rho u (V - u) over its section. Errors of the cells
    // everywhere else, small as they are, must not outweigh it by their area.
    const auto layer = [](const Vec3& x) {
        return Vec3(10.0 - std::exp(-(x.y() * x.y() + x.z() * x.z()) / 0.09), 0, 0);
    };
    const auto uneven = [](const Vec3& x, const Vec3&) { return 0.01 * std::sin(40.0 * x.y()) - 0.01; };
    const auto clean = survey(layer, still), noisy = survey(layer, uneven);
    // int (10 - e) e dA with e = exp(-r^2 / s^2): pi s^2 (10 - 1 / 2)
    const double column = wind.air.density * kPi * 0.09 * 9.5;
    EXPECT_NEAR(clean.profile + clean.induced, column, 0.03 * column);
    EXPECT_NEAR(noisy.profile, clean.profile, 0.02 * clean.profile);
    EXPECT_THROW(readout::surveyWake(field::FlowField(mesh,
                                                      {{"VelocityX", std::vector<double>(mesh->cells(), 10.0)},
                                                       {"VelocityY", std::vector<double>(mesh->cells(), 0.0)},
                                                       {"VelocityZ", std::vector<double>(mesh->cells(), 0.0)},
                                                       {"PressureKinematic", std::vector<double>(mesh->cells(), 0.0)}},
                                                      wind, walls),
                                     0.2, 5),
                 base::InputError);
}
