#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "base/errors.h"
#include "base/files.h"
#include "bench/models.h"
#include "folder.h"
#include "shape/feature_curves.h"
#include "shape/health.h"
#include "shape/import.h"
#include "shape/placement.h"
#include "shape/polygon.h"
#include "shape/projected_area.h"
#include "shape/section.h"
#include "shape/stl_export.h"
#include "shape/triangle.h"
#include "shape/triangle_tree.h"

using namespace cvane;

namespace {
std::string refusal(const std::filesystem::path& file) {
    try {
        shape::readSurface(file, 1.0);
    } catch (const base::InputError& e) {
        return e.what();
    }
    return {};
}
}  // namespace

TEST(ProjectedArea, OfASphereIsTheDisc) {
    // 100,352 facets; their own shadow is smaller than the disc by (pi/n)^2/6-odd, far below 0.1 %.
    const auto s = bench::sphere(0.5, 224);
    for (int axis = 0; axis < 3; ++axis)
        EXPECT_NEAR(shape::projectedArea(s, axis), std::acos(-1.0) / 4.0, 1e-3 * std::acos(-1.0) / 4.0);
}

TEST(ProjectedArea, CountsOverlappingPartsOnce) {
    auto s = bench::cube(1.0);
    const auto n = s.facets.size();
    for (std::size_t f = 0; f < n; ++f) {
        s.facets.push_back(s.facets[f]);
        s.partOf.push_back(0);
    }
    EXPECT_NEAR(shape::projectedArea(s, 1), 1.0, 1e-3);
}

TEST(Sphere, HasItsVolumeAndAreaToSecondOrder) {
    const auto s = bench::sphere(1.0, 100);
    EXPECT_NEAR(s.volume(), 4.0 / 3.0 * std::acos(-1.0), 1e-2);
    EXPECT_NEAR(s.area(), 4.0 * std::acos(-1.0), 1e-2);
}

TEST(Import, ReadsTextBinaryAndObjAlike) {
    const test::Folder folder;
    const auto s = bench::sphere(0.5, 12);
    shape::writeStl(s, folder / "text.stl", 1e-3);
    shape::writeBinaryStl(s, folder / "binary.stl", 1e-3);
    std::string obj = "o ball\n";
    for (const auto& p : s.points)
        obj += "v " + std::to_string(p.x() * 1e3) + " " + std::to_string(p.y() * 1e3) + " " +
               std::to_string(p.z() * 1e3) + "\n";
    for (const auto& f : s.facets)
        obj += "f " + std::to_string(f[0] + 1) + " " + std::to_string(f[1] + 1) + " " + std::to_string(f[2] + 1) + "\n";
    base::replaceFile(folder / "ball.obj", obj);
    for (const char* name : {"text.stl", "binary.stl", "ball.obj"}) {
        const auto r = shape::readSurface(folder / name, 1e-3);
        EXPECT_EQ(r.facets.size(), s.facets.size()) << name;
        EXPECT_EQ(r.points.size(), s.points.size()) << name;
        EXPECT_NEAR(r.volume(), s.volume(), 1e-5) << name;
    }
}

TEST(Import, DecidesByContentNotByName) {
    const test::Folder folder;
    auto s = bench::sphere(0.5, 8);
    shape::writeBinaryStl(s, folder / "b.stl", 1.0);
    auto bytes = base::readFile(folder / "b.stl");
    bytes.replace(0, 5, "solid");  // a binary file whose header begins like a text one
    base::replaceFile(folder / "c.stl", bytes);
    EXPECT_EQ(shape::readSurface(folder / "c.stl", 1.0).facets.size(), s.facets.size());
}

TEST(Import, KeepsSolidsAsPartsAndSplitsLoosePieces) {
    const test::Folder folder;
    shape::Surface s;
    shape::addSphere(s, "front wheel", {0, 0, 0}, 0.5, 8);
    shape::addSphere(s, "rear wheel", {3, 0, 0}, 0.6, 10);
    shape::writeStl(s, folder / "two.stl", 1.0);
    const auto named = shape::readSurface(folder / "two.stl", 1.0);
    ASSERT_EQ(named.parts.size(), 2u);
    EXPECT_EQ(named.parts[0].name, "front wheel");
    shape::writeBinaryStl(s, folder / "one.stl", 1.0);
    const auto split = shape::readSurface(folder / "one.stl", 1.0);
    ASSERT_EQ(split.parts.size(), 2u);
    EXPECT_EQ(split.parts[0].name, "piece 1");
}

TEST(Import, RefusesBadFilesInOneSentence) {
    const test::Folder folder;
    EXPECT_NE(refusal(folder / "absent.stl").find("no such file"), std::string::npos);
    base::replaceFile(folder / "empty.stl", "  \n");
    EXPECT_NE(refusal(folder / "empty.stl").find("empty"), std::string::npos);
    base::replaceFile(folder / "text.stl", "Dear reader, this is not a surface.\n");
    EXPECT_FALSE(refusal(folder / "text.stl").empty());
    base::replaceFile(folder / "nan.stl",
                      "solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 nan 0\nvertex 0 1 "
                      "0\nendloop\nendfacet\nendsolid a\n");
    EXPECT_NE(refusal(folder / "nan.stl").find("line 5"), std::string::npos) << refusal(folder / "nan.stl");
    base::replaceFile(folder / "word.stl",
                      "solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 zero 0\nvertex 0 1 "
                      "0\nendloop\nendfacet\nendsolid a\n");
    EXPECT_NE(refusal(folder / "word.stl").find("line 5"), std::string::npos);
    base::replaceFile(folder / "point.stl",
                      "solid a\nfacet normal 0 0 1\nouter loop\nvertex 1 1 1\nvertex 1 1 1\nvertex 1 1 "
                      "1\nendloop\nendfacet\nendsolid a\n");
    EXPECT_FALSE(refusal(folder / "point.stl").empty());
    auto s = bench::sphere(0.5, 8);
    shape::writeBinaryStl(s, folder / "whole.stl", 1.0);
    base::replaceFile(folder / "cut.stl", base::readFile(folder / "whole.stl").substr(0, 700));
    EXPECT_FALSE(refusal(folder / "cut.stl").empty());
    // A text STL that ends within a facet is no smaller model.
    shape::writeStl(s, folder / "whole-text.stl", 1.0);
    const auto text = base::readFile(folder / "whole-text.stl");
    base::replaceFile(folder / "cut-text.stl", text.substr(0, text.rfind("endfacet")));
    EXPECT_NE(refusal(folder / "cut-text.stl").find("ends within a facet"), std::string::npos);
}

TEST(SizeRemark, NamesTheUnitThatWouldFit) {
    const auto s = bench::sphere(1300.0, 8);  // 2.6 m in mm, read as metres
    EXPECT_NE(shape::sizeRemark(s.bounds(), 1.0).find("mm"), std::string::npos);
    EXPECT_TRUE(shape::sizeRemark(bench::sphere(1.3, 8).bounds(), 1e-3).empty());
}

TEST(Health, FindsWhatWasBroken) {
    auto s = bench::sphere(0.5, 16);
    EXPECT_EQ(shape::checkHealth(s).sentence(), "clean and closed");
    auto open = s;
    open.facets.pop_back();
    open.partOf.pop_back();
    EXPECT_EQ(shape::checkHealth(open).openEdges.count, 3u);
    auto flipped = s;
    std::swap(flipped.facets[40][0], flipped.facets[40][1]);
    EXPECT_EQ(shape::checkHealth(flipped).flippedFacets.count, 3u);
    EXPECT_EQ(shape::orientFacets(flipped), 1u);
    EXPECT_EQ(shape::checkHealth(flipped).flippedFacets.count, 0u);
    auto doubled = s;
    doubled.facets.push_back(doubled.facets[7]);
    doubled.partOf.push_back(0);
    EXPECT_EQ(shape::checkHealth(doubled).doubledFacets.count, 1u);
    shape::Surface crossing = s;
    shape::addSphere(crossing, "other", {0.6, 0.01, 0.02}, 0.5, 17);
    EXPECT_GT(shape::checkHealth(crossing).overlaps.count, 10u);
}

TEST(TriangleTree, FindsTheNearestPointThatAFullSearchFinds) {
    const auto s = bench::sphere(1.0, 20);
    const shape::TriangleTree tree(s);
    std::mt19937 random(7);
    std::uniform_real_distribution<double> u(-2.0, 2.0);
    for (int i = 0; i < 200; ++i) {
        const Vec3 p(u(random), u(random), u(random));
        double best = 1e300;
        for (std::size_t f = 0; f < s.facets.size(); ++f)
            best = std::min(
                best, (shape::closestPointOnTriangle(p, s.corner(f, 0), s.corner(f, 1), s.corner(f, 2)) - p).norm());
        EXPECT_NEAR(tree.nearest(p).distance, best, 1e-12);
    }
}

TEST(Placement, FourQuarterTurnsChangeNothing) {
    const auto s = bench::cube(1.0);
    shape::Placement p;
    p.shift = {1, 2, 3};
    auto q = p;
    for (int i = 0; i < 4; ++i) q = shape::turned(q, s.bounds(), 1, 90.0);
    EXPECT_LT((shape::placed(s, p).bounds().low - shape::placed(s, q).bounds().low).norm(), 1e-12);
    const auto once = shape::placed(s, shape::turned(p, s.bounds(), 2, 90.0));
    EXPECT_LT((once.bounds().centre() - Vec3(1, 2, 3)).norm(), 1e-12);  // about its own middle
}

TEST(FeatureCurves, OfACubeAreItsTwelveEdges) {
    const auto cube = bench::cube(1.0);
    const auto curves = shape::featureCurves(cube, shape::TriangleTree(cube), 0.6);
    ASSERT_EQ(curves.size(), 12u);
    for (const auto& c : curves) EXPECT_NEAR(c.length(), 1.0, 1e-12);
}

TEST(FeatureCurves, FollowTheCircleInWhichASphereEntersACube) {
    auto s = bench::cube(1.0);
    shape::addSphere(s, "ball", {0.507, 0.013, 0.021}, 0.3, 60);
    const auto curves = shape::featureCurves(s, shape::TriangleTree(s), 0.6);
    ASSERT_EQ(curves.size(), 13u);
    for (const auto& c : curves)
        if (c.closed) {
            // Polygon of the ball's facets: shorter than the circle by the square of half their angle.
            EXPECT_NEAR(c.length(), 2.0 * std::acos(-1.0) * 0.3, 0.01);
            for (const Vec3& p : c.points) EXPECT_NEAR(p.x(), 0.5, 1e-12);
        }
}

TEST(Crumbs, OfACarelessExportAreOnePart) {
    shape::Surface s;
    shape::addSphere(s, "ball", Vec3::Zero(), 0.5, 10);
    for (int i = 0; i < 40; ++i) {
        const auto n = static_cast<std::int32_t>(s.points.size());
        for (int k = 0; k < 3; ++k) s.points.push_back(Vec3(1.0 + 0.1 * i, k == 1, k == 2));
        s.facets.push_back({n, n + 1, n + 2});
        s.partOf.push_back(0);
    }
    shape::splitByConnection(s);
    ASSERT_EQ(s.parts.size(), 2u);
    EXPECT_EQ(s.parts[0].name, "piece 1");
    EXPECT_EQ(s.parts[1].name, "small pieces");
}

TEST(FourDigitSection, HasItsThicknessAndASharpTrailingEdge) {
    const auto line = shape::fourDigitSection(0.0, 0.4, 0.12, 200);
    double high = 0.0;
    for (const auto& [x, z] : line) high = std::max(high, z);
    EXPECT_NEAR(high, 0.06, 2e-4);  // the closed form peaks at 0.06002 chords
    EXPECT_EQ(line.front(), line.back());
}

TEST(Polygons, AreCutIntoTrianglesOfTheSameAreaAndTurn) {
    // An L, concave, in a slanted plane: 3 unit squares.
    const Vec3 u = Vec3(1, 0, 1).normalized(), v(0, 1, 0);
    std::vector<Vec3> L;
    for (const auto& [a, b] : {std::pair{0, 0}, {2, 0}, {2, 1}, {1, 1}, {1, 2}, {0, 2}}) L.push_back(a * u + b * v);
    Vec3 area = Vec3::Zero();
    double sum = 0.0;
    for (const auto& t : shape::trianglesOf(L)) {
        const Vec3 one = 0.5 * (L[t[1]] - L[t[0]]).cross(L[t[2]] - L[t[0]]);
        area += one;
        sum += one.norm();
    }
    EXPECT_EQ(shape::trianglesOf(L).size(), 4u);
    EXPECT_NEAR(sum, 3.0, 1e-12);  // none overlaps another
    EXPECT_LT((area - 3.0 * u.cross(v)).norm(), 1e-12);
    EXPECT_TRUE(shape::trianglesOf(std::vector<Vec3>(2)).empty());
    EXPECT_EQ(shape::trianglesOf(std::vector<Vec3>(5)).size(), 3u);  // all in one place: no ear, no endless search
}

TEST(PlyFile, IsRefusedWithThePlaceWhereItDoesNotFit) {
    const test::Folder folder;
    const std::string head =
        "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face "
        "1\nproperty list uchar int vertex_indices\nend_header\n";
    const auto refusal = [&](const std::string& text) -> std::string {
        base::replaceFile(folder / "a.ply", text);
        try {
            shape::readSurface(folder / "a.ply", 1.0);
        } catch (const base::InputError& e) {
            return e.what();
        }
        return {};
    };
    EXPECT_EQ(refusal(head + "0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n"), "");
    EXPECT_NE(refusal(head + "0 0 0\n1 0 0\n0 1 0\n3 0 1 7\n").find("face 1"), std::string::npos);
    EXPECT_NE(refusal(head + "0 0 0\n1 nan 0\n0 1 0\n3 0 1 2\n").find("point 2"), std::string::npos);
    EXPECT_NE(refusal(head + "0 0 0\n1 0 0\n").find("ends before"), std::string::npos);
    EXPECT_NE(refusal(head + "0 0 0\n1 0 0\n0 1 0\n200000 0 1 2\n").find("list"), std::string::npos);
    EXPECT_NE(refusal("ply\nformat ascii 1.0\nelement vertex 99999999999\nend_header\n").find("announces"),
              std::string::npos);
}
