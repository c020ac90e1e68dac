// The octree, the cells that stay of it, and their staircase: what all grids are made from.
#include "grid/octree.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <random>
#include <set>

#include "base/errors.h"
#include "bench/models.h"
#include "grid/kept_cells.h"
#include "grid/staircase.h"
#include "shape/triangle.h"

using namespace cvane;
using grid::Lattice;

namespace {
const shape::Surface& ball() {
    static const shape::Surface s = bench::sphere(0.5, 40);
    return s;
}
const shape::TriangleTree& facets() {
    static const shape::TriangleTree t(ball());
    return t;
}
grid::Octree tree(int roots = 6) {
    return grid::Octree({Vec3::Constant(-1.5), Vec3::Constant(1.5)}, {roots, roots, roots}, facets());
}
grid::Octree refined(const grid::Sizing& sizing, int roots = 6) {
    auto t = tree(roots);
    EXPECT_TRUE(grid::refine(t, ball(), sizing));
    return t;
}
grid::Sizing plain(int level) {
    grid::Sizing s;
    s.surfaceLevel = level;
    s.extraLevels = 0;
    s.bufferCells = 2;
    return s;
}
double volumeOf(const Box& b) {
    return b.size().prod();
}

// All 26 leaves or nodes around a leaf, at its own level.
template <class Visit>
void aroundAll(const grid::Octree& t, std::int32_t leaf, Visit&& visit) {
    const auto n = t.node(leaf);
    for (int dz = -1; dz <= 1; ++dz)
        for (int dy = -1; dy <= 1; ++dy)
            for (int dx = -1; dx <= 1; ++dx)
                if (const auto m = t.find(n.level, {n.at[0] + dx, n.at[1] + dy, n.at[2] + dz}); m >= 0 && m != leaf)
                    visit(m);
}
}  // namespace

TEST(Octree, RefusesMoreCellsAlongAnAxisThanAPositionCanHold) {
    auto t = tree();
    std::int32_t corner = 0;
    const auto splitOn = [&] {
        for (int level = 0; level < 40; ++level) {
            t.split(corner);
            corner = t.node(corner).child;
        }
    };
    EXPECT_THROW(splitOn(), base::InputError);
    // Up to there positions come back as they went.
    EXPECT_GE(t.deepest(), 17);
    const auto most = static_cast<std::int32_t>(grid::kMostAlong);
    for (const Lattice& at : {Lattice{0, most, 5}, Lattice{most, most, most}, Lattice{most, 0, most - 1}})
        EXPECT_EQ(grid::unpack(grid::pack(at)), at);
}

TEST(Octree, PositionsSurviveBeingPacked) {
    for (const Lattice& a : {Lattice{0, 0, 0}, Lattice{1, 2, 3}, Lattice{2097151, 5, 2097151}, Lattice{17, 2097151, 0}})
        EXPECT_EQ(grid::unpack(grid::pack(a)), a);
}

TEST(Octree, LeavesFillTheBoxOnce) {
    const auto t = refined(plain(3));
    const auto leaves = t.leavesInOrder();
    double volume = 0.0;
    for (const auto i : leaves) {
        EXPECT_LT(t.node(i).child, 0);
        volume += volumeOf(t.boxOf(t.node(i)));
    }
    EXPECT_NEAR(volume, 27.0, 1e-10);
    EXPECT_EQ(std::set<std::int32_t>(leaves.begin(), leaves.end()).size(), leaves.size());
}

TEST(Octree, BrothersFollowEachOtherInTheOrderOfTheLeaves) {
    const auto t = refined(plain(3));
    const auto leaves = t.leavesInOrder();
    for (std::size_t k = 0; k + 7 < leaves.size(); ++k) {
        const auto first = t.firstBrother(leaves[k]);
        if (first != leaves[k] || t.parent(leaves[k]) < 0) continue;
        bool allLeaves = true;
        for (int c = 0; c < 8; ++c) allLeaves = allLeaves && t.node(first + c).child < 0;
        if (!allLeaves) continue;
        for (int c = 0; c < 8; ++c) EXPECT_EQ(leaves[k + static_cast<std::size_t>(c)], first + c);
    }
}

TEST(Octree, ChildrenKnowTheirParentAndLieInIt) {
    const auto t = refined(plain(3));
    for (std::int32_t i = 0; i < t.nodes(); ++i) {
        const auto child = t.node(i).child;
        if (child < 0) continue;
        Box all;
        for (int c = 0; c < 8; ++c) {
            EXPECT_EQ(t.parent(child + c), i);
            EXPECT_EQ(t.firstBrother(child + c), child);
            EXPECT_EQ(t.node(child + c).level, t.node(i).level + 1);
            all.add(t.boxOf(t.node(child + c)));
        }
        const Box own = t.boxOf(t.node(i));
        EXPECT_LT((all.low - own.low).norm() + (all.high - own.high).norm(), 1e-12);
    }
}

TEST(Octree, ClimbingFromAnywhereFindsWhatDescendingFromTheRootFinds) {
    const auto t = refined(plain(4));
    std::mt19937 random(3);
    std::uniform_int_distribution<std::int32_t> anyNode(0, t.nodes() - 1);
    for (int k = 0; k < 20000; ++k) {
        const auto from = anyNode(random);
        const int level = std::uniform_int_distribution<int>(t.node(from).level, 5)(random);
        std::uniform_int_distribution<std::int32_t> place(-2, (6 << level) + 1);
        const Lattice at{place(random), place(random), place(random)};
        EXPECT_EQ(t.findFrom(from, level, at), t.find(level, at));
    }
}

TEST(Octree, NothingLiesOutsideTheBrick) {
    auto t = refined(plain(2));
    EXPECT_EQ(t.find(2, {-1, 0, 0}), -1);
    EXPECT_EQ(t.find(2, {0, 24, 0}), -1);
    const auto before = t.nodes();
    EXPECT_EQ(t.ensure(0, 3, {0, 0, 48}), -1);
    EXPECT_EQ(t.nodes(), before);
}

TEST(Octree, MakesACellOfTheAskedLevelWhereOneIsAsked) {
    auto t = tree();
    const Lattice at{37, 5, 11};
    const auto i = t.ensure(0, 4, at);
    EXPECT_EQ(t.node(i).level, 4);
    EXPECT_EQ(t.node(i).at, at);
    const auto nodes = t.nodes();
    EXPECT_EQ(t.ensure(i, 4, at), i);
    EXPECT_EQ(t.nodes(), nodes);
    EXPECT_EQ(t.deepest(), 4);
}

TEST(Octree, LeavesKnowExactlyTheFacetsThatCrossThem) {
    // Aside of the ball's own symmetry, so that no facet just touches a cell.
    grid::Octree t({Vec3(-1.487, -1.479, -1.491), Vec3(1.513, 1.521, 1.509)}, {6, 6, 6}, facets());
    ASSERT_TRUE(grid::refine(t, ball(), plain(3)));
    std::size_t crossed = 0;
    for (const auto i : t.leavesInOrder()) {
        const Box cell = t.boxOf(t.node(i));
        if (cell.distanceSquared(Vec3::Zero()) > 0.3) continue;  // far from the ball's surface
        std::vector<std::int32_t> expected, found(t.facetsIn(i).begin(), t.facetsIn(i).end());
        for (std::size_t f = 0; f < ball().facets.size(); ++f)
            if (shape::overlaps(cell, ball().corner(f, 0), ball().corner(f, 1), ball().corner(f, 2)))
                expected.push_back(static_cast<std::int32_t>(f));
        std::sort(found.begin(), found.end());
        EXPECT_EQ(found, expected);
        EXPECT_EQ(t.node(i).cut, !expected.empty());
        crossed += t.node(i).cut;
    }
    EXPECT_GT(crossed, 100u);
}

TEST(Octree, FaceNeighboursSeeEachOther) {
    const auto t = refined(plain(3));
    std::set<std::array<std::int32_t, 3>> seen;
    for (const auto i : t.leavesInOrder())
        t.forEachFaceNeighbour(i, [&](std::int32_t m, int d) {
            EXPECT_LT(t.node(m).child, 0);
            seen.insert({i, m, d});
        });
    for (const auto& [i, m, d] : seen) EXPECT_TRUE(seen.count({m, i, d ^ 1})) << i << ' ' << m << ' ' << d;
}

TEST(Refine, BalancesTwoToOneOverFacesEdgesAndCorners) {
    auto s = plain(4);
    s.bufferCells = 1;
    s.regions.push_back({grid::reachesInto({{0.9, 0.9, 0.9}, {0.91, 0.91, 0.91}}), 5});
    const auto t = refined(s);
    for (const auto i : t.leavesInOrder())
        aroundAll(t, i, [&](std::int32_t m) {
            // What lies beside is at most one level coarser; being finer is the other one's affair.
            EXPECT_GE(t.node(m).level, t.node(i).level - 1);
        });
}

TEST(Refine, CutsTheSurfaceWithCellsOfItsLevelAndNothingFarAwayWithThem) {
    const auto t = refined(plain(3));
    for (const auto i : t.leavesInOrder()) {
        if (t.node(i).cut) {
            EXPECT_EQ(t.node(i).level, 3);
        }
        const double away = (t.boxOf(t.node(i)).centre()).norm() - 0.5;
        if (away > 0.8) {
            EXPECT_LT(t.node(i).level, 3);
        }
    }
}

TEST(Refine, LeavesAsManyBufferCellsOfOneSizeAsAsked) {
    for (const int buffer : {1, 2, 4}) {
        auto s = plain(3);
        s.bufferCells = buffer;
        const auto t = refined(s);
        const double h = t.cellSize(3).x();
        for (const auto i : t.leavesInOrder()) {
            const auto& n = t.node(i);
            if (!n.cut) continue;
            for (int axis = 0; axis < 3; ++axis)
                for (int way = -1; way <= 1; way += 2) {
                    Lattice at = n.at;
                    at[static_cast<std::size_t>(axis)] += way * buffer;
                    EXPECT_EQ(t.node(t.find(3, at)).level, 3) << buffer << " cells of " << h << " m aside";
                }
        }
    }
}

TEST(Refine, SplitsFurtherWhereTheSurfaceTurnsAndOnlyThere) {
    // A cube turns along its edges only; the middle of its sides needs no more than the surface's level.
    const auto cube = bench::cube(1.0);
    const shape::TriangleTree sides(cube);
    grid::Octree t({Vec3::Constant(-1.47), Vec3::Constant(1.53)}, {6, 6, 6}, sides);
    auto s = plain(2);
    s.extraLevels = 2;
    ASSERT_TRUE(grid::refine(t, cube, s));
    int atEdges = 0;
    for (const auto i : t.leavesInOrder()) {
        const auto& n = t.node(i);
        if (!n.cut) continue;
        const Vec3 x = t.boxOf(n).centre().cwiseAbs();
        int near = 0;
        for (int k = 0; k < 3; ++k) near += std::abs(x[k] - 0.5) < 0.5 * t.cellSize(n.level)[k];
        if (near >= 2) {
            EXPECT_EQ(n.level, 4);
            ++atEdges;
        } else if (std::min({std::abs(x.x() - 0.5) + std::abs(x.y() - 0.5),
                             std::abs(x.y() - 0.5) + std::abs(x.z() - 0.5),
                             std::abs(x.z() - 0.5) + std::abs(x.x() - 0.5)}) > 0.6) {
            EXPECT_LE(n.level, 3);
        }
    }
    EXPECT_GT(atEdges, 12 * 20);
}

TEST(Refine, GivesUpWhenThereWouldBeTooManyCells) {
    auto t = tree();
    auto s = plain(6);
    s.mostNodes = 5000;
    EXPECT_FALSE(grid::refine(t, ball(), s));
    EXPECT_LT(t.nodes(), 100000);  // and soon
}

TEST(Refine, MakesFinerCellsOnThePartsThatAreNamed) {
    auto two = bench::sphere(0.2, 20);
    for (Vec3& p : two.points) p.x() -= 0.6;
    shape::addSphere(two, "other", {0.6, 0.0, 0.0}, 0.2, 20);
    const shape::TriangleTree both(two);
    grid::Octree t({Vec3::Constant(-1.5), Vec3::Constant(1.5)}, {6, 6, 6}, both);
    auto s = plain(2);
    s.moreOnPart = {0, 2};
    ASSERT_TRUE(grid::refine(t, two, s));
    for (const auto i : t.leavesInOrder())
        if (t.node(i).cut) {
            EXPECT_EQ(t.node(i).level, t.boxOf(t.node(i)).centre().x() < 0.0 ? 2 : 4);
        }
}

TEST(KeptCells, AreClearOfTheSurfaceOutsideAndReachedByTheAir) {
    const auto t = refined(plain(3));
    const double clearance = 0.35;
    const auto kept = grid::keepCells(t, facets(), clearance);
    EXPECT_GT(kept.leaves.size(), 1000u);
    for (std::size_t k = 0; k < kept.leaves.size(); ++k) {
        const auto i = kept.leaves[k];
        EXPECT_FALSE(t.node(i).cut);
        const Box b = t.boxOf(t.node(i));
        EXPECT_GT(b.centre().norm(), 0.5);  // none inside the ball
        // The ball's facets lie up to 0.001 inside the sphere.
        EXPECT_GT(std::sqrt(b.distanceSquared(Vec3::Zero())),
                  0.499 + clearance * t.cellSize(t.node(i).level).x() - 2e-3);
        EXPECT_EQ(kept.cellOf[static_cast<std::size_t>(i)], static_cast<std::int32_t>(k));
    }
    std::size_t sum = 0;
    for (const auto n : kept.gapFacesOfLevel) sum += n;
    EXPECT_EQ(sum, kept.gapFaces);
}

TEST(Octree, SplitManyAtOnceAsOneByOne) {
    auto one = tree(), many = tree();
    for (int turn = 0; turn < 3; ++turn) {
        std::vector<std::int32_t> leaves;
        for (std::int32_t i = 0; i < one.nodes(); ++i)
            if (one.node(i).child < 0 && (one.node(i).cut || i % 3 == 0)) leaves.push_back(i);
        for (const auto i : leaves) one.split(i);
        many.splitAll(leaves);
    }
    ASSERT_GT(one.nodes(), 3000);
    ASSERT_EQ(one.nodes(), many.nodes());
    for (std::int32_t i = 0; i < one.nodes(); ++i) {
        const auto &a = one.node(i), &b = many.node(i);
        ASSERT_TRUE(a.at == b.at && a.child == b.child && a.level == b.level && a.cut == b.cut &&
                    one.parent(i) == many.parent(i));
        ASSERT_TRUE(std::ranges::equal(one.facetsIn(i), many.facetsIn(i)));
        ASSERT_EQ(a.cut && a.child < 0, !one.facetsIn(i).empty());
    }
}

TEST(KeptCells, AreReachedTheSameWayBySeveralThreadsAsStepByStep) {
    const auto t = refined(plain(4));
    const auto open = [&](std::int32_t leaf) { return !t.node(leaf).cut; };
    std::vector<std::int32_t> from;
    auto inWaves = grid::reachedFromInlet(t, open, &from);
    for (const auto l : inWaves) {
        // Each was reached from a neighbour, or lies at the inlet.
        bool beside = t.node(l).at[0] == 0;
        t.forEachFaceNeighbour(l,
                               [&](std::int32_t m, int) { beside = beside || m == from[static_cast<std::size_t>(l)]; });
        ASSERT_TRUE(beside);
    }
    std::sort(inWaves.begin(), inWaves.end());
    EXPECT_EQ(grid::reachedFromInlet(t, open), inWaves);
}

TEST(KeptCells, LeaveNoneInsideAClosedModel) {
    const auto t = refined(plain(3));
    for (const auto i : grid::reachedFromInlet(t, [&](std::int32_t leaf) { return !t.node(leaf).cut; }))
        EXPECT_GT(t.boxOf(t.node(i)).centre().norm(), 0.45);
}

TEST(Staircase, IsAClosedManifoldAroundTheModel) {
    const auto t = refined(plain(3));
    const auto stairs = grid::makeStaircase(t, grid::keepCells(t, facets(), 0.35));
    // Every edge of the staircase belongs to two of its faces, which run along it in opposite directions.
    std::map<std::pair<grid::PointIndex, grid::PointIndex>, int> uses;
    const auto gap = stairs.gapFaces();
    ASSERT_EQ(gap.size(), stairs.gapCorners.size());
    for (const auto* f : gap)
        for (std::size_t k = 0; k < f->points.size(); ++k)
            ++uses[{f->points[k], f->points[(k + 1) % f->points.size()]}];
    for (const auto& [edge, n] : uses) {
        EXPECT_EQ(n, 1);
        EXPECT_EQ(uses.count({edge.second, edge.first}), 1u);
    }
}

TEST(Staircase, FacesCloseEveryCell) {
    auto s = plain(3);
    s.bufferCells = 1;
    const auto t = refined(s);
    const auto stairs = grid::makeStaircase(t, grid::keepCells(t, facets(), 0.35));
    std::vector<Vec3> net(stairs.cellSize.size(), Vec3::Zero());
    for (const auto& f : stairs.faces) {
        Vec3 S = Vec3::Zero();
        for (std::size_t k = 0; k < f.points.size(); ++k)
            S += 0.5 * stairs.points[static_cast<std::size_t>(f.points[k])].cross(
                           stairs.points[static_cast<std::size_t>(f.points[(k + 1) % f.points.size()])]);
        net[static_cast<std::size_t>(f.owner)] += S;
        if (f.neighbour >= 0) net[static_cast<std::size_t>(f.neighbour)] -= S;
    }
    for (const Vec3& v : net) EXPECT_LT(v.norm(), 1e-12);
}

TEST(Staircase, HangingPointsLieHalfWayBetweenTheirTwo) {
    auto s = plain(3);
    s.bufferCells = 1;
    const auto t = refined(s);
    const auto stairs = grid::makeStaircase(t, grid::keepCells(t, facets(), 0.35));
    ASSERT_FALSE(stairs.hanging.empty());
    const auto at = [&](grid::PointIndex p) { return stairs.points[static_cast<std::size_t>(p)]; };
    for (const auto& h : stairs.hanging) EXPECT_LT((at(h.point) - 0.5 * (at(h.a) + at(h.b))).norm(), 1e-12);
}

TEST(Staircase, PointsKnowTheTunnelSidesTheyLieIn) {
    const auto t = refined(plain(2));
    const auto stairs = grid::makeStaircase(t, grid::keepCells(t, facets(), 0.35));
    for (std::size_t i = 0; i < stairs.points.size(); ++i)
        for (int d = 0; d < 6; ++d) {
            const bool on = std::abs(stairs.points[i][d / 2] - (d % 2 == 0 ? -1.5 : 1.5)) < 1e-9;
            EXPECT_EQ((stairs.sidesOf[i] >> d & 1) != 0, on);
        }
}
