// The stage Wing, driven through its window.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QSlider>
#include <QTableWidget>

#include "base/files.h"
#include "campaign/plan/propellers.h"
#include "desk/stages/wing/wing_stage.h"
#include "desk_helpers.h"
#include "wing/aircraft_json.h"

using namespace cvane;
using test::type;
using test::waitUntil;

namespace {
/// A window on a new campaign without a model.
struct OnWing {
    test::Folder folder;
    desk::Window window;
    desk::WingStage* stage = nullptr;
    OnWing() {
        window.show();
        QApplication::setActiveWindow(&window);
        window.document().create(QString::fromStdString((folder / "w.cvane").string()), {}, {});
        for (int i = 0; !stage && i < 20; ++i) stage = qobject_cast<desk::WingStage*>(&window.stageAt(i));
    }
    void click(const char* name) { QTest::mouseClick(test::find<QPushButton>(window, name), Qt::LeftButton); }
    const wing::Aircraft& aircraft() { return *window.document().settings().model.aircraft; }
    bool computed() {
        return waitUntil([&] { return stage->work().shown() && !stage->work().running(); }, 30000);
    }
    QTableWidget& stations() { return *test::find<QTableWidget>(window, "stations"); }
    void typeCell(int row, int column, const QString& text) { stations().item(row, column)->setText(text); }
};
}  // namespace

TEST(WingStage, LeadsFromASectionToASpanLoadingInTenActions) {
    OnWing on;
    int actions = 0;
    const auto act = [&](const auto& does) {
        does();
        ++actions;
    };
    act([&] { on.click("stageWing"); });
    act([&] { on.click("buildWing"); });
    ASSERT_TRUE(on.window.document().settings().model.aircraft.has_value());
    act([&] { on.typeCell(0, 3, "2412"); });
    act([&] { on.typeCell(1, 3, "2412"); });
    act([&] { type(test::find<QDoubleSpinBox>(on.window, "halfSpan"), "2"); });
    act([&] { on.click("insertStation"); });
    act([&] { on.typeCell(1, 2, "0.28"); });
    ASSERT_TRUE(on.computed()) << on.stage->work().trouble().toStdString();
    EXPECT_LE(actions, 10);
    EXPECT_EQ(on.aircraft().surfaces[0].stations.size(), 3u);
    EXPECT_NEAR(on.aircraft().surfaces[0].stations.back().along, 2.0, 1e-9);
    EXPECT_EQ(on.aircraft().surfaces[0].stations[0].section, "2412");
    const auto& rows = on.stage->work().shown()->outcome.rows;
    ASSERT_EQ(rows.size(), 19u);
    EXPECT_TRUE(on.stage->work().shown()->whole);
    EXPECT_GT(rows[4].strips.size(), 10u);
    EXPECT_GT(rows[4].coefficients.CL, 0.1);
    EXPECT_TRUE(test::find<QLabel>(on.window, "wingMeasures")->text().contains("aspect ratio"));
    EXPECT_TRUE(test::find<QLabel>(on.window, "stability")->text().contains("Neutral point"));
    EXPECT_FALSE(on.window.findChild<QPushButton*>("stageTunnel")->isHidden());
    // It is the campaign's model, with a part for each surface.
    ASSERT_TRUE(waitUntil([&] { return on.window.document().modelReady(); }, 20000));
    ASSERT_EQ(on.window.document().placed().parts.size(), 1u);
    EXPECT_EQ(on.window.document().placed().parts[0].name, "wing");
    EXPECT_NEAR(on.window.document().reference().span, 4.0, 1e-6);
}

TEST(WingStage, KeepsTheLastShapeWhereAStationCannotBeAndUndoTakesEachStepBack) {
    OnWing on;
    on.click("stageWing");
    on.click("buildWing");
    const auto before = on.aircraft();
    on.typeCell(0, 2, "0");
    EXPECT_EQ(on.aircraft(), before);
    EXPECT_TRUE(test::find<QLabel>(on.window, "message")->text().contains("chord"));
    EXPECT_EQ(on.stations().item(0, 2)->text(), "0.3");
    on.typeCell(1, 0, "-3");
    EXPECT_EQ(on.aircraft(), before);
    on.typeCell(1, 3, "no such section");
    EXPECT_EQ(on.aircraft(), before);
    on.typeCell(1, 2, "0.1");
    EXPECT_NEAR(on.aircraft().surfaces[0].stations[1].chord, 0.1, 1e-12);
    on.window.document().undoStack().undo();
    EXPECT_EQ(on.aircraft(), before);
    on.window.document().undoStack().undo();
    EXPECT_FALSE(on.window.document().settings().model.aircraft.has_value());
    EXPECT_TRUE(on.window.findChild<QPushButton*>("stageTunnel")->isHidden());
}

TEST(WingStage, AStationIsDraggedInThePlanAndInTheViewFromAhead) {
    OnWing on;
    on.click("stageWing");
    on.click("buildWing");
    auto* view = test::find<desk::PlanformView>(on.window, "planform");
    QTest::qWait(50);
    using H = desk::PlanformView::Handle;
    const auto drag = [&](H handle, QPointF by) {
        const QPoint from = view->handleAt(handle, 1).toPoint();
        QTest::mousePress(view, Qt::LeftButton, {}, from);
        QTest::mouseMove(view, from + (0.5 * by).toPoint());
        QTest::mouseMove(view, from + by.toPoint());
        QTest::mouseRelease(view, Qt::LeftButton, {}, from + by.toPoint());
    };
    const int steps = on.window.document().undoStack().count();
    const double chord = on.aircraft().surfaces[0].stations[1].chord;
    drag(H::Trailing, {0.0, 8.0});
    EXPECT_GT(on.aircraft().surfaces[0].stations[1].chord, chord);
    EXPECT_EQ(on.window.document().undoStack().count(), steps + 1);
    drag(H::Ahead, {0.0, -12.0});
    EXPECT_GT(on.aircraft().surfaces[0].stations[0].dihedral_deg, 0.5);
    const double along = on.aircraft().surfaces[0].stations[1].along;
    drag(H::Leading, {-40.0, 0.0});
    EXPECT_LT(on.aircraft().surfaces[0].stations[1].along, along);
    EXPECT_NEAR(on.stations().item(1, 0)->text().toDouble(), on.aircraft().surfaces[0].stations[1].along, 1e-4);
}

TEST(WingStage, ATailIsAddedAndTrimsLevelFlight) {
    OnWing on;
    on.click("stageWing");
    on.click("buildWing");
    auto s = on.window.document().settings();
    auto a = *s.model.aircraft;
    auto tail = a.surfaces[0];
    tail.name = "tail";
    tail.place = Vec3(1.2, 0.0, 0.1);
    for (auto& t : tail.stations) t.chord *= 0.5, t.along *= 0.3, t.section = "0009", t.strips = 6;
    a.surfaces.push_back(tail);
    a.mass = 5.0;
    a.centreOfGravity = Vec3(0.12, 0.0, 0.0);
    campaign::setAircraft(s, a);
    on.window.document().change("add a tail", s);
    auto* alphas = test::find<QLineEdit>(on.window, "wingAlphas");
    test::typeLine(alphas, "2,4");
    auto* trim = test::find<QComboBox>(on.window, "trimBy");
    ASSERT_GE(trim->findData("tail"), 0);
    trim->setCurrentIndex(trim->findData("tail"));
    test::find<QCheckBox>(on.window, "levelFlight")->click();
    ASSERT_TRUE(on.computed()) << on.stage->work().trouble().toStdString();
    const auto& out = on.stage->work().shown()->outcome;
    ASSERT_EQ(out.rows.size(), 2u);
    for (const auto& r : out.rows) {
        EXPECT_TRUE(r.reached) << r.why;
        EXPECT_NEAR(r.coefficients.Cm, 0.0, 1e-5);
    }
    EXPECT_GT(out.rows[0].wind.speed, out.rows[1].wind.speed);
    on.stage->saveTable(QString::fromStdString((on.folder / "w.csv").string()));
    EXPECT_NE(base::readFile(on.folder / "w.csv").find("CD_induced"), std::string::npos);
}

TEST(WingStage, HasAKeyOfItsOwnAndTheOthersKeepTheirs) {
    OnWing on;
    on.click("stageWing");
    on.click("buildWing");
    on.click("stageSections");
    QTest::keyClick(&on.window, Qt::Key_G, Qt::AltModifier);
    EXPECT_EQ(on.window.stageAt(on.window.stage()).title(), "Wing");
    QTest::keyClick(&on.window, Qt::Key_2, Qt::AltModifier);
    EXPECT_EQ(on.window.stageAt(on.window.stage()).title(), "Model");
}

TEST(WingStage, ShowsTheLoadingInSpaceAngleForAngleAndWritesItAsPictures) {
    OnWing on;
    on.click("stageWing");
    on.click("buildWing");
    on.window.findChild<QLineEdit*>("wingAlphas")->setText("0:8:4");
    QTest::keyClick(test::find<QLineEdit>(on.window, "wingAlphas"), Qt::Key_Return);
    ASSERT_TRUE(waitUntil(
        [&] { return on.stage->work().shown() && on.stage->work().shown()->outcome.rows.size() == 3; }, 30000));
    auto* slider = test::find<QSlider>(on.window, "wingAngle");
    EXPECT_EQ(slider->maximum(), 2);
    auto* look = test::find<QComboBox>(on.window, "wingLook");
    EXPECT_FALSE(on.stage->draws());
    look->setCurrentIndex(1);
    EXPECT_TRUE(on.stage->draws());
    EXPECT_TRUE(on.window.middle().canvas().isVisible());
    slider->setValue(0);
    const QImage still = on.window.middle().canvas().picture();
    slider->setValue(2);
    EXPECT_NE(still, on.window.middle().canvas().picture());
    EXPECT_EQ(test::find<QLabel>(on.window, "wingAngleWords")->text(), "8.00 deg");
    on.stage->looking().save(QString::fromStdString((on.folder / "loading.png").string()));
    for (int k = 1; k <= 3; ++k)
        EXPECT_FALSE(
            QImage(QString::fromStdString((on.folder / fmt::format("loading-{:03}.png", k)).string())).isNull());
    EXPECT_EQ(slider->value(), 2);  // as it was
    EXPECT_TRUE(test::find<QLabel>(on.window, "message")->text().contains("3 pictures"));
    // Played through, it comes round again and stops when asked.
    on.click("wingPlay");
    EXPECT_TRUE(waitUntil([&] { return slider->value() == 0; }, 5000));
    on.click("wingPlay");
    // A click on the polar chooses its angle.
    look->setCurrentIndex(0);
    slider->setValue(0);
    auto* polar = test::find<desk::Plot>(on.window, "wingPolar");
    const auto& rows = on.stage->work().shown()->outcome.rows;
    ASSERT_TRUE(waitUntil([&] { return polar->isVisible() && polar->xAxis->range().size() > 7.0; }, 5000));
    const QPointF at(polar->xAxis->coordToPixel(4.0), polar->yAxis->coordToPixel(rows[1].coefficients.CL));
    QTest::mouseClick(polar, Qt::LeftButton, {}, at.toPoint());
    EXPECT_EQ(slider->value(), 1);
    // The angle of a wanted lift goes to the field's schedule, once.
    const double wanted = 0.5 * (rows[0].coefficients.CL + rows[1].coefficients.CL);
    test::find<QDoubleSpinBox>(on.window, "wantedLift")->setValue(wanted);
    EXPECT_EQ(test::find<QLabel>(on.window, "wantedAngle")->text(), "at 2.00 deg");
    const auto before = on.window.document().settings().schedule.alphas_deg.size();
    on.click("wantedToSchedule");
    on.click("wantedToSchedule");
    ASSERT_EQ(on.window.document().settings().schedule.alphas_deg.size(), before + 1);
    EXPECT_NEAR(on.window.document().settings().schedule.alphas_deg.back(), 2.0, 0.011);
    on.window.document().undoStack().undo();
    EXPECT_EQ(on.window.document().settings().schedule.alphas_deg.size(), before);
    test::find<QDoubleSpinBox>(on.window, "wantedLift")->setValue(4.0);
    EXPECT_FALSE(test::find<QPushButton>(on.window, "wantedToSchedule")->isEnabled());
    // Without its aircraft there is nothing to be seen in space.
    look->setCurrentIndex(1);
    on.window.document().undoStack().undo();
    EXPECT_FALSE(on.stage->draws());
}

TEST(WingStage, TakesControlsAndBodiesByMouseAndEachIsAStepOfUndo) {
    OnWing on;
    on.click("stageWing");
    on.click("buildWing");
    auto choose = [&](const char* button, int action) {
        test::find<QPushButton>(on.window, button)->menu()->actions()[action]->trigger();
    };
    choose("addControl", 0);
    choose("addControl", 1);
    ASSERT_EQ(on.aircraft().surfaces[0].controls.size(), 2u);
    EXPECT_EQ(on.aircraft().surfaces[0].controls[0].name, "flap");
    EXPECT_TRUE(on.aircraft().surfaces[0].controls[1].against);
    auto* controls = test::find<QTableWidget>(on.window, "controls");
    ASSERT_EQ(controls->rowCount(), 2);
    controls->item(0, 4)->setText("12");
    EXPECT_EQ(on.aircraft().surfaces[0].controls[0].angle_deg, 12.0);
    controls->item(0, 5)->setCheckState(Qt::Checked);
    EXPECT_TRUE(on.aircraft().surfaces[0].controls[0].against);
    // What overlaps, or has the name of another, stays as it was.
    const auto before = on.aircraft();
    controls->item(0, 2)->setText("1.2");
    EXPECT_EQ(on.aircraft(), before);
    EXPECT_NEAR(controls->item(0, 2)->text().toDouble(), before.surfaces[0].controls[0].to, 1e-6);
    controls->item(0, 0)->setText("aileron");
    EXPECT_EQ(on.aircraft(), before);
    EXPECT_TRUE(test::find<QLabel>(on.window, "message")->text().contains("name"));
    controls->setCurrentCell(1, 0);
    on.click("removeControl");
    EXPECT_EQ(on.aircraft().surfaces[0].controls.size(), 1u);
    // A body with a frame more, higher than it was, and at another place.
    on.click("addBody");
    ASSERT_EQ(on.aircraft().bodies.size(), 1u);
    auto* frames = test::find<QTableWidget>(on.window, "frames");
    const auto frameCount = on.aircraft().bodies[0].stations.size();
    frames->setCurrentCell(3, 0);
    on.click("insertFrame");
    EXPECT_EQ(on.aircraft().bodies[0].stations.size(), frameCount + 1);
    frames->item(4, 3)->setText("0.2");
    EXPECT_NEAR(on.aircraft().bodies[0].stations[4].height, 0.2, 1e-12);
    type(test::find<QDoubleSpinBox>(on.window, "bodyZ"), "-0.05");
    EXPECT_NEAR(on.aircraft().bodies[0].place.z(), -0.05, 1e-12);
    frames->item(2, 0)->setText("9");  // behind the one after it
    EXPECT_LT(on.aircraft().bodies[0].stations[2].x, 1.0);
    EXPECT_TRUE(test::find<QLabel>(on.window, "message")->text().contains("frame"));
    ASSERT_TRUE(waitUntil([&] { return on.window.document().modelReady() && !on.window.document().placing(); }, 20000));
    EXPECT_EQ(on.window.document().placed().parts.size(), 2u);
    while (on.window.document().undoStack().canUndo()) on.window.document().undoStack().undo();
    EXPECT_FALSE(on.window.document().settings().model.aircraft.has_value());
    while (on.window.document().undoStack().canRedo()) on.window.document().undoStack().redo();
    EXPECT_NEAR(on.aircraft().bodies[0].place.z(), -0.05, 1e-12);
    on.click("removeBody");
    EXPECT_TRUE(on.aircraft().bodies.empty());
}

// Something to hold the first result against stands there before there is one.
TEST(WingStage, GivesTheBalanceACurveBeforeAnythingIsRun) {
    OnWing on;
    on.click("stageWing");
    on.click("buildWing");
    auto s = on.window.document().settings();
    s.schedule.alphas_deg = {0.0, 4.0};
    on.window.document().change("angles", s);
    on.window.goTo("Balance");
    auto& plot = on.window.middle().upper();
    ASSERT_TRUE(waitUntil([&] { return plot.names().join(" ").contains("lifting surface"); }, 30000));
    EXPECT_FALSE(plot.names().join(" ").contains("outline"));
}

TEST(WingStage, APropellerIsTypedInBlowsTheWingAndStandsInTheTunnel) {
    OnWing on;
    on.click("stageWing");
    on.click("buildWing");
    ASSERT_TRUE(on.computed());
    const auto lift = [&] { return on.stage->work().shown()->outcome.rows[6].coefficients.CL; };
    const double still = lift();
    on.click("addPropeller");
    ASSERT_EQ(on.aircraft().propellers.size(), 1u);
    auto* table = test::find<QTableWidget>(on.window, "propellers");
    table->item(0, 4)->setText("0.4");
    table->item(0, 6)->setCheckState(Qt::Checked);
    table->item(0, 1)->setText("20");
    EXPECT_EQ(on.aircraft().propellers[0].thrust, 20.0);
    EXPECT_TRUE(on.aircraft().propellers[0].mirrored);
    ASSERT_TRUE(on.computed());
    EXPECT_GT(lift(), 1.005 * still);
    EXPECT_EQ(campaign::discsOf(on.window.document().settings()).size(), 2u);
    // What makes no ring is said, and the last one stays.
    table->item(0, 2)->setText("0");
    EXPECT_GT(on.aircraft().propellers[0].diameter, 0.0);
    EXPECT_TRUE(test::find<QLabel>(on.window, "message")->text().contains("diameter"));
    table->setCurrentCell(0, 0);
    on.click("removePropeller");
    EXPECT_TRUE(on.aircraft().propellers.empty());
    on.window.document().undoStack().undo();
    EXPECT_EQ(on.aircraft().propellers.size(), 1u);
}

TEST(WingStage, ARowOfMassesHasACurveEachOnThePolarAndInTheTable) {
    OnWing on;
    on.click("stageWing");
    on.click("buildWing");
    ASSERT_TRUE(on.computed());
    auto* masses = test::find<QLineEdit>(on.window, "massRow");
    masses->setText("2, 4");
    emit masses->editingFinished();
    ASSERT_TRUE(on.computed());
    const auto shown = on.stage->work().shown();
    ASSERT_EQ(shown->outcomes.size(), 2u);
    // At one angle twice the mass flies faster by the root of two.
    const auto speed = [&](std::size_t k) { return shown->outcomes[k].rows[8].wind.speed; };
    EXPECT_NEAR(speed(1), std::sqrt(2.0) * speed(0), 1e-3 * speed(0));
    auto* polar = test::find<desk::Plot>(on.window, "wingPolar");
    EXPECT_GE(polar->plottableCount(), 4);
    const auto file = on.folder / "loadings.csv";
    on.stage->saveTable(QString::fromStdString(file.string()));
    const auto csv = base::readFile(file);
    EXPECT_EQ(csv.rfind("mass_kg,centre_x_m,", 0), 0u);
    EXPECT_NE(csv.find("\n2,"), std::string::npos);
    EXPECT_NE(csv.find("\n4,"), std::string::npos);
    masses->setText("two");
    emit masses->editingFinished();
    EXPECT_FALSE(test::find<QLabel>(on.window, "message")->text().isEmpty());
}
