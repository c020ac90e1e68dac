// Panels on closed bodies: integrals, the tree, exact flows, wakes, layers, and what is refused.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "bench/wings.h"
#include "campaign/methods/runner.h"
#include "campaign/steps/reports.h"
#include "campaign/store/panel_walls.h"
#include "panels/influence.h"
#include "panels/layer.h"
#include "panels/mirrored.h"
#include "panels/panel_flow.h"
#include "panels/suitable.h"
#include "readout/pressure_station.h"
#include "shape/health.h"
#include "shape/loft.h"
#include "shape/mirror.h"
#include "tests/made_up_run.h"
#include "vehicle/body_skin.h"
#include "wing/skin.h"

using namespace cvane;
using base::degree;

namespace {
const panels::Triangle kTriangle{Vec3(0.1, 0.0, 0.2), Vec3(1.0, 0.2, 0.1), Vec3(0.3, 0.9, -0.1)};

shape::Surface ball(double radius, int n, const Vec3& scale = Vec3::Ones()) {
    shape::Surface s;
    shape::addSphere(s, "ball", Vec3::Zero(), radius, n);
    for (auto& p : s.points) p = p.cwiseProduct(scale);
    shape::weld(s);
    return s;
}
shape::Surface thickWing() {
    auto a = bench::flatWing(3.0, 0.0, 1.0, 12, 24);
    for (auto& t : a.surfaces[0].stations) t.section = "0012";
    auto s = wing::skinOf(a);
    shape::weld(s);
    return s;
}
air::FreeStream windAt(double alpha_deg, double beta_deg = 0.0) {
    return {20.0, alpha_deg * degree, beta_deg * degree, {}};
}
double liftOf(const panels::Panels& p, double alpha_deg, const panels::Around& around = {}, double area = 6.0) {
    const auto wind = windAt(alpha_deg);
    return panels::flowPast(p, wind, Vec3::Zero(), around).force.dot(wind.liftAxis()) / (wind.dynamicPressure() * area);
}
}  // namespace

TEST(PanelIntegrals, AreThoseOfManyPoints) {
    const Vec3 at(0.6, -0.3, 0.8);
    const Vec3 n = (kTriangle[1] - kTriangle[0]).cross(kTriangle[2] - kTriangle[0]).normalized();
    const Vec3 middle = (kTriangle[0] + kTriangle[1] + kTriangle[2]) / 3.0;
    const double area = 0.5 * (kTriangle[1] - kTriangle[0]).cross(kTriangle[2] - kTriangle[0]).norm();
    double source = 0.0, doublet = 0.0;
    Vec3 growing = Vec3::Zero();
    constexpr int m = 200;  // middles of m^2 equal pieces: second order, 1e-5 of the value
    for (int i = 0; i < m; ++i)
        for (int j = 0; j + i < m; ++j)
            for (int turned = 0; turned < (i + j + 1 < m ? 2 : 1); ++turned) {
                const double u = (i + (turned ? 2.0 : 1.0) / 3.0) / m, v = (j + (turned ? 2.0 : 1.0) / 3.0) / m;
                const Vec3 y = kTriangle[0] + u * (kTriangle[1] - kTriangle[0]) + v * (kTriangle[2] - kTriangle[0]);
                const Vec3 r = at - y;
                const double w = area / (m * m) / (4.0 * std::numbers::pi);
                source += w / r.norm();
                doublet += w * n.dot(r) / std::pow(r.norm(), 3.0);
                growing += w * n.dot(r) / std::pow(r.norm(), 3.0) * (y - middle);
            }
    const auto p = panels::potentialsAt(at, kTriangle);
    EXPECT_NEAR(p.source, source, 1e-5);
    EXPECT_NEAR(p.doublet, doublet, 1e-5);
    EXPECT_LT((panels::growingDoubletAt(at, kTriangle) - growing).norm(), 1e-5);
    // Velocities are their gradients.
    const auto v = panels::velocitiesAt(at, kTriangle, 0.0);
    constexpr double h = 1e-5;
    for (int k = 0; k < 3; ++k) {
        const Vec3 d = h * Vec3::Unit(k);
        const auto a = panels::potentialsAt(at + d, kTriangle), b = panels::potentialsAt(at - d, kTriangle);
        EXPECT_NEAR(v.source[k], (a.source - b.source) / (2.0 * h), 1e-7);
        EXPECT_NEAR(v.doublet[k], (a.doublet - b.doublet) / (2.0 * h), 1e-7);
    }
    // A doublet jumps by its strength from one side to the other.
    EXPECT_NEAR(panels::doubletAt(middle + 1e-7 * n, kTriangle) - panels::doubletAt(middle - 1e-7 * n, kTriangle), 1.0,
                1e-5);
}

TEST(PanelTree, MakesWhatAllPairsMake) {
    const panels::Panels p(ball(0.5, 24, Vec3(3.0, 1.0, 0.4)));
    panels::Mirrors mirrors;
    mirrors.ground = -0.4;
    const panels::BentPanels bent(p);
    const panels::Influence tree(p, bent, mirrors, 0.3), pairs(p, bent, mirrors, 0.0);
    Eigen::VectorXd strength(static_cast<Eigen::Index>(p.size()));
    for (Eigen::Index i = 0; i < strength.size(); ++i)
        strength[i] = std::sin(7.0 * p.middle[static_cast<std::size_t>(i)].x());
    EXPECT_LT(static_cast<double>(tree.nearPairs()), 0.6 * static_cast<double>(pairs.nearPairs()));
    const std::vector<Vec3> still(p.size(), Vec3::Zero());
    const auto s = pairs.ofSources(strength, still);
    // Moments of fourth order are left out: of 0.3^4 what changing signs leave, a thousandth.
    EXPECT_LT((tree.ofSources(strength, still) - s).norm(), 1e-3 * s.norm());
    const auto d = pairs.ofDoublets(strength, still);
    EXPECT_LT((tree.ofDoublets(strength, still) - d).norm(), 1e-3 * d.norm());
    // A closed surface of one strength makes nothing outside and -1 inside: half of that on it, but for its images. Of
    // 8 panels along a quarter of a circle some thousandths are lost where pieces of the bent surface end. A closed
    // surface of one strength makes nothing outside and -1 inside: half of that on it, but for its images. Of 8 panels
    // along a quarter of a circle some thousandths are lost where pieces of the bent surface end.
    const panels::Influence alone(p, bent, {}, 0.3);
    const auto one = alone.ofDoublets(Eigen::VectorXd::Ones(strength.size()), still);
    EXPECT_LT((one.array() + 0.5).abs().maxCoeff(), 4e-3);
}

TEST(Panelling, KeepsShapeEdgesAndParts) {
    const auto wing = thickWing();
    std::vector<double> lost;
    for (const std::size_t count : {800, 3000}) {
        const auto s = panels::remeshed(wing, {count});
        EXPECT_NEAR(static_cast<double>(s.facets.size()), static_cast<double>(count), 0.2 * static_cast<double>(count));
        EXPECT_TRUE(shape::checkHealth(s).closed());
        lost.push_back(wing.volume() - s.volume());
        EXPECT_LT((s.bounds().size() - wing.bounds().size()).norm(), 0.02);
        // The blunt trailing edge has become a line.
        for (std::size_t f = 0; f < s.facets.size(); ++f) EXPECT_LT(s.areaVector(f).normalized().x(), 0.9);
    }
    // Flat panels lie within the bent skin by what goes with their area: 3.75 times fewer of it, half of that asked.
    EXPECT_GT(lost[1], 0.0);
    EXPECT_LT(lost[1], 0.5 * lost[0]);
    EXPECT_LT(lost[0], 0.04 * wing.volume());
    const auto once = panels::remeshed(wing, {800}), twice = panels::remeshed(wing, {800});
    ASSERT_EQ(once.points.size(), twice.points.size());
    for (std::size_t k = 0; k < once.points.size(); ++k) EXPECT_EQ(once.points[k], twice.points[k]);
}

TEST(Panelling, OfAMirrorImageIsOne) {
    auto o = vehicle::startingOutline();
    const auto skin = panels::suitableFor(vehicle::skinOf(o), false).surface;
    const auto s = panels::remeshedAlike(skin, {1500});
    EXPECT_TRUE(shape::checkHealth(s).closed()) << shape::checkHealth(s).sentence();
    EXPECT_NEAR(static_cast<double>(s.facets.size()), 1500.0, 300.0);
    EXPECT_TRUE(shape::isMirrorImage(s, 1e-12));
    const panels::Panels p(s);
    std::vector<double> area(skin.parts.size(), 0.0);
    for (std::size_t i = 0; i < p.size(); ++i) area[static_cast<std::size_t>(s.partOf[i])] += p.area[i];
    for (std::size_t k = 0; k < area.size(); ++k) EXPECT_GT(area[k], 0.0) << skin.parts[k].name;
    EXPECT_NEAR(area[1], area[2], 1e-12) << "port is the image of starboard";
    const auto wind = windAt(0.0);
    panels::Around around;
    around.mirrors.ground = 0.0;
    const auto flow = panels::flowPast(p, wind, Vec3::Zero(), around);
    EXPECT_LT(std::abs(flow.force.y()), 1e-3 * wind.dynamicPressure() * skin.bounds().size().y());
}

// A. M. Kuethe, C.-Y. Chow, Foundations of Aerodynamics: Cp = 1 - 9/4 sin^2 on a sphere.
TEST(PanelFlow, AroundASphereIsTheExactOne) {
    const panels::Panels p(panels::remeshed(ball(0.5, 240), {2000}));
    const auto wind = windAt(0.0);
    const auto flow = panels::flowPast(p, wind, Vec3::Zero(), {});
    EXPECT_TRUE(flow.edges.empty());
    for (std::size_t i = 0; i < p.size(); ++i) {
        const double c = p.middle[i].normalized().x();
        EXPECT_NEAR(flow.cp[i], 1.0 - 2.25 * (1.0 - c * c), 0.01);
    }
    // No drag without friction: D'Alembert.
    EXPECT_LT(std::abs(flow.force.dot(wind.dragAxis())), 2e-4 * wind.dynamicPressure() * 0.25 * std::numbers::pi);
    // Off the body the velocity of a doublet in the middle: u = V (1 + a^3 / (2 x^3) (3 cos^2 - 1)) across at cos = 0.
    const auto v = panels::velocitiesOff(p, flow, wind, {}, {Vec3(0.0, 0.0, 1.0), Vec3(-1.0, 0.0, 0.0)});
    EXPECT_NEAR(v[0].x(), 20.0 * (1.0 + 0.125 / 2.0), 0.05);
    EXPECT_NEAR(v[1].x(), 20.0 * (1.0 - 0.125), 0.05);
}

TEST(PanelFlow, IsItsOwnImageInAGround) {
    // Two balls side by side in a wind along x are one ball over a plane between them.
    auto two = ball(0.5, 40);
    const auto first = two;
    const auto base = static_cast<std::int32_t>(two.points.size());
    for (const auto& q : first.points) two.points.push_back(q - Vec3(0.0, 0.0, 1.4));
    for (const auto& f : first.facets) {
        two.facets.push_back({f[0] + base, f[1] + base, f[2] + base});
        two.partOf.push_back(0);
    }
    const panels::Panels one(first), both(two);
    panels::Around ground;
    ground.mirrors.ground = -0.7;
    const auto a = panels::flowPast(one, windAt(0.0), Vec3::Zero(), ground),
               b = panels::flowPast(both, windAt(0.0), Vec3::Zero(), {});
    const double q = windAt(0.0).dynamicPressure();
    EXPECT_LT(a.force.z(), -0.01 * q);  // it is drawn down, where the air is quicker
    Vec3 ofFirst = Vec3::Zero();
    for (std::size_t i = 0; i < one.size(); ++i) ofFirst -= q * b.cp[i] * both.area[i] * both.normal[i];
    EXPECT_NEAR(a.force.z(), ofFirst.z(), 0.02 * std::abs(ofFirst.z()));
}

TEST(PanelFlow, LiftsAWingAsTheLatticeDoesAndItsThicknessMore) {
    const panels::Panels p(panels::remeshedAlike(thickWing(), {6000}));
    const auto lattice =
        bench::loadsOf(bench::flatWing(3.0, 0.0, 1.0, 12, 24, wing::Spacing::Outer), bench::symmetric(), 5.0 * degree);
    const auto wind = windAt(5.0);
    const auto flow = panels::flowPast(p, wind, Vec3::Zero(), {});
    const double qS = wind.dynamicPressure() * 6.0, CL = flow.force.dot(wind.liftAxis()) / qS;
    // A section of thickness t lifts 1 + 0.77 t as much without friction (H. Glauert); a wing of this aspect
    // ratio 1.065.
    EXPECT_NEAR(CL, 1.065 * lattice.coefficients.CL, 0.02 * lattice.coefficients.CL);
    EXPECT_GT(CL, 1.02 * lattice.coefficients.CL);
    EXPECT_NEAR(flow.farForce.dot(wind.liftAxis()) / qS, CL, 0.02 * CL);
    // Induced drag goes with the lift's square: that of the lattice at this lift.
    EXPECT_NEAR(flow.inducedDrag / qS, lattice.inducedFar * std::pow(CL / lattice.liftFar, 2.0),
                0.08 * lattice.inducedFar);
    EXPECT_LT(std::abs(flow.force.y()) / qS, 1e-4);
    // Without wakes there is no lift.
    panels::Around without;
    without.wakes = false;
    EXPECT_LT(std::abs(liftOf(p, 5.0, without)), 0.15 * CL);
    // Over a ground it has more of both sides' pressure.
    panels::Around ground;
    ground.mirrors.ground = -0.5;
    EXPECT_NE(test::refusalOf([&] { liftOf(p, 5.0, ground); }).find("through the ground"), std::string::npos);
}

TEST(PanelLayer, IsBlasiusOnAPlateAndSeparatesWhereTheFlowSlows) {
    std::vector<double> s, even, slowing;
    for (int k = 0; k <= 400; ++k) {
        s.push_back(0.001 * k);
        even.push_back(10.0);
        slowing.push_back(10.0 * (1.0 - 0.5 * s.back()));
    }
    const double nu = 1.5e-5;
    const auto plate = panels::layerAlong(s, even, nu);
    const double reynolds = 10.0 * s.back() / nu;
    EXPECT_FALSE(plate.turbulent);
    EXPECT_NEAR(plate.cf, 0.664 / std::sqrt(reynolds), 0.03 * plate.cf);  // H. Blasius, 1908; Thwaites is within 3 %
    // L. Howarth, Proc. R. Soc. A 164, 1938: U = U0 (1 - x/L) separates at x/L 0.12, L = 2 m here: 0.24 m.
    const auto laminar = panels::layerAlong({s.begin(), s.begin() + 220}, {slowing.begin(), slowing.begin() + 220}, nu);
    EXPECT_FALSE(laminar.turbulent);
    EXPECT_TRUE(panels::layerAlong(s, slowing, nu).turbulent);
    // Turbulent friction of a plate at Re 6 M: 0.455 / ln^2(0.06 Re) (F. M. White); Ludwieg and Tillmann's law falls
    // below it as Re grows, by 4 % here.
    std::vector<double> far, speed;
    for (int k = 0; k <= 600; ++k) {
        far.push_back(0.005 * k);
        speed.push_back(30.0);
    }
    const auto turbulent = panels::layerAlong(far, speed, nu);
    EXPECT_TRUE(turbulent.turbulent);
    EXPECT_NEAR(turbulent.cf, 0.455 / std::pow(std::log(0.06 * 30.0 * 3.0 / nu), 2.0), 0.06 * turbulent.cf);
}

TEST(Suitable, NamesWhatPanelsCannotTakeWithItsPlace) {
    shape::Surface sheet;
    sheet.points = {Vec3(0, 0, 0), Vec3(1, 0, 0), Vec3(1, 1, 0), Vec3(0, 1, 0)};
    sheet.facets = {{0, 1, 2}, {0, 2, 3}};
    sheet.partOf = {0, 0};
    sheet.parts = {{"sheet"}};
    EXPECT_NE(test::refusalOf([&] { panels::suitableFor(sheet, false); }).find("model: "), std::string::npos);
    // A ball without a cap of half its width stays open; one without a facet is closed.
    auto open = ball(0.5, 30);
    open.facets.erase(open.facets.begin() + 400);
    open.partOf.pop_back();
    EXPECT_FALSE(panels::suitableFor(open, false).remarks.empty());
    auto cut = ball(0.5, 30);
    std::vector<shape::Facet> kept;
    for (std::size_t f = 0; f < cut.facets.size(); ++f)
        if (cut.corner(f, 0).x() < 0.25) kept.push_back(cut.facets[f]);
    cut.facets = kept;
    cut.partOf.assign(kept.size(), 0);
    const auto said = test::refusalOf([&] { panels::suitableFor(cut, false); });
    EXPECT_NE(said.find("open along"), std::string::npos);
    EXPECT_NE(said.find("0.2"), std::string::npos);  // the place
    // Two balls that run into each other become one skin, of the two parts.
    shape::Surface two;
    shape::addSphere(two, "front", Vec3::Zero(), 0.5, 20);
    shape::addSphere(two, "rear", Vec3(0.6, 0.013, 0.007), 0.4, 20);
    const auto one = panels::suitableFor(two, false);
    EXPECT_TRUE(shape::checkHealth(one.surface).closed());
    EXPECT_EQ(one.surface.parts.size(), 2u);
    EXPECT_LT(one.surface.area(), 0.9 * two.area());
    // A half is made whole.
    auto half = ball(0.5, 30);
    EXPECT_NEAR(panels::suitableFor(half, true).surface.volume(), half.volume(), 0.01 * half.volume());
}

TEST(PanelRuns, AreReadAsThoseOfTheField) {
    const test::Folder folder;
    auto a = bench::flatWing(2.0, 5.0, 0.6, 4, 6);
    for (auto& t : a.surfaces[0].stations) t.section = "2412";
    auto c = campaign::Campaign::create(folder / "g.cvane", a);
    c.settings.schedule.methods = campaign::Methods::Panels;
    c.settings.schedule.alphas_deg = {4.0};
    c.settings.panels.count = 1200;
    c.save();
    const auto p = campaign::pointsOf(c.settings).at(0);
    EXPECT_EQ(p.name(), "v20.00_a4.00_b0.00@panels");
    const auto& runner = campaign::runnerOf(p.method);
    runner.prepare(c, p);
    const auto run = campaign::newRunFolder(c, p);
    runner.writeOrder(
        c, {campaign::runKey(c, p), campaign::caseKey(c, p), runner.version(), p}, {}, 0,
        [] { return std::vector<std::filesystem::path>(); }, run);
    runner.solve(run, flow::Ranks::alone());
    campaign::MeasureBook book;
    const auto report = campaign::reportOf(c, p, book.reference(c));
    ASSERT_TRUE(report.result);
    EXPECT_EQ(report.state, campaign::PointState::Settled);
    EXPECT_GT(report.result->coefficients.CL, 0.4);
    EXPECT_GT(report.result->coefficients.CD, 0.01);
    EXPECT_GT(report.result->band.CL, 0.0);
    const auto walls = campaign::readPanelWalls(run);
    EXPECT_EQ(walls.wall.face.size(), static_cast<std::size_t>(report.result->cells));
    EXPECT_LT(walls.separated.facets.size(), walls.wall.face.size() / 4) << "a slender wing at a small angle";
    const auto station = readout::cutStation(*walls.grid, *walls.geometry, walls.wall, 1, 0.8);
    ASSERT_FALSE(station.samples.empty());
    ASSERT_EQ(station.outlines.size(), 1u);
    double above = 0.0, below = 0.0;
    for (const auto& s : station.samples)
        if (s.fraction > 0.2 && s.fraction < 0.6) (s.upper ? above : below) += s.Cp;
    EXPECT_LT(above, below);
    // Another number of panels is another case, and back again the same one.
    c.settings.panels.count = 1300;
    EXPECT_EQ(campaign::reportOf(c, p, book.reference(c)).state, campaign::PointState::OutOfDate);
    c.settings.panels.count = 1200;
    EXPECT_EQ(campaign::reportOf(c, p, book.reference(c)).state, campaign::PointState::Settled);
    base::replaceFile(run / campaign::kPanelsFile, "nothing");
    EXPECT_NE(campaign::damageOf(run), "");
    EXPECT_NE(test::refusalOf([&] { campaign::readPanelWalls(run); }).find("damaged"), std::string::npos);
}
