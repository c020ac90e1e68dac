// What the reading stages answer, on points that were really run: each curve's end is the balance's value, builds are
// compared in a sentence, slopes and loadings are those of the polar.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <QComboBox>
#include <QInputDialog>
#include <QPushButton>
#include <QSpinBox>
#include <QTabBar>
#include <QTableView>
#include <QTableWidget>
#include <QTimer>

#include "desk/plot.h"
#include "desk/point_board.h"
#include "tests/desk_helpers.h"

using namespace cvane;
using test::find;
using test::Opened;
using test::waitUntil;

namespace {
/// Two balls, the hinder one a part that can be taken out of the air.
shape::Surface twoBalls() {
    shape::Surface two = bench::sphere(0.5, 16);
    const auto n = static_cast<std::int32_t>(two.points.size());
    const auto facets = two.facets;
    for (std::int32_t i = 0; i < n; ++i)
        two.points.push_back(0.5 * two.points[static_cast<std::size_t>(i)] + Vec3(1.5, 0, 0));
    for (const auto& f : facets) {
        two.facets.push_back({f[0] + n, f[1] + n, f[2] + n});
        two.partOf.push_back(1);
    }
    two.parts.push_back({"wheel"});
    return two;
}

/// Small and laminar, so that a point takes a second.
campaign::Settings small(campaign::Settings s) {
    s.grid.cellBudget = 5000;
    s.grid.layers = 2;
    s.grid.curvatureLevels = 0;
    s.grid.wakeLength = 0.0;
    s.tunnel.upstream = s.tunnel.sideways = s.tunnel.above = s.tunnel.below = 3.0;
    s.tunnel.downstream = 4.0;
    s.flow.model = flow::Model::Laminar;
    s.schedule.speeds = {0.0015};
    return s;
}

bool allDone(desk::Window& w) {
    const auto& d = w.document();
    return !d.reports().empty() && d.reportsKnown() &&
           std::all_of(d.reports().begin(), d.reports().end(), [](const auto& r) { return campaign::isDone(r.state); });
}

std::string standing(desk::Window& w) {
    std::string out = find<QLabel>(w, "message")->text().toStdString();
    for (const auto& r : w.document().reports())
        out += fmt::format("\n{}: {} {} {}", r.point.name(), r.stateWords(), r.iterations, r.message);
    for (const auto& r : w.document().remarks()) out += fmt::format("\n{}", r.text);
    return out;
}

/// Last value of a plot's curve of that name; not a number without one.
double endOf(desk::Plot& plot, const QString& name) {
    for (int k = 0; k < plot.plottableCount(); ++k)
        if (const auto* c = qobject_cast<QCPCurve*>(plot.plottable(k)); c && c->name() == name && !c->data()->isEmpty())
            return (c->data()->constEnd() - 1)->value;
    return std::nan("");
}

void ctrlClick(QTableView& board, int row, int column, Qt::KeyboardModifiers with) {
    QTest::mouseClick(board.viewport(), Qt::LeftButton, with,
                      board.visualRect(board.model()->index(row, column)).center());
}
}  // namespace

// A symmetric model runs as its half ahead and whole with sideslip, each on a grid of its own that the queue makes.
TEST(Answers, PointsWithSideslipRunWholeWhereTheOthersRunAsAHalf) {
    Opened o(bench::sphere(0.5, 24));
    auto& w = o.window;
    auto& d = w.document();
    auto s = small(d.settings());
    s.schedule.betas_deg = {0.0, 4.0};
    d.change("small, with sideslip", s);
    ASSERT_TRUE(waitUntil([&] { return d.reports().size() == 2; }, 10000));
    EXPECT_TRUE(d.settings().tunnel.halfModel) << "the selected point has no sideslip";
    QTest::keyClick(&w, Qt::Key_F5);
    ASSERT_TRUE(waitUntil([&] { return allDone(w); }, 60000)) << standing(w);
    int cells[2] = {0, 0};
    for (const auto& r : d.reports()) {
        const bool yaws = r.point.condition.beta_deg != 0.0;
        EXPECT_EQ(r.result->halfModel, !yaws) << r.point.name();
        cells[yaws] = r.result->cells;
    }
    EXPECT_EQ(cells[1], 2 * cells[0]);
    // Whichever is selected, the grid that is shown is its own.
    for (const auto& r : d.reports()) {
        d.select(r.point);
        ASSERT_TRUE(waitUntil([&] { return d.grid() && d.grid()->cells() == r.result->cells; }, 20000))
            << r.point.name();
    }
}

TEST(Answers, TwoBuildsAreComparedInASentenceWithFewActionsAndCurvesEndAtTheBalance) {
    Opened o(twoBalls());
    auto& w = o.window;
    auto& d = w.document();
    d.change("small", small(d.settings()));
    int actions = 0;
    // A build without the wheel: chosen from the list of builds, named, its tick taken away.
    QTimer::singleShot(300, [&] {
        auto* ask = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
        ASSERT_NE(ask, nullptr);
        ask->setTextValue("no wheel");
        ++actions;
        ask->accept();
        ++actions;
    });
    auto* builds = find<QComboBox>(w, "configuration");
    ASSERT_TRUE(builds->isVisible()) << "builds have their place always";
    ++actions;
    emit builds->activated(builds->count() - 1);
    EXPECT_EQ(d.configuration(), "no wheel");
    QApplication::setActiveWindow(&w);  // as a window manager does when a dialog has gone
    ++actions;
    w.goTo("Model");
    auto* parts = find<QTableWidget>(w, "parts");
    const int wheel = parts->item(0, 0)->text().contains("wheel") ? 0 : 1;
    ++actions;
    parts->item(wheel, 0)->setCheckState(Qt::Unchecked);
    ASSERT_TRUE(waitUntil([&] { return d.reports().size() == 2 && d.measures().bounds.high.x() < 0.6; }, 10000));
    ++actions;
    QTest::keyClick(&w, Qt::Key_F5);
    ASSERT_TRUE(waitUntil([&] { return allDone(w); }, 10000)) << standing(w);
    // After the runs the build that was looked at is the same.
    EXPECT_EQ(d.configuration(), "no wheel");
    ++actions;
    w.goTo("Compare");
    auto* board = find<QTableView>(w, "pointBoard");
    ++actions;
    ctrlClick(*board, 0, 0, {});
    ++actions;
    ctrlClick(*board, 1, 0, Qt::ControlModifier);
    ASSERT_EQ(d.picked().size(), 2u) << "a tile of another build is added, not put in the place of the first";
    EXPECT_EQ(d.selected()->configuration, "") << "the first one stays the reference";
    auto* says = find<QLabel>(w, "compareWords");
    ASSERT_TRUE(waitUntil([&] { return says->text().startsWith("no wheel less base: CD"); }, 10000))
        << says->text().toStdString();
    EXPECT_TRUE(says->text().contains("%"));
    EXPECT_TRUE(says->text().contains("band unknown"))
        << "there is no coarser grid of 5,000 cells: " << says->text().toStdString();
    EXPECT_LE(actions, 14);
    // Each curve's end is the balance's value.
    const auto& names = w.middle().upper().names();
    ASSERT_TRUE(waitUntil([&] { return w.middle().upper().names().size() == 2; }, 10000)) << names.size();
    for (const auto& r : d.reports()) {
        const double CDS = r.result->coefficients.CD * r.result->reference.area;
        EXPECT_NEAR(endOf(w.middle().upper(), desk::pointWords(r.point)), CDS, 1e-3 * CDS) << r.point.name();
    }
    // Named once for both plots.
    EXPECT_FALSE(w.middle().lower().legend->visible() && w.middle().upper().names() == w.middle().lower().names());
}

TEST(Answers, SlopesAndSpanLoadingAreOneLookAway) {
    Opened o(bench::sphere(0.5, 16));
    auto& w = o.window;
    auto& d = w.document();
    auto s = small(d.settings());
    s.schedule.alphas_deg = {-4.0, 0.0, 4.0};
    d.change("small", s);
    ASSERT_TRUE(waitUntil([&] { return d.reports().size() == 3; }, 10000));
    int actions = 1;
    QTest::keyClick(&w, Qt::Key_F5);
    ASSERT_TRUE(waitUntil([&] { return allDone(w); }, 90000));
    ++actions;
    w.goTo("Balance");
    auto* slopes = find<QTableWidget>(w, "slopesTable");
    const auto has = [&](const QString& name) { return !slopes->findItems(name, Qt::MatchContains).isEmpty(); };
    EXPECT_TRUE(has("slope of CL over alpha"));
    EXPECT_TRUE(find<QLabel>(w, "slopeWords")->text().contains("3 points"))
        << find<QLabel>(w, "slopeWords")->text().toStdString();
    ++actions;
    auto* plot = find<QComboBox>(w, "balancePlot");
    plot->setCurrentIndex(1);
    emit plot->activated(1);
    ASSERT_TRUE(waitUntil([&] { return find<QLabel>(w, "spanWords")->text().contains("Lift"); }, 10000))
        << find<QLabel>(w, "spanWords")->text().toStdString();
    EXPECT_LE(actions, 9);
    EXPECT_EQ(w.middle().upper().xAxis->label(), "y [m]");
    // What lacks a point between two others is not joined across it.
    plot->setCurrentIndex(0);
    emit plot->activated(0);
    auto next = d.settings();
    next.schedule.alphas_deg = {-4.0, 0.0, 2.0, 4.0};
    d.change("another angle", next);
    ASSERT_TRUE(waitUntil([&] { return d.reports().size() == 4 && d.reportsKnown(); }, 10000));
    w.goTo("Balance");
    const auto* curve = qobject_cast<QCPCurve*>(w.middle().upper().plottable(0));
    ASSERT_NE(curve, nullptr);
    int gaps = 0;
    for (const auto& p : *curve->data()) gaps += std::isnan(p.value);
    EXPECT_EQ(gaps, 1);
}

TEST(Answers, TheBoardIsAsHighAsItsRowsAndShowsASelectionByItsOutline) {
    Opened o;
    auto& w = o.window;
    auto* board = find<QTableView>(w, "pointBoard");
    const int one = board->maximumHeight();
    auto next = w.document().settings();
    next.schedule.alphas_deg = {0.0, 2.0};
    w.document().change("two", next);
    ASSERT_TRUE(waitUntil([&] { return board->model()->rowCount() == 2; }, 5000));
    EXPECT_EQ(board->maximumHeight() - one, board->verticalHeader()->defaultSectionSize());
    // The middle of a selected tile has the colour of its state, as that of any other.
    w.document().select(w.document().reports()[0].point);
    const QImage shown = board->viewport()->grab().toImage();
    const auto colourAt = [&](int row) {
        const auto r = board->visualRect(board->model()->index(row, 0));
        return shown.pixelColor(r.right() - 12, r.center().y());
    };
    EXPECT_EQ(colourAt(0), colourAt(1));
}

TEST(Answers, SectionPlotsAreReadableInASmallWindow) {
    Opened o;
    auto& w = o.window;
    w.goTo("Sections");
    auto* tabs = find<QTabBar>(w, "byTurns");
    auto* plot = w.findChild<desk::Plot*>("leftPolar");
    ASSERT_NE(plot, nullptr);
    w.resize(1280, 900);
    ASSERT_TRUE(waitUntil([&] { return tabs->isHidden(); }, 3000)) << "there is room for picture and plots";
    w.resize(900, 600);
    ASSERT_TRUE(waitUntil([&] { return tabs->isVisible(); }, 3000));
    EXPECT_FALSE(plot->isVisible());
    tabs->setCurrentIndex(1);
    ASSERT_TRUE(waitUntil([&] { return plot->isVisible() && plot->height() >= 120; }, 3000)) << plot->height();
    // The step that is shown can be seen on the rail.
    w.goTo("Report");
    auto* step = find<QPushButton>(w, "stageReport");
    EXPECT_TRUE(waitUntil([&] { return !step->visibleRegion().isEmpty(); }, 3000));
}

TEST(Answers, AFieldSaysBeforeItIsChangedWhatThatPutsOutOfDate) {
    Opened o(bench::sphere(0.5, 16));
    auto& w = o.window;
    auto& d = w.document();
    auto s = small(d.settings());
    s.targetYPlus = 30.0;
    s.schedule.speeds = {0.0015, 0.003};
    d.change("small", s);
    d.makeGrid();
    ASSERT_TRUE(waitUntil([&] { return d.gridCurrent() && !d.gridRunning(); }, 30000));
    w.goTo("Grid");
    find<QSpinBox>(w, "cellBudget")->setFocus();
    EXPECT_TRUE(find<QLabel>(w, "message")->text().contains("puts the grid out of date"))
        << find<QLabel>(w, "message")->text().toStdString();
    // A shorter schedule keeps the grid; a faster one takes it away, and it can be kept.
    auto next = d.settings();
    next.schedule.speeds = {0.0015};
    d.change("shorter", next);
    EXPECT_TRUE(waitUntil([&] { return d.gridCurrent() && d.settings().schedule.heightsWind; }, 5000));
    EXPECT_TRUE(find<QLabel>(w, "keptHeights")->text().contains("kept for 0.003"));
    next = d.settings();
    next.schedule.speeds = {0.0015, 0.006};
    d.change("faster", next);
    ASSERT_TRUE(waitUntil([&] { return !d.gridCurrent() && w.findChild<QPushButton*>("needKeep"); }, 2000))
        << d.gridCurrent() << d.heightsThatKeepTheGrid().has_value() << d.settings().schedule.heightsWind.has_value()
        << campaign::keptHeightsWind(d.settings()).transpose() << " " << w.queue().busy() << standing(w);
    QTest::mouseClick(w.findChild<QPushButton*>("needKeep"), Qt::LeftButton);
    EXPECT_TRUE(waitUntil([&] { return d.gridCurrent(); }, 5000));
    EXPECT_EQ(d.settings().schedule.speeds.size(), 2u);
}

TEST(Answers, ASideOfTheTunnelAndTheModelAreMovedByTheirGrips) {
    Opened o;
    auto& w = o.window;
    auto& d = w.document();
    auto& canvas = w.middle().canvas();
    const auto drag = [&](const char* grip, const QPoint& by) {
        const auto at = canvas.pixelOf(std::string(grip));
        ASSERT_TRUE(at) << grip;
        const QPoint from = at->toPoint();
        QTest::mousePress(&canvas, Qt::LeftButton, {}, from);
        QTest::mouseMove(&canvas, from + by);
        QTest::mouseRelease(&canvas, Qt::LeftButton, {}, from + by);
    };
    w.goTo("Tunnel");
    canvas.lookFrom(view::Look::Side, grid::tunnelBox(d.tunnel(), d.measures().bounds));
    const double before = d.settings().tunnel.downstream;
    drag("downstream", QPoint(-60, 0));
    // What that does is said: blockage at once, the grid that it gives as soon as it is worked out.
    EXPECT_TRUE(waitUntil([&] { return find<QLabel>(w, "message")->text().contains("on the model"); }, 10000))
        << find<QLabel>(w, "message")->text().toStdString();
    EXPECT_LT(d.settings().tunnel.downstream, before - 0.1);
    EXPECT_EQ(d.settings().tunnel.upstream, campaign::Settings{}.tunnel.upstream);
    w.goTo("Model");
    canvas.lookFrom(view::Look::Side, d.measures().bounds);
    canvas.setCamera([&] {
        auto c = canvas.camera();
        c.height *= 2.0;
        return c;
    }());
    // Seen from the side the nose is at the left: up is a positive angle of attack, a turn about y.
    drag("pitch", QPoint(0, -40));
    EXPECT_GT(d.settings().model.placement.rotation_deg.y(), 1.0);
    EXPECT_EQ(d.undoStack().undoText().toStdString(), "turn the model");
    // While a grip is held, what is typed is the angle; Enter takes it, Escape leaves the model as it was.
    const double pitch = d.settings().model.placement.rotation_deg.y();
    const auto typed = [&](const char* keys, Qt::Key last) {
        const QPoint from = canvas.pixelOf(std::string("yaw"))->toPoint();
        QTest::mousePress(&canvas, Qt::LeftButton, {}, from);
        QTest::mouseMove(&canvas, from + QPoint(0, -20));
        QTest::keyClicks(&canvas, keys);
        QTest::keyClick(&canvas, last);
        QTest::mouseRelease(&canvas, Qt::LeftButton, {}, from + QPoint(0, -20));
    };
    typed("12.5", Qt::Key_Escape);
    EXPECT_EQ(d.settings().model.placement.rotation_deg.y(), pitch);
    EXPECT_EQ(d.undoStack().undoText().toStdString(), "turn the model");
    d.undoStack().undo();
    ASSERT_TRUE(waitUntil([&] { return !d.placing(); }, 20000));
    typed("12.5", Qt::Key_Return);
    EXPECT_NEAR(d.settings().model.placement.rotation_deg.z(), 12.5, 1e-9);
}

TEST(Answers, LimitsHoldThroughAFlipBook) {
    desk::Plot plot;
    plot.resize(400, 300);
    const auto show = [&](double high) {
        plot.begin("x", "Cp");
        plot.add("one", {0.0, 1.0}, {0.0, high}, Qt::black, 0);
        plot.finish();
        return plot.yAxis->range().upper;
    };
    EXPECT_LT(show(1.0), 2.0);
    plot.holdLimits(true);
    EXPECT_GT(show(10.0), 10.0);
    EXPECT_GT(show(1.0), 10.0) << "a picture that needs less room leaves the axes as they are";
    plot.holdLimits(false);
    EXPECT_LT(show(1.0), 2.0);
}

TEST(Answers, UndoByItsKeysTakesBackWhatAFieldHasEntered) {
    Opened o;
    auto& w = o.window;
    auto& d = w.document();
    w.goTo("Grid");
    auto* budget = find<QSpinBox>(w, "cellBudget");
    const int before = d.settings().grid.cellBudget;
    budget->setFocus();
    budget->selectAll();
    QTest::keyClicks(budget, "54000");
    QTest::keyClick(budget, Qt::Key_Return);
    ASSERT_EQ(d.settings().grid.cellBudget, 54000);
    QTest::keyClick(budget, Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(d.settings().grid.cellBudget, before);
    EXPECT_EQ(budget->value(), before) << "and the field shows it, though it has the focus";
}
