// The parts of the flow solver by themselves, and how others are put beside them.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>

#include "ball.h"
#include "base/errors.h"
#include "base/files.h"
#include "flow/case_json.h"
#include "flow/checkpoint.h"
#include "flow/course.h"
#include "flow/solver.h"
#include "folder.h"
#include "grid/brick.h"

using namespace cvane;
using test::Ball;

TEST(CaseJson, BringsEveryFieldBack) {
    flow::Case c;
    c.wind = {31.0, 0.05, -0.02, {280.0, 9e4, 1.1, 1.7e-5, 335.0}};
    c.tunnel.floor = grid::Floor::Fixed;
    c.tunnel.groundLayer = grid::LayerFrom::Ahead;
    c.tunnel.below = -0.5;
    c.tunnel.halfModel = true;
    c.reference = {2.0, 0.5, 1.5, Vec3(1, 2, 3)};
    c.settings.model = flow::Model::KEpsilon;
    c.settings.limiter = flow::Limiter::None;
    c.settings.precision = flow::Precision::Mixed;
    c.settings.secondOrder = false;
    c.settings.mostIterations = 17;
    c.groundLayerFrom = -1.25;
    c.moving = {{"wheel", Vec3(1, 0, 0), Vec3(0, 9, 0), Vec3(0.1, 0.2, 0.3)}};
    c.rough = {{"hull", 1e-4}};
    c.discs = {{"fan", Vec3(1, 0, 0), Vec3(0, 0, 1), 0.1, 0.4, 5.0, 0.0, 900.0}};
    c.blocks = {{"core", Vec3(0, 0, 0), Vec3(1, 1, 1), 2, 3.0, 40.0, 5.0}};
    c.vortexAt = Vec3(0.25, 0.0, 0.0);
    const auto written = flow::toJson(c);
    const auto back = flow::caseFromJson(nlohmann::json::parse(written.dump()));
    EXPECT_EQ(flow::toJson(back), written);
    EXPECT_EQ(back.tunnel, c.tunnel);
    EXPECT_EQ(back.settings, c.settings);
    EXPECT_EQ(back.reference, c.reference);
    EXPECT_EQ(back.moving, c.moving);
    EXPECT_EQ(back.discs, c.discs);
    EXPECT_EQ(back.blocks, c.blocks);
    EXPECT_EQ(back.groundLayerFrom, c.groundLayerFrom);
    EXPECT_NEAR(back.wind.alpha, c.wind.alpha, 1e-15);
    // A file of an older version lacks what came later; a word of a newer one is refused.
    EXPECT_EQ(flow::caseFromJson({{"wind", {{"speed_m_s", 5.0}}}}).settings, flow::FlowSettings());
    auto strange = written;
    strange["solution"]["model"] = "something newer";
    EXPECT_THROW(flow::caseFromJson(strange), base::InputError);
}

TEST(MomentumResidual, IsThatOfTheStateWhateverTheRelaxationAndFallsAsTheFlowSettles) {
    Ball b(flow::Model::Laminar, 4000);
    const flow::Ranks ranks;
    const auto largest = [&](const std::vector<Vec3>& r, const flow::Piece& p) {
        double sum = 0.0, volume = 0.0;
        for (std::size_t c = 0; c < r.size(); ++c) sum += p.V[c] * r[c].norm(), volume += p.V[c];
        return ranks.sum(sum) / ranks.sum(volume);
    };
    b.c.settings.relaxation = 0.9;
    flow::Solver quick(b.grid, b.geometry, b.c, ranks);
    b.c.settings.relaxation = 0.5;
    flow::Solver slow(b.grid, b.geometry, b.c, ranks);
    quick.start().fromPotentialFlow();
    slow.start().fromPotentialFlow();
    const auto before = quick.momentumResidual();
    EXPECT_EQ(before, slow.momentumResidual());
    for (int i = 0; i < 80; ++i) quick.iterate();
    const auto state = quick.state();
    const auto after = quick.momentumResidual();
    EXPECT_EQ(state.U, quick.state().U) << "asking changes nothing";
    EXPECT_LT(largest(after, quick.piece()), 0.02 * largest(before, quick.piece()));
}

TEST(CheckpointTogether, HasTheBytesOfOneThatRankZeroWritesAndRefusesAPlaceThatIsNone) {
    const flow::Ranks ranks;
    test::Ball b(flow::Model::Sst, 3000);
    b.c.settings.relaxation = 0.8;
    flow::Solver solver(b.grid, b.geometry, b.c, ranks);
    solver.start().fromPotentialFlow();
    flow::Course course(solver, b.c.settings);
    for (int i = 0; i < 3; ++i) course.iterate();
    solver.setTimeStep(solver.wakeTimeStep());
    for (int i = 0; i < 2; ++i) solver.iterate();
    solver.startMean();
    solver.addToMean();
    // All ranks look at one folder: rank 0's.
    static const test::Folder own;
    std::string place = (own / "").string();
    std::vector<double> letters(400, 0.0);
    for (std::size_t i = 0; ranks.rank() == 0 && i < place.size(); ++i) letters[i] = place[i];
    ranks.fromRoot(letters);
    place.clear();
    for (const double l : letters)
        if (l > 0.0) place.push_back(static_cast<char>(l));
    const std::filesystem::path folder(place);
    auto whole = course.checkpoint();
    whole.key = "key";
    whole.seconds = 1.5;
    if (ranks.rank() == 0) flow::writeCheckpoint(whole, folder / "alone.bin");
    course.save(folder / "together.bin", "key", 1.5);
    if (ranks.rank() == 0) {
        EXPECT_GT(whole.lastStep.size(), 0u);
        EXPECT_GT(whole.meanData.size(), 0u);
        EXPECT_TRUE(base::readFile(folder / "alone.bin") == base::readFile(folder / "together.bin"));
        EXPECT_NO_THROW(flow::checkCheckpoint(folder / "together.bin"));
    }
    EXPECT_THROW(course.save(folder / "none" / "c.bin", "key", 0.0), base::InputError);
    ranks.any(false);  // the folder goes with the last that looks at it
}

TEST(NearestPoints, OfAllRanksAreThoseThatLookingAtAllOfThemFinds) {
    const flow::Ranks ranks;
    // The same points on all ranks, of which each has every so-manieth; the last may have none.
    std::mt19937 random(5);
    std::uniform_real_distribution<double> any(-1.0, 1.0);
    std::vector<Vec3> all(300), places(80);
    for (Vec3& x : all) x = Vec3(any(random), any(random), any(random));
    for (Vec3& x : places) x = Vec3(1.5 * any(random), any(random), any(random));
    const int owners = std::max(1, ranks.size() - 1);
    flow::FlowCloud part;
    for (std::size_t i = 0; i < all.size(); ++i) {
        if (static_cast<int>(i) % owners != ranks.rank()) continue;
        part.x.push_back(all[i]);
        part.at.U.push_back(2.0 * all[i]);
        part.at.p.push_back(all[i].x());
        for (auto* field : {&part.at.first, &part.at.second, &part.at.nuT}) field->push_back(static_cast<double>(i));
        part.gradU.push_back(Mat3::Identity());
        part.gradP.push_back(all[i]);
    }
    std::rotate(places.begin(), places.begin() + ranks.rank(), places.end());
    const auto found = flow::nearestPoints({&part}, places, ranks).front();
    ASSERT_EQ(found.x.size(), places.size());
    for (std::size_t i = 0; i < places.size(); ++i) {
        const auto near = *std::min_element(all.begin(), all.end(), [&](const Vec3& a, const Vec3& b) {
            return (a - places[i]).squaredNorm() < (b - places[i]).squaredNorm();
        });
        EXPECT_EQ(found.x[i], near);
        EXPECT_EQ(found.at.U[i], Vec3(2.0 * near));
        EXPECT_EQ(found.at.p[i], near.x());
        EXPECT_EQ(all[static_cast<std::size_t>(found.at.nuT[i])], near);
        EXPECT_EQ(found.gradU[i], Mat3::Identity());
        EXPECT_EQ(found.gradP[i], near);
    }
    const auto whole = flow::gatheredAtRoot(part, ranks);
    EXPECT_EQ(whole.x.size(), ranks.rank() == 0 ? all.size() : 0u);
}

namespace {
// One cell of a metre with the wind along x, and what its boundary faces are to a flow of U, p in it.
struct OneCell {
    flow::Case c;
    flow::Flow f;
    std::unique_ptr<flow::Boundaries> boundaries;
    explicit OneCell(const std::function<void(flow::Case&)>& change = {}) {
        c.wind.speed = 10.0;
        if (change) change(c);
        const auto g = grid::brick({{0, 0, 0}, {1, 1, 1}}, {1, 1, 1});
        f.piece = flow::cutPiece(g, grid::geometryOf(g), 0, 1);
        const std::size_t nb = f.piece.faces() - f.piece.linked;
        f.nu = 0.1;
        f.state.U = {Vec3(8.0, 1.0, -0.5)};
        f.state.p = {4.0};
        f.state.nuT = {0.2};
        f.state.flux.assign(f.piece.faces(), 0.0);
        f.walls.nuWall.assign(nb, 0.3);
        f.gradU = {Mat3::Zero()};
        f.gradP = {Vec3::Zero()};
        f.pressureForce = {Vec3::Zero()};
        f.D = f.Dcorrect = {0.5};
        f.atBoundary.assign(nb, Vec3::Zero());
        boundaries = std::make_unique<flow::Boundaries>(f.piece, c, std::nullopt);
        for (std::size_t k = 0; k < nb; ++k) f.atBoundary[k] = at(k).velocity(f, f.piece.linked + k);
    }
    const flow::Boundary& at(std::size_t k) const { return boundaries->at(f.piece.linked + k); }
    std::size_t faceOf(int side) const {
        for (std::size_t k = f.piece.linked; k < f.piece.faces(); ++k)
            if (f.piece.patches[f.piece.patch(k)].side == side) return k;
        return 0;
    }
};
}  // namespace

TEST(BoundaryKinds, InletsOfFreeAirBringItsTotalPressure) {
    const OneCell cell;
    const auto f = cell.faceOf(grid::kUpstream);
    const auto& inlet = cell.boundaries->at(f);
    const double p = cell.f.state.p[0], V = 10.0, u = V - p / V;
    ASSERT_GT(p, 0.0);
    EXPECT_NEAR(inlet.velocity(cell.f, f).x(), u, 1e-12);
    EXPECT_NEAR(p + 0.5 * u * u, 0.5 * V * V, 0.51 * p * p / (V * V));
    EXPECT_NEAR(inlet.flux(cell.f, f).flux, -u, 1e-12);
    EXPECT_NEAR(inlet.flux(cell.f, f).slope, 1.0 / V, 1e-12);
    EXPECT_NEAR(inlet.changedFlux(cell.f, f, 7.0, Vec3(1, 1, 1)), -u, 1e-12);
    EXPECT_TRUE(inlet.tiesPressure());
}

TEST(BoundaryKinds, InletsOfClosedTunnelsBringTheWindWhateverTheCellHas) {
    const OneCell cell([](flow::Case& c) { c.tunnel.closed = true; });
    const auto f = cell.faceOf(grid::kUpstream);
    const auto& inlet = cell.boundaries->at(f);
    EXPECT_EQ(inlet.velocity(cell.f, f), Vec3(10.0, 0.0, 0.0));
    EXPECT_DOUBLE_EQ(inlet.flux(cell.f, f).flux, -10.0);
    EXPECT_DOUBLE_EQ(inlet.flux(cell.f, f).slope, 0.0);
    EXPECT_DOUBLE_EQ(inlet.changedFlux(cell.f, f, 7.0, Vec3(1, 1, 1)), -10.0) << "a start does not change it";
    EXPECT_DOUBLE_EQ(inlet.inflow(-10.0, 0.6), 10.6);
}

TEST(BoundaryKinds, OutletsHoldThePressureAndOpenSidesLetAirThroughByIt) {
    const OneCell cell;
    const auto out = cell.faceOf(grid::kDownstream), side = cell.faceOf(grid::kHighY);
    const auto& outlet = cell.boundaries->at(out);
    const auto& open = cell.boundaries->at(side);
    EXPECT_TRUE(outlet.holdsPressure());
    EXPECT_FALSE(open.holdsPressure());
    EXPECT_TRUE(outlet.tiesPressure() && open.tiesPressure());
    // U.S less D gap (0 - p): the cell's pressure pushes air out; gap is 2 m to a face half a metre away.
    EXPECT_NEAR(outlet.flux(cell.f, out).flux, 8.0 + 0.5 * 2.0 * 4.0, 1e-12);
    EXPECT_NEAR(outlet.flux(cell.f, out).slope, 0.5 * 2.0, 1e-12);
    EXPECT_NEAR(open.flux(cell.f, side).flux, 4.0 / 10.0, 1e-12) << "p / V through it, the wind runs along";
    EXPECT_NEAR(open.flux(cell.f, side).slope, 1.0 / 10.0, 1e-12);
    EXPECT_EQ(outlet.momentum(cell.f, out).coefficient, 0.0) << "nothing comes in";
    EXPECT_EQ(outlet.momentum(cell.f, out).value, Vec3(10.0, 0.0, 0.0));
}

TEST(BoundaryKinds, AMovingGroundDragsAndASlipWallLeavesWhatRunsAlong) {
    const OneCell over([](flow::Case& c) {
        c.tunnel.floor = grid::Floor::Moving;
        c.tunnel.closed = true;
    });
    const auto ground = over.faceOf(grid::kBelow), side = over.faceOf(grid::kHighY);
    const auto m = over.boundaries->at(ground).momentum(over.f, ground);
    EXPECT_NEAR(m.coefficient, 0.3 * 2.0, 1e-12) << "the law of the wall's viscosity";
    // It drags along itself alone: across it the cell keeps what it has.
    EXPECT_NEAR((m.value - Vec3(10.0, 0.0, -0.5)).norm(), 0.0, 1e-12);
    EXPECT_TRUE(over.boundaries->at(ground).sticks());
    EXPECT_EQ(over.boundaries->role(ground).ground, flow::Ground::Moving);
    EXPECT_EQ(over.boundaries->at(side).velocity(over.f, side), Vec3(8.0, 0.0, -0.5));
    EXPECT_EQ(over.boundaries->at(side).flux(over.f, side).flux, 0.0);
}

TEST(Averages, AreThoseOfStatesAndOfLoads) {
    flow::State s;
    s.U = {Vec3(1, 2, 3)};
    s.p = s.first = s.second = s.nuT = {4.0};
    flow::Averages mean;
    mean.add(s, 1, {flow::Load{Vec3(1, 0, 0), Vec3::Zero(), Vec3::Zero(), Vec3::Zero()}});
    s.U = {Vec3(3, 2, 1)};
    s.p = {8.0};
    mean.add(s, 1, {flow::Load{Vec3(5, 0, 0), Vec3::Zero(), Vec3::Zero(), Vec3(0, 0, 2)}});
    mean.take(s);
    EXPECT_TRUE(mean.isShown());
    EXPECT_EQ(s.U[0], Vec3(2, 2, 2));
    EXPECT_DOUBLE_EQ(s.p[0], 6.0);
    EXPECT_DOUBLE_EQ(mean.loads().at(0).pressure.x(), 3.0);
    EXPECT_DOUBLE_EQ(mean.loads().at(0).frictionMoment.z(), 1.0);
    mean.showState();
    EXPECT_FALSE(mean.isShown());
}

namespace {
/// A wall that blows air in at a speed of its own: a kind that the solver does not have.
class BlowingWall : public flow::Boundary {
  public:
    explicit BlowingWall(double speed) : speed_(speed) {}
    Vec3 velocity(const flow::Flow& flow, std::size_t f) const override { return -speed_ * flow.normal(f); }
    flow::BoundaryMomentum momentum(const flow::Flow& flow, std::size_t f) const override {
        return {speed_ * flow.piece.area[f] + flow.nu * flow.piece.gap[f], velocity(flow, f)};
    }
    flow::BoundaryFlux flux(const flow::Flow& flow, std::size_t f) const override {
        return {-speed_ * flow.piece.area[f], 0.0};
    }
    double changedFlux(const flow::Flow& flow, std::size_t f, double, const Vec3&) const override {
        return flux(flow, f).flux;
    }
    flow::BoundaryForce force(const flow::Flow&, std::size_t) const override { return {}; }

  private:
    double speed_;
};
}  // namespace

TEST(ToyBoundary, BlowsAirInThatLeavesThroughTheOutlet) {
    const auto g = grid::brick({{0, 0, 0}, {2, 1, 1}}, {12, 6, 6});
    const flow::Ranks ranks;
    flow::Case c;
    c.wind.speed = 1.0;
    c.wind.air.viscosity = c.wind.air.density * 0.05;
    c.settings.model = flow::Model::Laminar;
    c.tunnel.closed = true;
    static constexpr double kBlown = 0.1;
    c.givenBoundary = [](const grid::Patch& p) -> std::shared_ptr<const flow::Boundary> {
        return p.side == grid::kBelow ? std::make_shared<BlowingWall>(kBlown) : nullptr;
    };
    flow::Solver s(g, grid::geometryOf(g), c, ranks);
    s.start().fromPotentialFlow();
    for (int i = 0; i < 60; ++i) s.iterate();
    s.complete();
    double out = 0.0;
    const auto& p = s.piece();
    for (std::size_t f = p.linked; f < p.faces(); ++f)
        if (p.patches[p.patch(f)].side == grid::kDownstream) out += s.state().flux[f];
    EXPECT_NEAR(ranks.sum(out), 1.0 * 1.0 + kBlown * 2.0, 1e-6);
    EXPECT_LT(s.read().massImbalance(), 1e-7);
}

TEST(ToyScalar, IsCarriedAlongAsItsSourceSays) {
    // U d(phi)/dx = 1 in a uniform wind: phi is the way from the inlet over U.
    const auto g = grid::brick({{0, 0, 0}, {2, 1, 1}}, {20, 4, 4});
    const flow::Ranks ranks;
    flow::Case c;
    c.wind.speed = 4.0;
    c.settings.model = flow::Model::Laminar;
    c.tunnel.closed = true;
    flow::Solver s(g, grid::geometryOf(g), c, ranks);
    s.start().fromPotentialFlow();
    const flow::Piece& p = s.piece();
    const flow::Boundaries boundaries(p, c, {});
    const flow::Gradient gradient(p, boundaries.pressureKnown()), velocity(p, boundaries.velocityKnown());
    flow::CellMatrix matrix(p);
    const flow::TimeLevels time;
    const flow::TurbulenceGround ground{
        p,          gradient, velocity, s.flow().atBoundary, matrix, p.wallDistance, 0.0,
        boundaries, {},       time,     s.flow().viscosity};
    flow::TurbulenceStep equation(ground);
    std::vector<double> phi(p.stored(), 0.1);
    const std::vector<double> still(p.stored(), 0.0);
    for (int i = 0; i < 60; ++i)
        equation.advance(
            ground, ranks, s.state(), still, 0.0, 0.0, flow::gradientOf(ground, phi), phi, &flow::State::first,
            [&](std::size_t cell, double&, double& b) { b += p.V[cell]; }, [](std::size_t) { return -1.0; },
            flow::AsItIs{});
    for (std::size_t i = 0; i < static_cast<std::size_t>(p.cells); ++i)
        EXPECT_NEAR(phi[i], p.x[i].x() / 4.0, 0.02) << p.x[i].x();
}

namespace {
/// Something that iterates and is no flow: its drag goes to its value by a tenth of the way each time.
class Creeping : public flow::Iterated {
  public:
    flow::Residuals iterate() override {
        drag_ += 0.1 * (1.0 - drag_);
        return {std::abs(1.0 - drag_), 0.0, 0.0, 0.0};
    }
    void complete() override { completed = true; }
    air::Coefficients coefficients() const override { return {0.0, drag_, 0.0, 0.0, 0.0, 0.0}; }
    air::Coefficients outsideDifference() const override { return {}; }
    void keepState() override { kept_ = drag_; }
    double goBackWithCaution() override {
        drag_ = kept_;
        return 0.5;
    }
    void setTimeStep(double) override {}
    double wakeTimeStep() const override { return 1.0; }
    void startMean() override {}
    void addToMean() override {}
    void takeMean() override {}
    flow::Checkpoint checkpoint() const override { return {}; }
    void resume(const flow::Checkpoint&) override {}
    bool completed = false;

  private:
    double drag_ = 3.0, kept_ = 3.0;
};
}  // namespace

TEST(ToyMethod, IsDrivenToItsVerdictByTheSameCourse) {
    Creeping toy;
    const flow::FlowSettings settings;
    flow::Course course(toy, settings);
    while (course.verdict() == flow::Verdict::Running) course.iterate();
    EXPECT_EQ(course.verdict(), flow::Verdict::Settled);
    EXPECT_NEAR(course.history().back().CD, 1.0, 0.01);
    EXPECT_TRUE(course.finish().has_value());
    EXPECT_TRUE(toy.completed);
}
