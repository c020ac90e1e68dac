// The way of a run: steps of time, means, the way back from a flow that blew up, and the end.
#include "flow/course.h"

#include <gtest/gtest.h>

#include <cmath>
#include <limits>

#include "ball.h"
#include "folder.h"

using namespace cvane;

namespace {
/// A laminar ball at its start.
struct Start {
    test::Ball ball;
    flow::Ranks ranks;
    flow::Solver solver{ball.grid, ball.geometry, ball.c, ranks};
    flow::Course course{begun(), ball.c.settings};
    explicit Start(void (*change)(flow::FlowSettings&)) : ball(changed(change)) {}

  private:
    static test::Ball changed(void (*change)(flow::FlowSettings&)) {
        test::Ball b(flow::Model::Laminar, 4000);
        change(b.c.settings);
        return b;
    }
    flow::Solver& begun() {
        solver.start().fromPotentialFlow();
        return solver;
    }
};

/// Spoils the flow in one cell of every rank beyond what an iteration can mend.
void poison(flow::Solver& solver) {
    flow::State bad = solver.state();
    bad.U.front() = Vec3::Constant(std::numeric_limits<double>::quiet_NaN());
    solver.restore(bad);
}
}  // namespace

TEST(Course, GoesOnInStepsOfTimeAfterAStop) {
    const test::Ball b(flow::Model::Laminar, 4000);
    const flow::Ranks ranks;
    flow::Solver s1(b.grid, b.geometry, b.c, ranks), s2(b.grid, b.geometry, b.c, ranks);
    s1.start().fromPotentialFlow();
    flow::Course straight(s1, b.c.settings);
    straight.stepInTimeFrom(10);
    std::string notice;
    for (int i = 0; i < 14; ++i) notice += straight.iterate().notice;
    EXPECT_NE(notice.find("from iteration 10 on"), std::string::npos) << notice;
    EXPECT_EQ(straight.averagedFrom(), 10 + flow::SettleWatch::kWashOut);

    const test::Folder folder;
    flow::writeCheckpoint(straight.checkpoint(), folder / "c.bin");
    const auto saved = *flow::readCheckpoint(folder / "c.bin");
    EXPECT_GT(saved.timeStep, 0.0);
    flow::Course resumed(s2, b.c.settings);
    resumed.resume(saved);
    EXPECT_EQ(resumed.history().size(), 14u);
    EXPECT_EQ(resumed.averagedFrom(), straight.averagedFrom());
    for (int i = 0; i < 4; ++i) {
        straight.iterate();
        resumed.iterate();
    }
    EXPECT_EQ(straight.history().back().CD, resumed.history().back().CD);
    EXPECT_EQ(straight.history().back().CL, resumed.history().back().CL);
}

TEST(Course, FindsItsWayBackFromAFlowThatBlewUpAndGivesUpAfterThree) {
    Start start([](flow::FlowSettings& f) { f.leastIterations = 500; });
    auto& solver = start.solver;
    auto& course = start.course;
    for (int i = 0; i < 55; ++i) course.iterate();
    const double atFifty = course.history()[49].CD, before = solver.relaxation().now();

    poison(solver);
    auto step = course.iterate();
    EXPECT_TRUE(step.wentBack);
    EXPECT_NE(step.notice.find("blew up at iteration 56"), std::string::npos) << step.notice;
    EXPECT_EQ(course.verdict(), flow::Verdict::Running);
    EXPECT_EQ(course.history().size(), 50u);
    EXPECT_LT(solver.relaxation().now(), before);
    EXPECT_NEAR(solver.coefficients().CD, atFifty, 1e-12);

    // What was done before the stop counts after it.
    const auto saved = course.checkpoint();
    EXPECT_EQ(saved.rescues, 1u);
    for (int i = 0; i < 2; ++i) {
        poison(solver);
        EXPECT_TRUE(course.iterate().wentBack);
    }
    poison(solver);
    step = course.iterate();
    EXPECT_FALSE(step.wentBack);
    EXPECT_EQ(course.verdict(), flow::Verdict::Diverged);
    EXPECT_FALSE(course.finish().has_value());
}

TEST(Course, LeavesAClosedBalanceOfMassAtTheEnd) {
    Start start([](flow::FlowSettings& f) { f.mostIterations = 25; });
    auto& solver = start.solver;
    auto& course = start.course;
    while (course.verdict() == flow::Verdict::Running) course.iterate();
    EXPECT_EQ(course.verdict(), flow::Verdict::Unsteady);
    EXPECT_EQ(course.history().size(), 25u);
    const auto kept = course.finish();
    ASSERT_TRUE(kept.has_value());
    EXPECT_EQ(kept->history.size(), 25u);
    EXPECT_LT(solver.read().massImbalance(), 1e-10);
    EXPECT_FALSE(course.averagedFrom().has_value());
}

TEST(Course, ReadsOutTheMeanOfAFlowThatIsAveraged) {
    Start start([](flow::FlowSettings& f) {
        f.mostIterations = static_cast<int>(10 + flow::SettleWatch::kWashOut + 30);
        f.leastIterations = 1000;
    });
    auto& solver = start.solver;
    auto& course = start.course;
    course.stepInTimeFrom(10);
    const std::size_t from = 10 + flow::SettleWatch::kWashOut;
    std::size_t counted = 0;
    Vec3 sum = Vec3::Zero();
    while (course.verdict() == flow::Verdict::Running) {
        course.iterate();
        if (course.history().size() <= from) continue;
        sum += solver.state().U[5];
        ++counted;
    }
    ASSERT_EQ(course.averagedFrom(), from);
    const Vec3 last = solver.state().U[5];
    const auto kept = course.finish();
    ASSERT_TRUE(kept.has_value());
    EXPECT_EQ(counted, 30u);
    EXPECT_NEAR((solver.state().U[5] - sum / static_cast<double>(counted)).norm(), 0.0, 1e-12);
    // What is kept goes on from where the flow was, not from the mean.
    if (start.ranks.rank() == 0) {
        EXPECT_EQ(Vec3(kept->cellData[35], kept->cellData[36], kept->cellData[37]), last);
    }
}

TEST(Course, OfAFlowThatServesAnotherEndsSoonerAndClose) {
    const auto drag = [](bool serves, std::size_t& iterations) {
        Start start([](flow::FlowSettings&) {});
        if (serves) start.course.serveAnother();
        while (start.course.verdict() == flow::Verdict::Running) start.course.iterate();
        EXPECT_EQ(start.course.verdict(), flow::Verdict::Settled);
        iterations = start.course.history().size();
        return start.course.history().back().CD;
    };
    std::size_t usual = 0, sooner = 0;
    const double CD = drag(false, usual);
    EXPECT_NEAR(drag(true, sooner), CD, 0.02 * CD);  // twice what drift and range of the usual end may come to
    EXPECT_GE(sooner, 40u);
    EXPECT_LT(sooner, usual);
}
