// One skin of surfaces that run into each other, against the volumes of what they enclose together.
#include "shape/unite.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "bench/models.h"
#include "bench/random_aircraft.h"
#include "bench/wings.h"
#include "shape/crossings.h"
#include "shape/facet_cut.h"
#include "shape/health.h"
#include "shape/mirror.h"
#include "shape/triangle_tree.h"
#include "wing/skin.h"

using namespace cvane;
using shape::FacetPlace;
using std::numbers::pi;

namespace {
void add(shape::Surface& to, shape::Surface what, const Vec3& at, const std::string& name) {
    shape::weld(what);
    const auto points = static_cast<std::int32_t>(to.points.size());
    for (const Vec3& p : what.points) to.points.push_back(p + at);
    for (shape::Facet f : what.facets) {
        for (auto& p : f) p += points;
        to.facets.push_back(f);
        to.partOf.push_back(static_cast<std::int32_t>(to.parts.size()));
    }
    to.parts.push_back({name, true, {}});
}
shape::Surface boxOf(double x, double y, double z) {
    shape::Surface s;
    bench::addBox(s, "box", Vec3::Zero(), Vec3(x, y, z));
    shape::orientFacets(s);
    return s;
}
void expectOneSkin(const shape::Surface& s) {
    EXPECT_TRUE(shape::checkHealth(s).closed()) << shape::checkHealth(s).sentence();
    EXPECT_TRUE(shape::crossingsOf(s, shape::TriangleTree(s), 0.01).empty());
}
double areaOf(const std::vector<std::array<int, 3>>& triangles, const std::vector<FacetPlace>& at) {
    double sum = 0.0;
    for (const auto& t : triangles) {
        const auto d = [&](int k, bool v) {
            const auto &a = at[static_cast<std::size_t>(t[0])],
                       &b = at[static_cast<std::size_t>(t[static_cast<std::size_t>(k)])];
            return static_cast<double>(v ? b.v - a.v : b.u - a.u) / FacetPlace::kSide;
        };
        const double one = d(1, false) * d(2, true) - d(1, true) * d(2, false);
        EXPECT_GT(one, 0.0);
        sum += one;
    }
    return sum;
}
}  // namespace

TEST(CutFacet, IsFilledAndHasItsLinesAsEdges) {
    const auto n = FacetPlace::kSide;
    std::vector<FacetPlace> at{
        {0, 0},         {n, 0},         {0, n},        FacetPlace::onEdge(0, n / 3), FacetPlace::onEdge(1, n / 2),
        {n / 4, n / 4}, {n / 8, n / 2}, {n / 2, n / 8}};
    // The last of them crosses the second.
    EXPECT_FALSE(shape::cutFacet(at, std::vector<std::array<int, 2>>{{3, 5}, {5, 4}, {1, 6}}));
    const std::vector<std::array<int, 2>> sound{{3, 5}, {5, 4}, {6, 2}, {7, 1}};
    const auto cut = shape::cutFacet(at, sound);
    ASSERT_TRUE(cut);
    EXPECT_NEAR(areaOf(*cut, at), 1.0, 1e-12);
    for (const auto& l : sound)
        EXPECT_TRUE(std::any_of(cut->begin(), cut->end(), [&](const auto& t) {
            return std::count(t.begin(), t.end(), l[0]) + std::count(t.begin(), t.end(), l[1]) == 2;
        }));
}

TEST(CutFacet, RefusesPlacesThatFallTogether) {
    const auto n = FacetPlace::kSide;
    const std::vector<FacetPlace> at{{0, 0}, {n, 0}, {0, n}, {n / 4, n / 4}, {n / 4, n / 4}};
    EXPECT_FALSE(shape::cutFacet(at, {}));
}

TEST(United, BallsThatCrossLoseTheirLens) {
    shape::Surface s;
    const auto ball = bench::sphere(1.0, 48);
    add(s, ball, Vec3::Zero(), "one");
    add(s, ball, Vec3(0.9, 0.5, 0.3), "other");
    const auto u = shape::united(s);
    ASSERT_TRUE(u);
    expectOneSkin(*u);
    // Lens of two unit balls at a distance d: pi (4 + d) (2 - d)^2 / 12.
    const double d = Vec3(0.9, 0.5, 0.3).norm(), lens = pi * (4.0 + d) * (2.0 - d) * (2.0 - d) / 12.0;
    const double one = 0.5 * s.volume(), share = one / (4.0 * pi / 3.0);  // of the faceted ball
    EXPECT_NEAR(u->volume(), 2.0 * one - lens * share, 2e-3 * one);
    EXPECT_EQ(u->parts.size(), 2u);
}

TEST(United, BoxesInLineWithEachOtherShareNoWall) {
    // Faces in one plane, edges upon edges, a corner in a corner: what no cut meets inside of a facet.
    for (const Vec3& at :
         {Vec3(0.5, 0.0, 0.0), Vec3(0.5, 0.5, 0.0), Vec3(0.5, 0.5, 0.5), Vec3(1.0, 0.0, 0.0), Vec3(0.25, 0.0, 0.5)}) {
        shape::Surface s;
        add(s, boxOf(1, 1, 1), Vec3::Zero(), "one");
        add(s, boxOf(1, 1, 1), at, "other");
        const auto u = shape::united(s);
        ASSERT_TRUE(u) << at.transpose();
        EXPECT_TRUE(shape::checkHealth(*u).openEdges.count == 0);
        const double common = (1.0 - at.x()) * (1.0 - at.y()) * (1.0 - at.z());
        EXPECT_NEAR(u->volume(), 2.0 - common, 1e-5) << at.transpose();
    }
}

TEST(United, WhatLiesInsideIsGoneAndWhatLiesApartStays) {
    shape::Surface s;
    add(s, boxOf(1, 1, 1), Vec3::Zero(), "outer");
    add(s, boxOf(0.2, 0.2, 0.2), Vec3(0.4, 0.4, 0.4), "inner");
    add(s, boxOf(1, 1, 1), Vec3(3, 0, 0), "apart");
    const auto u = shape::united(s);
    ASSERT_TRUE(u);
    EXPECT_EQ(u->facets.size(), s.facets.size() / 3 * 2);
    EXPECT_NEAR(u->volume(), 2.0, 1e-12);
    EXPECT_EQ(std::count(u->partOf.begin(), u->partOf.end(), 1), 0);
}

TEST(United, OpenPartsAreRefused) {
    shape::Surface s;
    add(s, boxOf(1, 1, 1), Vec3::Zero(), "open");
    s.facets.pop_back();
    s.partOf.pop_back();
    EXPECT_FALSE(shape::united(s));
}

TEST(United, PartsOfRandomAircraftDoNotCrossEachOther) {
    for (unsigned seed = 1; seed <= 12; ++seed) {
        const auto skin = wing::skinOf(bench::randomAircraft(seed));
        EXPECT_TRUE(shape::checkHealth(skin).closed()) << seed;
        // At breaks of strong dihedral a surface may cross itself: that is as it is typed.
        for (const auto& c : shape::crossingsOf(skin, shape::TriangleTree(skin), 0.02))
            EXPECT_EQ(skin.partOf[static_cast<std::size_t>(c.facets[0])],
                      skin.partOf[static_cast<std::size_t>(c.facets[1])])
                << seed;
    }
}

TEST(United, WingThroughABodyIsItsOwnMirrorImage) {
    wing::Aircraft a;
    a.surfaces.push_back(bench::flatWing(2.0, 20.0, 0.6, 4, 4).surfaces[0]);
    for (auto& t : a.surfaces[0].stations) t.section = "0012";
    wing::Body pod;
    pod.name = "pod";
    pod.place = Vec3(-0.8, 0.0, 0.02);
    pod.stations = {
        {0.0, 0.0, 0.0, 0.0, 2.0}, {0.5, 0.0, 0.3, 0.3, 2.0}, {2.0, 0.0, 0.3, 0.3, 2.0}, {2.6, 0.0, 0.05, 0.05, 2.0}};
    a.bodies.push_back(pod);
    const auto skin = wing::skinOf(a);
    expectOneSkin(skin);
    EXPECT_TRUE(shape::isMirrorImage(skin, 1e-5));
    wing::Aircraft apart = a;
    apart.bodies[0].place.z() = 5.0;
    const double shared = wing::skinOf(apart).volume() - skin.volume();
    // What they share: the wing's section of unit chord where the pod is 0.3 m wide.
    EXPECT_NEAR(shared, 0.12 * 0.6851 * 0.3 * 0.97 * 0.97, 0.1 * shared);
}
