// Surfaces, sections and their measures against closed forms, and surface files as other programs write them.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <ctime>
#include <random>
#include <set>

#include "base/errors.h"
#include "base/files.h"
#include "base/units.h"
#include "bench/models.h"
#include "folder.h"
#include "shape/axle.h"
#include "shape/crossings.h"
#include "shape/edges.h"
#include "shape/feature_curves.h"
#include "shape/health.h"
#include "shape/import.h"
#include "shape/placement.h"
#include "shape/projected_area.h"
#include "shape/section.h"
#include "shape/stl_export.h"
#include "shape/triangle.h"
#include "shape/triangle_tree.h"

using namespace cvane;

namespace {
const double pi = std::acos(-1.0);

shape::Surface turned(shape::Surface s, const Vec3& degrees) {
    shape::Placement p;
    p.rotation_deg = degrees;
    return shape::placed(s, p);
}
shape::Surface read(const std::string& text, const char* name) {
    const test::Folder folder;
    base::replaceFile(folder / name, text);
    return shape::readSurface(folder / name, 1.0);
}
std::string tetrahedron(const std::string& name, double at, const char* newLine = "\n") {
    const Vec3 p[4] = {{at, 0, 0}, {at + 1, 0, 0}, {at, 1, 0}, {at, 0, 1}};
    const int f[4][3] = {{0, 2, 1}, {0, 1, 3}, {0, 3, 2}, {1, 2, 3}};
    std::string t = "solid " + name + newLine;
    for (const auto& c : f) {
        t += std::string("  facet normal 0 0 0") + newLine + "    outer loop" + newLine;
        for (const int k : c)
            t += "      vertex " + std::to_string(p[k].x()) + " " + std::to_string(p[k].y()) + " " +
                 std::to_string(p[k].z()) + newLine;
        t += std::string("    endloop") + newLine + "  endfacet" + newLine;
    }
    return t + "endsolid " + name + newLine;
}
}  // namespace

TEST(Loft, OfACylinderHasItsVolumeAndArea) {
    const int n = 48;
    const auto s = bench::cylinder(0.5, 2.0, n);
    const double polygon = 0.5 * n * std::sin(2.0 * pi / n) * 0.25, perimeter = 2.0 * n * std::sin(pi / n) * 0.5;
    EXPECT_NEAR(s.volume(), 2.0 * polygon, 1e-12);
    EXPECT_NEAR(s.area(), 2.0 * polygon + 2.0 * perimeter, 1e-12);
    EXPECT_TRUE(shape::checkHealth(s).closed());
}

TEST(Surface, VolumeAndAreaDoNotDependOnWhereItStands) {
    const auto s = bench::sphere(0.7, 30);
    auto far = turned(s, {20.0, -35.0, 110.0});
    for (Vec3& p : far.points) p += Vec3(1e4, -2e4, 3e4);
    EXPECT_NEAR(far.volume(), s.volume(), 1e-7);
    EXPECT_NEAR(far.area(), s.area(), 1e-7);
}

TEST(Surface, AreaVectorsOfAClosedOneAddUpToNothing) {
    for (const auto& s :
         {bench::sphere(0.5, 20), bench::cube(1.0), bench::cylinder(0.3, 1.0, 17), bench::hemisphere(0.4, 24)}) {
        Vec3 sum = Vec3::Zero();
        for (std::size_t f = 0; f < s.facets.size(); ++f) sum += s.areaVector(f);
        EXPECT_LT(sum.norm(), 1e-12);
    }
}

TEST(HiddenParts, AreNeitherMeasuredNorRenumbered) {
    auto s = bench::sphere(0.5, 12);
    shape::addSphere(s, "other", {3.0, 0.0, 0.0}, 0.25, 12);
    s.parts[0].inTheAir = false;
    const auto shown = shape::withoutHiddenParts(s);
    EXPECT_NEAR(shown.bounds().low.x(), 2.75, 1e-12);
    EXPECT_EQ(shown.parts.size(), 2u);
    for (const auto p : shown.partOf) EXPECT_EQ(p, 1);
}

// x first, then y, then z, each by the right-hand rule.
TEST(Placement, TurnsAboutXThenYThenZ) {
    const Mat3 R = shape::rotationMatrix({90.0, 90.0, 0.0});
    EXPECT_LT((R * Vec3::UnitY() - Vec3::UnitX()).norm(), 1e-12);  // y -> z -> x
    EXPECT_LT((shape::rotationMatrix({0, 0, 90}) * Vec3::UnitX() - Vec3::UnitY()).norm(), 1e-12);
    EXPECT_NEAR(shape::rotationMatrix({12, 34, 56}).determinant(), 1.0, 1e-12);
}

TEST(ProjectedArea, OfATurnedCubeIsThatOfItsShadow) {
    // About z by a: the sides cast cos a + sin a.
    for (const double a : {10.0, 30.0, 45.0}) {
        const auto s = turned(bench::cube(1.0), {0.0, 0.0, a});
        EXPECT_NEAR(shape::projectedArea(s, 0), std::cos(a * base::degree) + std::sin(a * base::degree), 2e-3);
        EXPECT_NEAR(shape::projectedArea(s, 2), 1.0, 2e-3);
    }
}

TEST(FourDigitSection, HasItsCamberWhereItIsAsked) {
    // 4 % at 0.4 chords: half the sum of both sides at equal chord, to the slant of the thickness.
    const auto line = shape::fourDigitSection(0.04, 0.4, 0.12, 400);
    const auto heightAt = [&](double x, bool upper) {
        double best = 1e9, z = 0.0;
        for (std::size_t i = 0; i < line.size(); ++i) {
            if ((i <= 400) != upper || std::abs(line[i].first - x) > best) continue;
            best = std::abs(line[i].first - x);
            z = line[i].second;
        }
        return z;
    };
    EXPECT_NEAR(0.5 * (heightAt(0.4, true) + heightAt(0.4, false)), 0.04, 5e-4);
    EXPECT_NEAR(heightAt(0.4, true) - heightAt(0.4, false), 2.0 * 0.0580,
                1e-3);  // thickness there: 5 t times the polynomial, 0.0580
    // Upper ordinates of the 4412 at 30 and 40 % (Abbott and von Doenhoff, appendix III).
    EXPECT_NEAR(heightAt(0.3, true), 0.0976, 1e-3);
    EXPECT_NEAR(heightAt(0.4, true), 0.0980, 1e-3);
}

// Abbott and von Doenhoff: r = 1.1019 t^2 chords.
TEST(FourDigitSection, HasItsNoseRadius) {
    const double t = 0.15;
    const auto line = shape::fourDigitSection(0.0, 0.4, t, 2000);
    const auto nose = std::min_element(line.begin(), line.end());
    // z^2 = 2 r x near the nose
    const auto& [x, z] = *(nose - 12);
    EXPECT_NEAR(z * z / (2.0 * x), 1.1019 * t * t, 0.05 * 1.1019 * t * t);
}

TEST(MappedSection, HasAClosedLineOfUnitChordAndTheLiftOfThinAirfoilsWhenThin) {
    const bench::MappedSection thin{0.01, 1.99};
    double low = 1e9, high = -1e9;
    for (const auto& [x, z] : thin.line(400)) {
        low = std::min(low, x);
        high = std::max(high, x);
    }
    EXPECT_NEAR(low, 0.0, 1e-3);
    EXPECT_NEAR(high, 1.0, 1e-9);
    EXPECT_NEAR(thin.lift(0.01) / 0.01, 2.0 * pi, 0.03 * 2.0 * pi);
}

TEST(Triangle, ClosestPointIsNearerThanAnyOther) {
    std::mt19937 random(11);
    std::uniform_real_distribution<double> u(-1.0, 1.0), v(0.0, 1.0);
    for (int i = 0; i < 300; ++i) {
        const auto any = [&] { return Vec3(u(random), u(random), u(random)); };
        const Vec3 a = any(), b = any(), c = any(), p = 2.0 * any();
        const double best = (shape::closestPointOnTriangle(p, a, b, c) - p).norm();
        for (int k = 0; k < 50; ++k) {
            double s = v(random), t = v(random);
            if (s + t > 1.0) s = 1.0 - s, t = 1.0 - t;
            EXPECT_LE(best, (a + s * (b - a) + t * (c - a) - p).norm() + 1e-12);
        }
    }
    // Shrunk to a segment and to a point.
    EXPECT_LT((shape::closestPointOnTriangle({0.5, 1, 0}, {0, 0, 0}, {1, 0, 0}, {1, 0, 0}) - Vec3(0.5, 0, 0)).norm(),
              1e-12);
    EXPECT_LT((shape::closestPointOnTriangle({5, 1, 0}, {1, 2, 3}, {1, 2, 3}, {1, 2, 3}) - Vec3(1, 2, 3)).norm(),
              1e-12);
}

TEST(Triangle, OverlapsABoxWhereAPointOfItLiesInside) {
    std::mt19937 random(12);
    std::uniform_real_distribution<double> u(-2.0, 2.0), v(0.0, 1.0);
    const Box box{{-0.5, -0.4, -0.3}, {0.5, 0.4, 0.3}};
    int met = 0;
    for (int i = 0; i < 400; ++i) {
        const auto any = [&] { return Vec3(u(random), u(random), u(random)); };
        const Vec3 a = any(), b = any(), c = any();
        bool inside = false;
        for (int k = 0; k < 400 && !inside; ++k) {
            double s = v(random), t = v(random);
            if (s + t > 1.0) s = 1.0 - s, t = 1.0 - t;
            inside = box.contains(a + s * (b - a) + t * (c - a));
        }
        if (inside) {
            EXPECT_TRUE(shape::overlaps(box, a, b, c));
            ++met;
        }
        // And never where all corners lie beyond one side.
        for (int k = 0; k < 3; ++k)
            if (std::min({a[k], b[k], c[k]}) > box.high[k] || std::max({a[k], b[k], c[k]}) < box.low[k]) {
                EXPECT_FALSE(shape::overlaps(box, a, b, c));
            }
    }
    EXPECT_GT(met, 30);
}

TEST(Triangle, IsPiercedInsideAndNotOnItsRim) {
    const Vec3 a(0, 0, 0), b(1, 0, 0), c(0, 1, 0);
    EXPECT_TRUE(shape::pierces({0.2, 0.2, -1}, {0.2, 0.2, 1}, a, b, c));
    EXPECT_TRUE(shape::pierces({0.2, 0.2, 1}, {0.2, 0.2, -1}, a, b, c));
    EXPECT_FALSE(shape::pierces({0.8, 0.8, -1}, {0.8, 0.8, 1}, a, b, c));
    EXPECT_FALSE(shape::pierces({0.2, 0.2, 0.5}, {0.2, 0.2, 1}, a, b, c));
    EXPECT_FALSE(shape::pierces({0.5, 0.0, -1}, {0.5, 0.0, 1}, a, b, c));
}

TEST(TriangleTree, GivesNothingBeyondTheAskedDistance) {
    const shape::TriangleTree tree(bench::sphere(0.5, 20));
    EXPECT_EQ(tree.nearest({2, 0, 0}, 1.0).facet, -1);
    EXPECT_GE(tree.nearest({2, 0, 0}, 1.6).facet, 0);
    EXPECT_TRUE(shape::TriangleTree().empty());
    EXPECT_EQ(shape::TriangleTree().nearest({0, 0, 0}).facet, -1);
}

TEST(TriangleTree, FindsTheSameDistanceWhateverTheGuess) {
    const auto s = bench::sphere(0.5, 24);
    const shape::TriangleTree tree(s);
    const auto facets = static_cast<std::int32_t>(s.facets.size());
    for (int i = 0; i < 200; ++i) {
        const Vec3 p(std::sin(1.0 * i), std::cos(2.0 * i), std::sin(3.0 * i + 1.0));
        // All facets, one by one.
        double least = 1e300;
        for (std::size_t f = 0; f < s.facets.size(); ++f)
            least = std::min(
                least, (shape::closestPointOnTriangle(p, s.corner(f, 0), s.corner(f, 1), s.corner(f, 2)) - p).norm());
        for (const std::int32_t guess : {-1, (37 * i) % facets}) {
            const auto hit = tree.nearest(p, 1e300, guess);
            EXPECT_NEAR(hit.distance, least, 1e-12);
            EXPECT_NEAR((hit.point - p).norm(), least, 1e-12);
        }
        EXPECT_TRUE(tree.closerThan(p, least + 1e-9));
        EXPECT_FALSE(tree.closerThan(p, least - 1e-9));
        EXPECT_EQ(tree.nearest(p, least - 1e-9, (37 * i) % facets).facet, -1);
    }
    EXPECT_FALSE(shape::TriangleTree().closerThan(Vec3::Zero(), 1.0));
}

TEST(TriangleTree, ManyWindingNumbersAreThoseOfEachPoint) {
    const shape::TriangleTree tree(bench::sphere(0.5, 40));
    std::vector<Vec3> at;
    for (int i = 0; i < 60; ++i) at.push_back(0.02 * Vec3(i % 4, i / 4 % 4, i / 16) + Vec3(0.3, 0.2, 0.1));
    std::vector<double> w(at.size());
    tree.windings(at, w);
    for (std::size_t i = 0; i < at.size(); ++i) EXPECT_NEAR(w[i], tree.winding(at[i]), 0.06);
}

TEST(Edges, OfAClosedSurfaceAreOneAndAHalfTimesItsFacets) {
    const auto s = bench::sphere(0.5, 16);
    const auto edges = shape::edgesOf(s);
    EXPECT_EQ(2 * edges.size(), 3 * s.facets.size());
    for (const auto& e : edges) {
        EXPECT_LT(e.a, e.b);
        ASSERT_EQ(e.uses.size(), 2u);
        EXPECT_NE(e.uses[0].forward, e.uses[1].forward);
    }
    // Euler: corners - edges + facets = 2
    std::set<std::int32_t> corners;
    for (const auto& f : s.facets) corners.insert(f.begin(), f.end());
    EXPECT_EQ(static_cast<std::ptrdiff_t>(corners.size()) - static_cast<std::ptrdiff_t>(edges.size()) +
                  static_cast<std::ptrdiff_t>(s.facets.size()),
              2);
}

TEST(Crossings, OfTwoPlatesLieOnTheLineTheyShare) {
    shape::Surface s;
    s.parts = {{"plates", true}};
    s.points = {{-1, -1, 0}, {1, -1, 0}, {0, 2, 0}, {0.1, -0.5, -1}, {0.1, -0.5, 1}, {0.1, 0.7, 0.2}};
    s.facets = {{0, 1, 2}, {3, 4, 5}};
    s.partOf = {0, 0};
    const auto all = shape::crossingsOf(s, shape::TriangleTree(s), 0.1);
    ASSERT_EQ(all.size(), 1u);
    for (const auto& end : all[0].ends) {
        EXPECT_NEAR(end.place.z(), 0.0, 1e-12);
        EXPECT_NEAR(end.place.x(), 0.1, 1e-12);
    }
    EXPECT_NEAR((all[0].ends[0].place - all[0].ends[1].place).norm(), 1.0, 1e-12);
    EXPECT_TRUE(shape::crossingsOf(s, shape::TriangleTree(s), 1.7).empty());  // they cross at a right angle, not more
}

TEST(Axle, OfAWheelIsFoundWhicheverWayItLies) {
    for (const Vec3& turn : {Vec3(0, 0, 0), Vec3(0, 0, 30), Vec3(40, 0, 10), Vec3(0, 70, 0)}) {
        const auto s = turned(bench::cylinder(0.4, 0.15, 40), turn);
        const auto axle = shape::axleOf(s, 0);
        const Vec3 expected = shape::rotationMatrix(turn) * Vec3::UnitX();
        EXPECT_NEAR(std::abs(axle.axis.dot(expected)), 1.0, 1e-6);
        EXPECT_GE(axle.axis.y(), -1e-12);
        EXPECT_NEAR(axle.radius, 0.4, 1e-6);
    }
    shape::Surface none;
    none.parts = {{"nothing", true}};
    EXPECT_THROW(shape::axleOf(none, 0), base::InputError);
}

TEST(Import, ReadsTextFilesAsOtherProgramsWriteThem) {
    const auto plain = read(tetrahedron("fin", 0.0), "a.stl");
    EXPECT_EQ(plain.facets.size(), 4u);
    EXPECT_EQ(plain.points.size(), 4u);
    EXPECT_NEAR(std::abs(plain.volume()), 1.0 / 6.0, 1e-9);
    EXPECT_EQ(read(tetrahedron("fin", 0.0, "\r\n"), "b.stl").facets.size(), 4u);
    EXPECT_EQ(read("\n  " + tetrahedron("fin", 0.0), "c.stl").facets.size(), 4u);
    EXPECT_EQ(read(tetrahedron("", 0.0), "d.stl").facets.size(), 4u);
    auto exponents = tetrahedron("fin", 0.0);
    for (std::size_t at = 0; (at = exponents.find("1.000000", at)) != std::string::npos; at += 8)
        exponents.replace(at, 8, "1.00E+00");
    EXPECT_NEAR(std::abs(read(exponents, "e.stl").volume()), 1.0 / 6.0, 1e-9);
}

TEST(Import, TellsPartsOfTheSameNameApart) {
    const auto s =
        read(tetrahedron("wheel", 0.0) + tetrahedron("wheel", 3.0) + tetrahedron("body work", 6.0), "three.stl");
    ASSERT_EQ(s.parts.size(), 3u);
    EXPECT_EQ(s.parts[2].name, "body work");
    EXPECT_NE(s.parts[0].name, s.parts[1].name);
}

TEST(Import, ReadsPlyAndPolygonsOfObj) {
    const auto ply = read(
        "ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\nelement face "
        "4\nproperty list uchar int vertex_indices\nend_header\n"
        "0 0 0\n1 0 0\n0 1 0\n0 0 1\n3 0 2 1\n3 0 1 3\n3 0 3 2\n3 1 2 3\n",
        "a.ply");
    EXPECT_EQ(ply.facets.size(), 4u);
    EXPECT_NEAR(std::abs(ply.volume()), 1.0 / 6.0, 1e-6);
    // Four-sided faces become two facets each.
    const auto cube = read(
        "o box\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nv 1 1 1\nv 0 1 1\nf 1 4 3 2\nf 5 6 7 8\nf 1 2 6 "
        "5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n",
        "b.obj");
    EXPECT_EQ(cube.facets.size(), 12u);
    EXPECT_NEAR(std::abs(cube.volume()), 1.0, 1e-6);
}

TEST(Export, WritesEachPartAsASolidAndReadsBackTheSame) {
    const test::Folder folder;
    auto s = bench::sphere(0.5, 10);
    s.parts[0].name = "nose cone";
    shape::addSphere(s, "tail", {2.0, 0.0, 0.0}, 0.3, 9);
    for (const double unit : {1.0, 1e-3, 0.3048}) {
        shape::writeStl(s, folder / "s.stl", unit);
        const auto back = shape::readSurface(folder / "s.stl", unit);
        ASSERT_EQ(back.parts.size(), 2u);
        EXPECT_EQ(back.parts[0].name, "nose cone");
        EXPECT_EQ(back.facets.size(), s.facets.size());
        EXPECT_NEAR(back.volume(), s.volume(), 1e-5 * s.volume());
    }
}

TEST(Health, NamesEachFaultItsNumberAndAPlace) {
    auto s = bench::cube(1.0);
    s.facets.push_back({s.facets[0][0], s.facets[0][0], s.facets[0][1]});
    s.partOf.push_back(0);
    const auto h = shape::checkHealth(s);
    EXPECT_EQ(h.degenerateFacets.count, 1u);
    ASSERT_EQ(h.degenerateFacets.places.size(), 1u);
    EXPECT_TRUE(bench::cube(1.01).bounds().contains(h.degenerateFacets.places[0]));
    EXPECT_NE(h.sentence().find("1"), std::string::npos) << h.sentence();
    // A fin on an edge: three facets share it.
    auto fin = bench::cube(1.0);
    const auto n = static_cast<std::int32_t>(fin.points.size());
    fin.points.push_back({0.0, 0.0, 3.0});
    fin.facets.push_back({fin.facets[0][0], fin.facets[0][1], n});
    fin.partOf.push_back(0);
    EXPECT_EQ(shape::checkHealth(fin).nonManifoldEdges.count, 1u);
    EXPECT_THROW(shape::checkHealth(bench::sphere(0.5, 60), [](double, std::string_view) { return false; }),
                 base::Cancelled);
}

TEST(Health, OfThousandsOfFacetsOnOneEdgeIsToldWithinTwoSeconds) {
    constexpr int kFacets = 3000;
    shape::Surface s;
    s.points = {{0, 0, 0}, {0, 0, 1}};
    s.parts.resize(1);
    for (int i = 0; i < kFacets; ++i) {
        const double angle = 2.0 * std::acos(-1.0) * i / kFacets;
        s.points.push_back({std::cos(angle), std::sin(angle), 0.5});
        s.facets.push_back({0, 1, 2 + i});
        s.partOf.push_back(0);
    }
    // The boxes of all pairs meet: 0.2 s of processor time, and some ten times as long where every access is checked.
#ifdef __SANITIZE_ADDRESS__
    constexpr int kMostSeconds = 30;
#else
    constexpr int kMostSeconds = 2;
#endif
    const std::clock_t start = std::clock();
    const auto health = shape::checkHealth(s);
    EXPECT_LT(std::clock() - start, kMostSeconds * CLOCKS_PER_SEC);
    EXPECT_EQ(health.nonManifoldEdges.count, 1u);
    EXPECT_EQ(health.openEdges.count, 2u * kFacets);
    EXPECT_EQ(health.overlaps.count, 0u);
}

TEST(FeatureCurves, OfAHalfBallAreItsRim) {
    const auto s = bench::hemisphere(0.5, 48);
    const auto curves = shape::featureCurves(s, shape::TriangleTree(s), 0.6);
    ASSERT_EQ(curves.size(), 1u);
    EXPECT_TRUE(curves[0].closed);
    EXPECT_NEAR(curves[0].length(), 48.0 * std::sin(pi / 48.0), 1e-9);
    EXPECT_TRUE(shape::featureCurves(bench::sphere(0.5, 40), shape::TriangleTree(bench::sphere(0.5, 40)), 0.6).empty());
}

TEST(ProjectedArea, OfFacetsThatShareAnEdgeIsThatOfTheirOutline) {
    // A fan about the z axis, two units wide and one high: seen along x, two triangles that meet at the axis.
    shape::Surface fan;
    fan.parts = {{"fan"}};
    constexpr int n = 300;
    fan.points = {{0, 0, 0}, {0, 0, 1}};
    for (int i = 0; i < n; ++i) {
        const double a = 2.0 * std::acos(-1.0) * i / n;
        fan.points.push_back({std::cos(a), std::sin(a), 0.5});
        fan.facets.push_back({0, 1, 2 + i});
        fan.partOf.push_back(0);
    }
    EXPECT_NEAR(shape::projectedArea(fan, 0), 1.0, 2e-3);
    EXPECT_NEAR(shape::projectedArea(fan, 1), 1.0, 2e-3);
}
