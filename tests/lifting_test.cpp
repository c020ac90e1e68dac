#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "base/errors.h"
#include "base/files.h"
#include "bench/wings.h"
#include "lifting/bodies.h"
#include "lifting/mirror_pairs.h"
#include "lifting/runs.h"
#include "shape/clip.h"
#include "tests/folder.h"
#include "wing/shadow.h"
#include "wing/skin.h"

using namespace cvane;
using base::degree;
using bench::symmetric;

namespace {
constexpr double pi = std::numbers::pi;

wing::Aircraft wingAndTail() {
    auto a = bench::flatWing(3.0, 5.0, 0.6, 6, 12);
    wing::LiftingSurface tail;
    tail.name = "tail";
    tail.place = Vec3(3.5, 0.0, 0.4);
    tail.rows = 4;
    tail.stations.resize(2);
    tail.stations[0].chord = tail.stations[1].chord = 0.5;
    tail.stations[1].along = 1.0;
    tail.controls.push_back({"elevator", 0.0, 1.0, 0.7, 0.0, false});
    a.surfaces.push_back(tail);
    a.mass = 20.0;
    a.centreOfGravity = Vec3(0.6, 0.0, 0.0);
    return a;
}
lifting::Asked potential(std::vector<double> alphas_deg) {
    lifting::Asked asked;
    for (const double a : alphas_deg) asked.alphas.push_back(a * degree);
    asked.sectionDrag = false;
    asked.derivatives = false;
    return asked;
}
std::string refusal(const wing::Aircraft& a, const lifting::Asked& asked) {
    try {
        lifting::run(a, asked);
    } catch (const base::InputError& e) {
        return e.what();
    }
    return {};
}
}  // namespace

TEST(Influence, OfAnEndlessVortexIsThatOfThePlane) {
    const Vec3 v = lifting::ofSegment(Vec3(0, 0, 2), Vec3(0, -1e5, 0), Vec3(0, 1e5, 0));
    EXPECT_NEAR(v.x(), 1.0 / (2.0 * pi * 2.0), 1e-9);
    EXPECT_EQ(lifting::ofSegment(Vec3(0, 0.3, 0), Vec3(0, -1, 0), Vec3(0, 1, 0)).norm(), 0.0);
    EXPECT_EQ(lifting::ofSegment(Vec3(0, 5, 0), Vec3(0, -1, 0), Vec3(0, 1, 0)).norm(), 0.0);
    // Two rays that run apart are an endless line.
    const Vec3 x(0.3, 0.2, 1.0);
    const Vec3 rays = lifting::ofRay(x, Vec3::Zero(), Vec3::UnitX()) - lifting::ofRay(x, Vec3::Zero(), Vec3(-1, 0, 0));
    EXPECT_LT((rays - lifting::ofSegment(x, Vec3(-1e6, 0, 0), Vec3(1e6, 0, 0))).norm(), 1e-9);
}

// J. J. Bertin, M. L. Smith, Aerodynamics for Engineers: the swept wing of the chapter on vortex lattices.
TEST(VortexLattice, OfOneRowOnASweptWingIsTheTextbooks) {
    EXPECT_NEAR(bench::liftSlope(bench::flatWing(2.5, 45.0, 1.0, 1, 4)), 3.443, 0.002 * 3.443);
}

// P. F. Jordan, AIAA J. 11(8), 1973: the exact slope of the circular wing.
TEST(VortexLattice, OfACircularWingHasTheExactSlope) {
    EXPECT_NEAR(bench::liftSlope(bench::ellipticWing(4.0 / pi, 20, 10, 0.5)), 1.7900, 0.005 * 1.79);
}

TEST(VortexLattice, KnowsTheInducedDragOfAnEllipticWingAndTwoWaysToIt) {
    const auto l =
        bench::loadsOf(bench::ellipticWing(8.0, 20, 4), symmetric(Vec3(std::cos(0.05), 0.0, std::sin(0.05))), 0.05);
    EXPECT_NEAR(l.efficiency, 1.0, 0.003);
    EXPECT_NEAR(l.coefficients.CD, l.inducedFar, 0.02 * l.inducedFar);
    EXPECT_NEAR(l.coefficients.CL, l.liftFar, 0.005 * l.liftFar);
}

TEST(VortexLattice, NeedsFewStripsForItsSlope) {
    const auto slope = [](int n) {
        return bench::liftSlope(bench::flatWing(3.0, 0.0, 1.0, n, 3 * n, wing::Spacing::Outer));
    };
    EXPECT_NEAR(slope(4), slope(10), 0.001 * slope(10));
}

TEST(VortexLattice, IsTheSameHalvedMirroredAndTurned) {
    const auto a = wingAndTail();
    const auto half = bench::loadsOf(a, symmetric(), 0.07), all = bench::loadsOf(a, {}, 0.07);
    EXPECT_NEAR(half.coefficients.CL, all.coefficients.CL, 1e-10);
    EXPECT_NEAR(half.coefficients.Cm, all.coefficients.Cm, 1e-10);
    EXPECT_NEAR(half.inducedFar, all.inducedFar, 1e-10);
    EXPECT_NEAR(all.coefficients.CY, 0.0, 1e-10);
    const auto left = bench::loadsOf(a, {}, 0.07, 0.1), right = bench::loadsOf(a, {}, 0.07, -0.1);
    for (const auto m : {&air::Coefficients::CL, &air::Coefficients::CD, &air::Coefficients::Cm})
        EXPECT_NEAR(left.coefficients.*m, right.coefficients.*m, 1e-10);
    for (const auto m : {&air::Coefficients::CY, &air::Coefficients::Cl, &air::Coefficients::Cn})
        EXPECT_NEAR(left.coefficients.*m, -1.0 * (right.coefficients.*m), 1e-10);
    EXPECT_GT(std::abs(left.coefficients.Cl), 1e-4);
    // A wing on its side in a wind from the side is the flat wing in a wind from below.
    auto flat = bench::flatWing(2.0, 10.0, 0.7, 4, 6), upright = flat;
    flat.surfaces[0].mirrored = upright.surfaces[0].mirrored = false;
    upright.surfaces[0].roll_deg = 90.0;
    const auto f = bench::loadsOf(flat, {}, 0.05), u = bench::loadsOf(upright, {}, 0.0, 0.05);
    EXPECT_NEAR(f.force.z(), -u.force.y(), 1e-10 * std::abs(f.force.z()) + 1e-10);
}

// Two half systems against one whole: a fin above the tail makes no difference to which of them is solved, and a flow
// that is neither even nor odd goes through both.
TEST(VortexLattice, PartedInTheMirrorPlaneIsTheSameAsWhole) {
    auto a = wingAndTail();
    wing::LiftingSurface fin;
    fin.name = "fin";
    fin.place = Vec3(3.4, 0.0, 0.4);
    fin.mirrored = false;
    fin.roll_deg = 90.0;
    fin.rows = 3;
    fin.stations.resize(2);
    fin.stations[0].chord = fin.stations[1].chord = 0.5;
    fin.stations[1].along = 0.7;
    a.surfaces.push_back(fin);
    const auto lattice = wing::latticeOf(a, false);
    const auto pairs = lifting::mirrorPairs(lattice);
    ASSERT_TRUE(pairs.has_value());
    EXPECT_EQ(pairs->middle.size(), 3u * 8u);
    EXPECT_EQ(2 * pairs->starboard.size() + pairs->middle.size(), lattice.panels);
    // A wake that leaves to one side by nothing that counts is solved whole.
    lifting::Surroundings parted, whole;
    whole.wake = Vec3(1.0, 1e-14, 0.0).normalized();
    const auto reference = wing::referenceOf(a);
    const lifting::Attitude turning{{20.0, 0.07, 0.1, {}}, Vec3(0.3, 0.2, -0.4), reference.momentCentre};
    std::vector<double> through(lattice.strips.size());
    for (std::size_t k = 0; k < through.size(); ++k) through[k] = std::sin(3.0 * static_cast<double>(k));
    const lifting::VortexLattice one(lattice, parted), other(lattice, whole);
    for (const bool bent : {false, true}) {
        const auto p = bent ? one.at(turning, reference, through) : one.at(turning, reference),
                   w = bent ? other.at(turning, reference, through) : other.at(turning, reference);
        for (const auto m : air::kAllCoefficients) EXPECT_NEAR(p.coefficients.*m, w.coefficients.*m, 1e-10);
        for (std::size_t k = 0; k < p.strips.size(); ++k) EXPECT_NEAR(p.strips[k].downwash, w.strips[k].downwash, 1e-9);
        EXPECT_GT(std::abs(p.coefficients.Cn), 1e-4);
    }
    // Ailerons that are turned leave nothing to part.
    a.surfaces[0].controls.push_back({"aileron", 2.0, 3.0, 0.7, 5.0, true});
    EXPECT_FALSE(lifting::mirrorPairs(wing::latticeOf(a, false)).has_value());
}

// Wakes that follow the flow roll up: those of the tips go inboard and, far behind, below where the wind would have
// taken them. The lift of a wing knows little of it.
TEST(VortexLattice, RollsItsWakeUpAndLiftsAsBefore) {
    const auto a = bench::flatWing(3.0, 0.0, 1.0, 4, 16, wing::Spacing::Outer);
    auto asked = potential({8.0});
    asked.wake = lifting::Wake::Wind;
    const auto straight = lifting::run(a, asked);
    asked.wake = lifting::Wake::Flow;
    const auto rolled = lifting::run(a, asked);
    EXPECT_NEAR(rolled.rows[0].coefficients.CL, straight.rows[0].coefficients.CL,
                0.01 * straight.rows[0].coefficients.CL);
    EXPECT_NEAR(rolled.rows[0].inducedFar, straight.rows[0].inducedFar, 0.02 * straight.rows[0].inducedFar);
    ASSERT_EQ(rolled.rows[0].wakes.size(), 17u);
    const Vec3 root = rolled.rows[0].wakes.front().back(), tip = rolled.rows[0].wakes.back().back();
    EXPECT_LT(tip.y(), 2.9);
    EXPECT_NEAR(root.y(), 0.0, 0.05);
    // The sheet between them sinks faster than its rolled edges.
    EXPECT_GT(tip.z(), root.z() + 0.1);
    // Both halves are each other's image where the whole is solved for.
    asked.beta = 1e-9;
    const auto whole = lifting::run(a, asked);
    EXPECT_NEAR(whole.rows[0].coefficients.CL, rolled.rows[0].coefficients.CL, 1e-6);
    EXPECT_NEAR(whole.rows[0].coefficients.CY, 0.0, 1e-6);
}

TEST(VortexLattice, LiftsMoreNearTheGroundAndInElasticAir) {
    const auto a = bench::flatWing(3.0, 0.0, 1.0, 6, 12);
    const double free = bench::liftSlope(a);
    auto near = symmetric();
    near.ground = -0.6;
    const auto over = bench::loadsOf(a, near, 0.05), away = bench::loadsOf(a, symmetric(), 0.05);
    EXPECT_GT(over.coefficients.CL, 1.05 * away.coefficients.CL);
    EXPECT_LT(over.inducedFar / (over.liftFar * over.liftFar), 0.8 * away.inducedFar / (away.liftFar * away.liftFar));
    auto far = symmetric();
    far.ground = -1e4;
    EXPECT_NEAR(bench::liftSlope(a, far), free, 1e-6);
    // Prandtl and Glauert: the slope is that of the wing beta times as wide, over beta. Helmbold's formula says how
    // much.
    auto fast = symmetric();
    fast.mach = 0.6;
    auto narrow = bench::flatWing(3.0 * 0.8, 0.0, 1.0, 6, 12);
    EXPECT_NEAR(bench::liftSlope(a, fast), bench::liftSlope(narrow) / 0.8, 1e-6);
    fast.mach = 1.2;
    EXPECT_THROW(bench::liftSlope(a, fast), base::InputError);
}

TEST(VortexLattice, DampsRollAsTheLiftingLineDoes) {
    constexpr double aspect = 30.0;
    EXPECT_NEAR(bench::dampingInRoll(bench::ellipticWing(aspect, 24, 3)), -pi * aspect / (4.0 * (aspect + 4.0)),
                0.03 * 0.7);
}

TEST(Runs, AgreeOnTheNeutralPointByDerivativeAndByMoments) {
    auto asked = potential({0.0});
    asked.derivatives = true;
    auto a = wingAndTail();
    const auto first = lifting::run(a, asked);
    ASSERT_TRUE(first.derivatives);
    EXPECT_GT(first.derivatives->staticMargin, 0.0);
    // About the neutral point the moment does not change.
    a.centreOfGravity = first.derivatives->neutralPoint;
    const auto about = lifting::run(a, asked);
    EXPECT_NEAR(about.derivatives->neutralPoint.x(), first.derivatives->neutralPoint.x(), 1e-6);
    EXPECT_NEAR(about.derivatives->alpha.Cm, 0.0, 1e-6);
    EXPECT_LT(first.derivatives->roll.Cl, 0.0);
    EXPECT_LT(first.derivatives->pitch.Cm, 0.0);
    EXPECT_LT(first.derivatives->controls.at("elevator").Cm, 0.0);  // trailing edge down: nose down
}

TEST(Runs, CarryTheMassAndTrimTheMoment) {
    auto asked = potential({4.0, 6.0});
    const auto a = wingAndTail();
    asked.holdMass = a.mass;
    asked.trimBy = "elevator";
    const auto out = lifting::run(a, asked);
    for (const auto& r : out.rows) {
        ASSERT_TRUE(r.reached) << r.why;
        const double lift = r.coefficients.CL * r.wind.dynamicPressure() * out.reference.area;
        EXPECT_NEAR(lift, a.mass * 9.80665, 1e-4 * lift);
        EXPECT_NEAR(r.coefficients.Cm, 0.0, 1e-6);
        EXPECT_LT(r.trimAngle_deg, 0.0);
        EXPECT_NE(r.hinge.at("elevator"), 0.0);
    }
    EXPECT_LT(out.rows[1].wind.speed, out.rows[0].wind.speed);
    // What no control reaches is said.
    auto far = a;
    far.centreOfGravity.x() = 3.0;
    const auto lost = lifting::run(far, asked);
    EXPECT_FALSE(lost.rows[0].reached);
    EXPECT_NE(lost.rows[0].why.find("elevator"), std::string::npos);
}

TEST(Runs, RefuseWhatCannotBeRun) {
    const auto a = wingAndTail();
    EXPECT_NE(refusal(a, potential({})).find("no angle"), std::string::npos);
    EXPECT_NE(refusal(a, potential({60.0})).find("alpha is 60"), std::string::npos);
    auto asked = potential({2.0});
    asked.trimBy = "rudder";
    EXPECT_NE(refusal(a, asked).find("rudder"), std::string::npos);
    asked = potential({2.0});
    asked.holdMass = 0.0;
    EXPECT_NE(refusal(a, asked).find("no mass"), std::string::npos);
    asked = potential({10.0});
    asked.height = 0.1;
    EXPECT_NE(refusal(a, asked).find("ground"), std::string::npos);
    asked = potential({2.0});
    asked.speed = 0.0;
    EXPECT_NE(refusal(a, asked).find("speed"), std::string::npos);
}

TEST(Runs, StallWhereTheirSectionsDo) {
    auto a = bench::flatWing(2.0, 0.0, 0.6, 2, 6);
    for (auto& t : a.surfaces[0].stations) t.section = "4412";
    auto asked = potential({4.0, 22.0});
    asked.sectionDrag = asked.holdStrips = true;
    asked.speed = 15.0;
    const auto held = lifting::run(a, asked);
    asked.holdStrips = false;
    const auto free = lifting::run(a, asked);
    // In its range a wing of these sections lifts as its lattice says; beyond, as they let it.
    EXPECT_NEAR(held.rows[0].coefficients.CL, free.rows[0].coefficients.CL, 0.08 * free.rows[0].coefficients.CL);
    EXPECT_GT(free.rows[1].stalledShare, 0.5);
    EXPECT_LT(held.rows[1].coefficients.CL, 0.9 * free.rows[1].coefficients.CL);
    EXPECT_GT(held.rows[0].profile, 0.005);
    EXPECT_LT(held.rows[0].profile, 0.02);
    ASSERT_FALSE(free.remarks.empty());
    EXPECT_NE(free.remarks.back().find("more than their sections"), std::string::npos);
}

TEST(Bodies, TurnTheNoseAwayAndRubAgainstTheAir) {
    wing::Body b;
    b.stations = {
        {0.0, 0.0, 0.0, 0.0, 2.0}, {0.5, 0.0, 0.3, 0.3, 2.0}, {1.5, 0.0, 0.3, 0.3, 2.0}, {2.5, 0.0, 0.0, 0.0, 2.0}};
    const air::FreeStream wind{20.0, 0.05, 0.0, {}};
    const auto l = lifting::loadOf(b, wind, Vec3(1.0, 0.0, 0.0));
    // Closed at both ends there is no lift; the moment is 2 q alpha times the volume, nose up.
    const double volume = pi / 4.0 * 0.09 * (0.5 / 3.0 + 1.0 + 1.0 / 3.0);
    EXPECT_NEAR(l.force.dot(wind.liftAxis()), -l.force.x() * std::sin(0.05) + l.force.z() * std::cos(0.05), 1e-12);
    EXPECT_NEAR(l.moment.y(), wind.dynamicPressure() * std::sin(0.1) * volume,
                0.02 * wind.dynamicPressure() * 0.1 * volume);
    EXPECT_GT(l.friction, 0.0);
    EXPECT_NEAR(l.wetted, pi * 0.3 * (0.5 * std::hypot(0.5, 0.15) + 1.0 + 0.5 * std::hypot(1.0, 0.15)),
                0.02 * l.wetted);
}

// Polars outlive the program that computed them, and a damaged one is computed again.
TEST(PolarShelf, KeepsPolarsInItsFolderForTheNextProgram) {
    const test::Folder folder;
    const auto polars = folder / "sections" / "strips";
    const lifting::PolarShelf::Key key{"2412", {9.0, 1.0, 1.0}, 0.75, 5.0, 2};
    const lifting::PolarShelf::Polar polar{{-0.1, 0.0, 0.1 / 3.0}, {-0.8, 0.2, 1.0 / 3.0}, {0.01, 0.007, 0.02}};
    lifting::PolarShelf(polars).put(key, polar);
    const auto back = lifting::PolarShelf(polars).of(key);
    ASSERT_TRUE(back);
    EXPECT_EQ(back->alpha, polar.alpha);
    EXPECT_EQ(back->cl, polar.cl);
    EXPECT_EQ(back->cd, polar.cd);
    EXPECT_EQ(back->low, 0u);
    EXPECT_EQ(back->high, 2u);
    auto other = key;
    other.transition.tripUpper = 0.1;
    EXPECT_FALSE(lifting::PolarShelf(polars).of(other));
    for (const auto& file : std::filesystem::directory_iterator(polars)) base::replaceFile(file.path(), "{}");
    EXPECT_FALSE(lifting::PolarShelf(polars).of(key));
    // A run with them at hand computes none: it needs no longer than the lattice.
    auto a = bench::flatWing(2.0, 0.0, 1.0, 4, 6);
    for (auto& t : a.surfaces[0].stations) t.section = "0012";
    lifting::Asked asked = potential({4.0});
    asked.sectionDrag = true;
    const auto first = lifting::run(a, asked, {}, std::make_shared<lifting::PolarShelf>(polars));
    const auto again = lifting::run(
        a, asked,
        [](double, std::string_view doing) {
            EXPECT_EQ(doing.find("polars"), std::string_view::npos);
            return true;
        },
        std::make_shared<lifting::PolarShelf>(polars));
    EXPECT_EQ(first.rows[0].coefficients.CD, again.rows[0].coefficients.CD);
}

// A model from a file has no numbers: the outline of its shadow gives the slope that the numbers would, a body and what
// stands behind it left aside.
TEST(Outline, OfAWingsSurfaceLiftsAsTheWingDoes) {
    auto a = wingAndTail();
    for (auto& s : a.surfaces)
        for (auto& t : s.stations) t.section = "0010";
    const auto alone = [&](std::size_t k) {
        auto one = a;
        one.surfaces = {a.surfaces[k]};
        one.bodies.clear();
        // Strips as close as those of the outline, so that the slopes can be compared.
        for (auto& t : one.surfaces[0].stations) t.strips = 30, t.spacing = wing::Spacing::Outer;
        return one;
    };
    const auto flat = wing::flatWingsOf(wing::skinOf(alone(0)));
    ASSERT_TRUE(flat);
    ASSERT_EQ(flat->surfaces.size(), 1u);
    const auto is = wing::measure(*flat, flat->surfaces[0]), was = wing::measure(a, a.surfaces[0]);
    EXPECT_NEAR(is.area, was.area, 0.01 * was.area);
    EXPECT_NEAR(is.span, was.span, 0.01 * was.span);
    EXPECT_NEAR(is.meanQuarter.x(), was.meanQuarter.x(), 0.01);
    EXPECT_NEAR(bench::liftSlope(*flat), bench::liftSlope(alone(0)), 0.01 * bench::liftSlope(alone(0)));
    // With a body through the wing's root and a tail behind it: two surfaces, each as if the body were not there.
    wing::Body body;
    for (const auto& [x, w] : {std::pair{-1.5, 0.0}, {-1.2, 0.2}, {0.0, 0.35}, {2.0, 0.3}, {4.2, 0.1}})
        body.stations.push_back({x, 0.0, w, w, 2.0});
    a.bodies.push_back(body);
    const auto both = wing::flatWingsOf(wing::skinOf(a));
    ASSERT_TRUE(both);
    ASSERT_EQ(both->surfaces.size(), 2u);
    EXPECT_NEAR(wing::measure(*both, both->surfaces[0]).area, was.area, 0.02 * was.area);
    const auto tail = wing::measure(a, a.surfaces[1]);
    EXPECT_NEAR(wing::measure(*both, both->surfaces[1]).area, tail.area, 0.03 * tail.area);
    // A half model is one half of it; what is no wing has none.
    EXPECT_NEAR(
        wing::measure(*flat, wing::flatWingsOf(shape::beyondPlane(wing::skinOf(alone(0)), 1, 0.0))->surfaces[0]).area,
        was.area, 0.01 * was.area);
    auto bodyAlone = a;
    bodyAlone.surfaces[0] = a.surfaces[1];
    bodyAlone.surfaces.resize(1);
    EXPECT_FALSE(wing::flatWingsOf(wing::skinOf(bodyAlone)));
}
