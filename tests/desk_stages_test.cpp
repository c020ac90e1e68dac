// Each stage's sheet, the wind line, the rail and the point board: what they show and what they change.
#include <gtest/gtest.h>
#include <vtkActorCollection.h>

#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QProgressBar>
#include <QPushButton>
#include <QSlider>
#include <QSpinBox>
#include <QTableWidget>
#include <QTimer>
#include <chrono>
#include <clocale>
#include <thread>

#include "air/standard_atmosphere.h"
#include "base/files.h"
#include "campaign/settings/fields.h"
#include "campaign/settings/set_field.h"
#include "desk/point_board.h"
#include "desk/stages/report_pages.h"
#include "desk_helpers.h"
#include "folder.h"
#include "made_up_run.h"

using namespace cvane;
using test::find;
using test::Opened;
using test::type;
using test::typeLine;
using test::typeWind;
using test::waitUntil;

namespace {
shape::Surface ballAndBox() {
    auto s = bench::sphere(0.5, 24);
    s.parts[0].name = "ball";
    const auto box = bench::cube(0.4);
    const auto first = static_cast<std::int32_t>(s.points.size());
    for (const Vec3& p : box.points) s.points.push_back(p + Vec3(1.5, 0.0, 0.0));
    for (const auto& t : box.facets) {
        s.facets.push_back({t[0] + first, t[1] + first, t[2] + first});
        s.partOf.push_back(1);
    }
    s.parts.push_back({"box", true});
    return s;
}
const campaign::Settings& settings(Opened& o) {
    return o.window.document().settings();
}
bool modelSays(Opened& o, const QString& words) {
    return waitUntil([&] { return o.window.findChild<QLabel*>("modelSize")->text().contains(words); }, 10000);
}
}  // namespace

TEST(ModelStage, MeasuresTheModelAndHidingAPartTakesItOutOfTheAreas) {
    Opened o(ballAndBox());
    o.window.goTo("Model");
    EXPECT_TRUE(modelSays(o, "Length 2.2"));
    auto* parts = find<QTableWidget>(o.window, "parts");
    ASSERT_EQ(parts->rowCount(), 2);
    EXPECT_EQ(parts->item(1, 0)->text(), "box");
    parts->item(1, 0)->setCheckState(Qt::Unchecked);
    EXPECT_FALSE(settings(o).model.parts[1].inTheAir);
    EXPECT_TRUE(modelSays(o, "Length 1,")) << find<QLabel>(o.window, "modelSize")->text().toStdString();
    QTest::keyClick(&o.window, Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(settings(o).model.parts[1].inTheAir);
    EXPECT_TRUE(modelSays(o, "Length 2.2"));
}

TEST(ModelStage, RenamesAPart) {
    Opened o(ballAndBox());
    find<QTableWidget>(o.window, "parts")->item(0, 0)->setText("radome");
    EXPECT_EQ(settings(o).model.parts[0].name, "radome");
    find<QTableWidget>(o.window, "parts")->item(0, 0)->setText("   ");  // no name: the old one stays
    EXPECT_EQ(settings(o).model.parts[0].name, "radome");
}

TEST(ModelStage, AQuarterTurnAboutZMakesLengthOfWidth) {
    Opened o(ballAndBox());
    QTest::mouseClick(find<QPushButton>(o.window, "turnz"), Qt::LeftButton);
    EXPECT_DOUBLE_EQ(settings(o).model.placement.rotation_deg.z(), 90.0);
    EXPECT_TRUE(modelSays(o, "width 2.2")) << find<QLabel>(o.window, "modelSize")->text().toStdString();
}

TEST(ModelStage, WarnsOfAWrongUnitAndMendsItByTheRightOne) {
    Opened o;
    auto* unit = find<QComboBox>(o.window, "modelUnit");
    unit->setCurrentText("mm");
    ASSERT_TRUE(modelSays(o, "Length 0.001"));
    bool warned = false;
    for (auto* l : o.window.findChildren<QLabel*>())
        warned = warned || (l->isVisibleTo(&o.window) && l->property("role") == "warn" && !l->text().isEmpty());
    EXPECT_TRUE(warned);
    unit->setCurrentText("m");
    EXPECT_TRUE(modelSays(o, "Length 1,"));
}

TEST(ModelStage, TakesAreasInTheUnitThatWasChosen) {
    Opened o;
    find<QComboBox>(o.window, "areaFrom")->setCurrentText("typed");
    auto* box = find<QDoubleSpinBox>(o.window, "typedArea");
    type(box, "2.5");
    find<QComboBox>(o.window, "unitArea")->setCurrentText("ft2");
    EXPECT_TRUE(box->suffix().contains("ft")) << box->suffix().toStdString();
    EXPECT_NEAR(box->value(), 2.5 / (0.3048 * 0.3048), 1e-5);
    EXPECT_DOUBLE_EQ(settings(o).reference.typedArea, 2.5);  // showing it otherwise changes nothing
    type(box, "10");
    EXPECT_NEAR(settings(o).reference.typedArea, 10.0 * 0.3048 * 0.3048, 1e-12);
}

TEST(ModelStage, ReferenceValuesAreComputedUntilTheyAreTyped) {
    Opened o;
    const double frontal = o.window.document().reference().area;
    EXPECT_NEAR(frontal, std::acos(-1.0) / 4.0, 5e-3);
    find<QComboBox>(o.window, "areaFrom")->setCurrentText("typed");
    type(find<QDoubleSpinBox>(o.window, "typedArea"), "2.5");
    EXPECT_DOUBLE_EQ(o.window.document().reference().area, 2.5);
    type(find<QDoubleSpinBox>(o.window, "refLength"), "0.8");
    EXPECT_DOUBLE_EQ(o.window.document().reference().length, 0.8);
    type(find<QDoubleSpinBox>(o.window, "refLength"), "0");  // back to the computed one
    EXPECT_NEAR(o.window.document().reference().length, 1.0, 1e-6);
    type(find<QDoubleSpinBox>(o.window, "momentCentrex"), "0.25");
    EXPECT_DOUBLE_EQ(o.window.document().reference().momentCentre.x(), 0.25);
}

TEST(ModelStage, SaysHowSoundTheSurfaceIs) {
    Opened o;
    EXPECT_TRUE(
        waitUntil([&] { return find<QLabel>(o.window, "health")->text().contains("clean and closed"); }, 10000));
}

TEST(WindLine, SpeedMachAndReynoldsFollowWhicheverIsTyped) {
    Opened o;
    const auto air = air::standardAtmosphere(0.0, 0.0);
    typeWind(find<QDoubleSpinBox>(o.window, "windMach"), "0.1");
    EXPECT_NEAR(settings(o).schedule.speeds.front(), 0.1 * air.soundSpeed, 0.01);
    EXPECT_NEAR(find<QDoubleSpinBox>(o.window, "windSpeed")->value(), 0.1 * air.soundSpeed, 0.01);
    typeWind(find<QDoubleSpinBox>(o.window, "windReynolds"), "1.5");
    EXPECT_NEAR(settings(o).schedule.speeds.front() / air.kinematicViscosity(), 1.5e6, 1e3);
    typeWind(find<QDoubleSpinBox>(o.window, "windSpeed"), "30");
    EXPECT_DOUBLE_EQ(settings(o).schedule.speeds.front(), 30.0);
    EXPECT_NEAR(find<QDoubleSpinBox>(o.window, "windMach")->value(), 30.0 / air.soundSpeed, 1e-4);
}

TEST(GasPanel, FillsTheTunnelAndSaysWhatTheStreamHasInTotal) {
    Opened o;
    o.window.goTo("Tunnel");
    auto* gas = find<QComboBox>(o.window, "gas");
    const int helium = gas->findText("helium");
    gas->setCurrentIndex(helium);
    emit gas->activated(helium);
    EXPECT_EQ(settings(o).air.gas, "helium");
    EXPECT_EQ(find<QLabel>(o.window, "windGas")->text(), "Helium at");
    auto* temperature = find<QLineEdit>(o.window, "gasTemperature");
    typeLine(temperature, "-3");
    EXPECT_TRUE(find<QLabel>(o.window, "message")->text().contains("a temperature of -3 K cannot be"));
    EXPECT_FALSE(settings(o).air.temperature);
    typeLine(find<QLineEdit>(o.window, "gasPressure"), "50000");
    EXPECT_EQ(settings(o).air.pressure, 50000.0);
    o.window.document().undoStack().undo();
    o.window.document().undoStack().undo();
    EXPECT_EQ(settings(o).air.gas, "air");
    EXPECT_FALSE(settings(o).air.pressure);
    EXPECT_EQ(gas->currentText(), "air");
    // Above Mach 0.3 the line says that the gas is compressible, and the panel what it has in total: 1.524 at Mach 0.8.
    typeWind(find<QDoubleSpinBox>(o.window, "windMach"), "0.8");
    EXPECT_TRUE(find<QLabel>(o.window, "windQ")->text().contains("compressible"));
    EXPECT_TRUE(find<QLabel>(o.window, "streamInTotal")->text().contains("in total 15445"))
        << find<QLabel>(o.window, "streamInTotal")->text().toStdString();
}

TEST(WindLine, AirAtAltitudeIsThinner) {
    Opened o;
    typeWind(find<QDoubleSpinBox>(o.window, "windSpeed"), "30");
    const double sea = find<QDoubleSpinBox>(o.window, "windReynolds")->value();
    typeWind(find<QDoubleSpinBox>(o.window, "windAltitude"), "3000");
    EXPECT_DOUBLE_EQ(settings(o).air.altitude, 3000.0);
    EXPECT_LT(find<QDoubleSpinBox>(o.window, "windReynolds")->value(), 0.85 * sea);
    EXPECT_DOUBLE_EQ(settings(o).schedule.speeds.front(), 30.0);
    EXPECT_TRUE(find<QLabel>(o.window, "windQ")->text().contains("0.9091"))
        << find<QLabel>(o.window, "windQ")->text().toStdString();  // kg/m3, U.S. Standard Atmosphere 1976
}

TEST(WindLine, ShowsTheUsersUnitAndKeepsSI) {
    Opened o;
    typeWind(find<QDoubleSpinBox>(o.window, "windSpeed"), "20");
    find<QComboBox>(o.window, "unitSpeed")->setCurrentText("kt");
    EXPECT_NEAR(find<QDoubleSpinBox>(o.window, "windSpeed")->value(), 20.0 * 3600.0 / 1852.0, 0.01);
    EXPECT_DOUBLE_EQ(settings(o).schedule.speeds.front(), 20.0);
    typeWind(find<QDoubleSpinBox>(o.window, "windSpeed"), "50");
    EXPECT_NEAR(settings(o).schedule.speeds.front(), 50.0 * 1852.0 / 3600.0, 1e-3);
}

TEST(WindLine, ChangingAnAngleMovesTheSelectedPointInTheSchedule) {
    Opened o;
    o.window.goTo("Schedule");
    typeLine(find<QLineEdit>(o.window, "alphas"), "0, 4");
    ASSERT_TRUE(waitUntil([&] { return o.window.document().reports().size() == 2; }, 5000));
    o.window.document().select(o.window.document().reports()[1].point);
    typeWind(find<QDoubleSpinBox>(o.window, "windAlpha"), "6");
    // That point alone: the lists, and with them the other points, stay.
    const auto& reports = o.window.document().reports();
    ASSERT_EQ(reports.size(), 2u);
    EXPECT_DOUBLE_EQ(reports[0].point.condition.alpha_deg, 0.0);
    EXPECT_DOUBLE_EQ(reports[1].point.condition.alpha_deg, 6.0);
    EXPECT_EQ(o.window.document().selected()->condition.alpha_deg, 6.0);
}

TEST(WindLine, OffersToAddOrToChangeAndDoesNothingByItself) {
    Opened o;
    auto& d = o.window.document();
    const auto before = settings(o);
    auto* beta = find<QDoubleSpinBox>(o.window, "windBeta");
    auto *add = find<QPushButton>(o.window, "windAdd"), *change = find<QPushButton>(o.window, "windChange");
    EXPECT_FALSE(add->isVisible());
    beta->setFocus();
    beta->selectAll();
    QTest::keyClicks(beta, "180");
    EXPECT_TRUE(add->isVisible());
    EXPECT_TRUE(change->isVisible());
    EXPECT_EQ(settings(o), before);
    QTest::keyClick(beta, Qt::Key_Return);
    EXPECT_EQ(settings(o), before) << "an angle out of range is refused as it was typed";
    EXPECT_TRUE(find<QLabel>(o.window, "message")->text().contains("180"));
    QTest::keyClick(beta, Qt::Key_Escape);
    EXPECT_FALSE(add->isVisible());
    EXPECT_DOUBLE_EQ(beta->value(), 0.0);
    // Left for another field, it waits for the decision.
    type(beta, "5");
    EXPECT_EQ(settings(o), before);
    EXPECT_TRUE(add->isVisible());
    QTest::mouseClick(add, Qt::LeftButton);
    EXPECT_FALSE(add->isVisible());
    ASSERT_EQ(settings(o).schedule.also.size(), 1u);
    EXPECT_TRUE(settings(o).schedule.leftOut.empty());
    EXPECT_EQ(d.reports().size(), 2u);
    EXPECT_DOUBLE_EQ(d.selected()->condition.beta_deg, 5.0);
    // One undo, by its keys in the field itself, takes it back whole.
    beta->setFocus();
    QTest::keyClick(beta, Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(settings(o), before);
    EXPECT_DOUBLE_EQ(d.selected()->condition.beta_deg, 0.0);
    // A half model has no sideslip.
    auto half = before;
    half.modelExtent = campaign::ModelExtent::Half;
    d.change("half model", half);
    typeWind(beta, "5");
    EXPECT_EQ(settings(o), half);
    EXPECT_TRUE(find<QLabel>(o.window, "message")->text().contains("half model"));
}

TEST(WindLine, AddsToOneBuildAndSaysWhenItChangesAll) {
    Opened o;
    auto& d = o.window.document();
    auto next = settings(o);
    next.configurations.push_back({"turned", {{"model", {{"rotation_deg", {0, 0, 10}}}}}});
    d.changeBase("two builds", next);
    d.select({settings(o).schedule.speeds.empty() ? campaign::Condition{} : d.selected()->condition, "turned", ""});
    auto* alpha = find<QDoubleSpinBox>(o.window, "windAlpha");
    alpha->setFocus();
    alpha->selectAll();
    QTest::keyClicks(alpha, "3");
    EXPECT_TRUE(find<QPushButton>(o.window, "windChange")->text().contains("all 2 builds"));
    QTest::keyClick(alpha, Qt::Key_Return);
    ASSERT_EQ(settings(o).schedule.single.size(), 1u);
    EXPECT_EQ(settings(o).schedule.single[0].configuration, "turned");
    EXPECT_EQ(d.reports().size(), 3u);
    // A point of its own is changed alone.
    typeWind(alpha, "4");
    ASSERT_EQ(settings(o).schedule.single.size(), 1u);
    EXPECT_DOUBLE_EQ(settings(o).schedule.single[0].condition.alpha_deg, 4.0);
    EXPECT_EQ(d.reports().size(), 3u);
}

TEST(StageRail, GoesByKeyAndByClickAndSaysHowEachStageStands) {
    Opened o;
    const char* titles[] = {"Sections", "Model", "Tunnel", "Grid", "Schedule", "Run", "Balance", "Pressures", "Flow"};
    for (int i = 0; i < 9; ++i) {
        QTest::keyClick(&o.window, static_cast<Qt::Key>(Qt::Key_1 + i), Qt::AltModifier);
        EXPECT_EQ(o.window.stageAt(o.window.stage()).title(), titles[i]);
    }
    auto* grid = find<QPushButton>(o.window, "stageGrid");
    QTest::mouseClick(grid, Qt::LeftButton);
    EXPECT_EQ(o.window.stageAt(o.window.stage()).title(), "Grid");
    EXPECT_TRUE(grid->text().contains("none yet")) << grid->text().toStdString();
    EXPECT_TRUE(find<QPushButton>(o.window, "stageModel")->toolTip().contains("ready"));
    EXPECT_TRUE(find<QPushButton>(o.window, "stageBalance")->text().contains("no result yet"));
}

TEST(PointBoard, HasSpeedsAcrossAndAnglesDownAndSelectsThePointEverywhere) {
    Opened o;
    o.window.goTo("Schedule");
    typeLine(find<QLineEdit>(o.window, "speeds"), "10, 20, 30");
    typeLine(find<QLineEdit>(o.window, "alphas"), "-2:2:2");
    auto* board = find<QTableView>(o.window, "pointBoard");
    ASSERT_TRUE(waitUntil([&] { return board->model()->columnCount() == 3 && board->model()->rowCount() == 3; }, 5000));
    EXPECT_TRUE(board->model()->headerData(1, Qt::Horizontal).toString().contains("20 m/s"));
    EXPECT_TRUE(board->model()->headerData(0, Qt::Vertical).toString().contains("-2"));
    EXPECT_TRUE(board->model()->index(0, 2).data().toString().contains("waiting"));
    const auto rect = board->visualRect(board->model()->index(2, 0));
    QTest::mouseClick(board->viewport(), Qt::LeftButton, {}, rect.center());
    const auto* r = o.window.document().selectedReport();
    ASSERT_NE(r, nullptr);
    EXPECT_DOUBLE_EQ(r->point.condition.alpha_deg, 2.0);
    EXPECT_DOUBLE_EQ(r->point.condition.speed, 10.0);
    EXPECT_DOUBLE_EQ(find<QDoubleSpinBox>(o.window, "windAlpha")->value(), 2.0);
}

TEST(PointBoard, CopiesATableThatASpreadsheetTakes) {
    Opened o;
    o.window.goTo("Schedule");
    typeLine(find<QLineEdit>(o.window, "speeds"), "10, 20");
    auto* board = find<QTableView>(o.window, "pointBoard");
    ASSERT_TRUE(waitUntil([&] { return board->model()->columnCount() == 2; }, 5000));
    QTest::keyClick(board, Qt::Key_C, Qt::ControlModifier);
    const auto lines = QApplication::clipboard()->text().trimmed().split('\n');
    ASSERT_EQ(lines.size(), 3);
    EXPECT_TRUE(lines[0].startsWith("speed_m_s\talpha_deg"));
    EXPECT_EQ(lines[1].count('\t'), lines[0].count('\t'));
}

TEST(TunnelStage, SaysTheSizeOfTheAirAndWhatTheModelBlocks) {
    Opened o;
    o.window.goTo("Tunnel");
    for (const char* side : {"sideways", "above", "below"}) type(find<QDoubleSpinBox>(o.window, side), "4.5");
    EXPECT_TRUE(find<QLabel>(o.window, "tunnelSize")->text().contains("5 m wide, 10 m high"))
        << find<QLabel>(o.window, "tunnelSize")->text().toStdString();
    EXPECT_TRUE(find<QPushButton>(o.window, "stageTunnel")->text().contains("blocks 0.7"));
    find<QComboBox>(o.window, "ground")->setCurrentIndex(2);
    EXPECT_EQ(settings(o).tunnel.floor, grid::Floor::Moving);
    type(find<QDoubleSpinBox>(o.window, "rideHeight"), "0.1");
    EXPECT_TRUE(find<QLabel>(o.window, "tunnelSize")->text().contains("5.6 m high"))
        << find<QLabel>(o.window, "tunnelSize")->text().toStdString();
    find<QComboBox>(o.window, "modelExtent")->setCurrentIndex(1);
    EXPECT_TRUE(settings(o).tunnel.halfModel);
}

TEST(RunStage, PreflightNamesWhatForbidsTheRun) {
    Opened o;
    o.window.goTo("Tunnel");
    find<QComboBox>(o.window, "ground")->setCurrentIndex(1);
    o.window.goTo("Schedule");
    typeLine(find<QLineEdit>(o.window, "alphas"), "3");
    o.window.goTo("Run");
    EXPECT_TRUE(
        waitUntil([&] { return find<QLabel>(o.window, "preflight")->text().contains("through the ground"); }, 5000))
        << find<QLabel>(o.window, "preflight")->text().toStdString();
}

TEST(RunStage, PreflightMendsByAClickThatCanBeUndone) {
    Opened o;
    o.window.goTo("Run");
    const int before = settings(o).grid.cellBudget;
    emit find<QLabel>(o.window, "preflight")->linkActivated("set:grid.cell_budget=230000");
    EXPECT_EQ(settings(o).grid.cellBudget, 230000);
    o.window.document().undoStack().undo();
    EXPECT_EQ(settings(o).grid.cellBudget, before);
}

TEST(TunnelStage, AsksWhereTheGroundsLayerBeginsOnlyOfAGroundAtRest) {
    Opened o;
    o.window.goTo("Tunnel");
    EXPECT_FALSE(find<QComboBox>(o.window, "groundLayer")->isEnabled());
    find<QComboBox>(o.window, "ground")->setCurrentIndex(1);
    EXPECT_TRUE(find<QComboBox>(o.window, "groundLayer")->isEnabled());
    EXPECT_FALSE(find<QDoubleSpinBox>(o.window, "groundLayerAhead")->isEnabled());
    find<QComboBox>(o.window, "groundLayer")->setCurrentIndex(1);
    EXPECT_TRUE(find<QDoubleSpinBox>(o.window, "groundLayerAhead")->isEnabled());
    EXPECT_EQ(settings(o).tunnel.groundLayer, grid::LayerFrom::Ahead);
}

TEST(ScheduleStage, WhatIsChosenIsInTheFileAndThereWhenOpenedAgain) {
    Opened o;
    o.window.goTo("Schedule");
    find<QComboBox>(o.window, "flowModel")->setCurrentIndex(1);
    find<QComboBox>(o.window, "limiter")->setCurrentIndex(2);
    find<QComboBox>(o.window, "order")->setCurrentIndex(0);
    find<QSpinBox>(o.window, "mostIterations")->setValue(321);
    type(find<QDoubleSpinBox>(o.window, "intensity"), "0.01");
    const auto stored = campaign::Campaign::open((o.folder / "ball.cvane").string()).settings;
    EXPECT_EQ(stored, settings(o));
    EXPECT_EQ(stored.flow.model, flow::Model::SpalartAllmaras);
    EXPECT_EQ(stored.flow.limiter, flow::Limiter::None);
    EXPECT_FALSE(stored.flow.secondOrder);
    EXPECT_EQ(stored.flow.mostIterations, 321);
    EXPECT_DOUBLE_EQ(stored.flow.turbulenceIntensity, 0.01);
}

TEST(Sheets, TakeRangesAndSentencesFromTheTableOfSettings) {
    Opened o;
    const auto& budget = campaign::settingNamed("grid.cell_budget", "");
    const auto* box = find<QSpinBox>(o.window, "cellBudget");
    EXPECT_EQ(box->minimum(), budget.limits.low);
    EXPECT_EQ(box->maximum(), budget.limits.high);
    EXPECT_TRUE(box->toolTip().contains("grid.cell_budget")) << box->toolTip().toStdString();
    // A length's ends are those of the table in the unit that is shown.
    const auto& ride = campaign::settingNamed("tunnel.ride_height_m", "");
    auto s = settings(o);
    s.units.length = "mm";
    o.window.document().change("show millimetres", s);
    EXPECT_NEAR(find<QDoubleSpinBox>(o.window, "rideHeight")->maximum(), 1000.0 * ride.limits.high, 1.0);
    for (const char* name : {"ground", "upstream", "speeds", "intensity", "limiter", "refLength", "rotation",
                             "sectionReynolds", "sectionStep", "fieldLevel", "unitForce", "wakeAlpha"})
        EXPECT_TRUE(find<QWidget>(o.window, name)->toolTip().contains("</b>")) << name;
    // Every choice is there, and each is another value.
    auto* ground = find<QComboBox>(o.window, "ground");
    for (const char* word : {"none", "fixed", "moving"}) {
        campaign::setField(s, std::string("tunnel.ground=") + word);
        o.window.document().change("change the ground", s);
        const auto& words = campaign::settingNamed("tunnel.ground", "").words;
        EXPECT_EQ(words.at(static_cast<std::size_t>(ground->currentIndex())), word);
    }
}

TEST(GridStage, CanBeCancelledAndThenNothingIsLeft) {
    Opened o;
    o.window.goTo("Grid");
    find<QSpinBox>(o.window, "cellBudget")->setValue(600000);
    ASSERT_TRUE(waitUntil([&] { return find<QPushButton>(o.window, "makeGrid")->isEnabled(); }, 5000));
    QTest::mouseClick(find<QPushButton>(o.window, "makeGrid"), Qt::LeftButton);
    ASSERT_TRUE(waitUntil(
        [&] {
            return find<QProgressBar>(o.window, "gridProgress")->isVisible() &&
                   find<QProgressBar>(o.window, "gridProgress")->value() > 0;
        },
        10000));
    QTest::mouseClick(find<QPushButton>(o.window, "cancelGrid"), Qt::LeftButton);
    ASSERT_TRUE(waitUntil([&] { return !o.window.document().gridRunning(); }, 15000));
    EXPECT_EQ(o.window.document().grid(), nullptr);
    EXPECT_TRUE(find<QLabel>(o.window, "gridSummary")->text().contains("No grid"))
        << find<QLabel>(o.window, "gridSummary")->text().toStdString();
}

// The thread may be over before the window hears of it: until then all of the window says that the grid is being made.
TEST(GridStage, IsBeingMadeUntilTheWindowHasHeardOfItsEnd) {
    Opened o;
    o.window.goTo("Grid");
    auto& document = o.window.document();
    find<QSpinBox>(o.window, "cellBudget")->setValue(4000);
    ASSERT_TRUE(waitUntil([&] { return find<QPushButton>(o.window, "makeGrid")->isEnabled(); }, 5000));
    document.makeGrid();
    std::this_thread::sleep_for(std::chrono::seconds(2));
    EXPECT_TRUE(document.gridRunning());
    document.makeGrid();  // is not begun a second time
    EXPECT_TRUE(find<QLabel>(o.window, "gridSummary")->text().contains("Making"));
    ASSERT_TRUE(waitUntil([&] { return !document.gridRunning(); }, 15000));
    EXPECT_TRUE(document.gridCurrent());
    EXPECT_FALSE(find<QLabel>(o.window, "gridSummary")->text().contains("Making"));
}

TEST(GridStage, ShowsItsQualityAndIsOutOfDateOnceTheTunnelChanges) {
    Opened o(ballAndBox());
    auto& w = o.window;
    w.goTo("Grid");
    find<QSpinBox>(w, "cellBudget")->setValue(12000);
    ASSERT_TRUE(waitUntil([&] { return find<QPushButton>(w, "makeGrid")->isEnabled(); }, 5000));
    QTest::keyClick(&w, Qt::Key_F7);
    ASSERT_TRUE(waitUntil([&] { return w.document().grid() != nullptr; }, 60000));
    const QString counts = find<QLabel>(w, "gridCounts")->text();
    EXPECT_TRUE(counts.contains("ball") && counts.contains("box") && counts.contains("GB")) << counts.toStdString();
    // As many bars as there are tens of degrees with faces; all faces are in them.
    auto* plot = find<QWidget>(w, "gridHistogram");
    EXPECT_TRUE(plot->isVisibleTo(&w));
    for (int colour = 0; colour < 4; ++colour) {
        find<QComboBox>(w, "cellColour")->setCurrentIndex(colour);
        find<QSlider>(w, "cutPlace")->setValue(30 + 10 * colour);
        QTest::qWait(30);
    }
    find<QCheckBox>(w, "markWorst")->setChecked(true);
    EXPECT_TRUE(find<QPushButton>(w, "stageGrid")->toolTip().contains("ready"));
    w.goTo("Tunnel");
    type(find<QDoubleSpinBox>(w, "upstream"), "6");
    EXPECT_TRUE(waitUntil([&] { return find<QPushButton>(w, "stageGrid")->toolTip().contains("out of date"); }, 5000));
    QTest::keyClick(&w, Qt::Key_Z, Qt::ControlModifier);
    // The grid of the old tunnel is still there.
    EXPECT_TRUE(waitUntil([&] { return find<QPushButton>(w, "stageGrid")->toolTip().contains("ready"); }, 5000));
}

TEST(GridStage, RareSettingsAreFoldedAwayAndCanBeChanged) {
    Opened o;
    o.window.goTo("Grid");
    auto* buffers = find<QSpinBox>(o.window, "bufferCells");
    EXPECT_FALSE(buffers->isVisibleTo(&o.window));
    QTest::mouseClick(find<QAbstractButton>(o.window, "moreCells"), Qt::LeftButton);
    EXPECT_TRUE(buffers->isVisibleTo(&o.window));
    buffers->setValue(5);
    EXPECT_EQ(settings(o).grid.bufferCells, 5);
    type(find<QDoubleSpinBox>(o.window, "sharpAngle"), "25");
    EXPECT_DOUBLE_EQ(settings(o).grid.sharpAngle_deg, 25.0);
    type(find<QDoubleSpinBox>(o.window, "turnAngle"), "12");
    EXPECT_DOUBLE_EQ(settings(o).grid.turnAngle_deg, 12.0);
}

TEST(Sheets, ScrollUnderTheWheelWithoutChangingWhatLiesUnderThePointer) {
    Opened o;
    o.window.goTo("Grid");
    auto* budget = find<QSpinBox>(o.window, "cellBudget");
    auto* colour = find<QComboBox>(o.window, "cellColour");
    const auto before = settings(o);
    const auto turn = [](QWidget* w) {
        const QPointF at = w->rect().center();
        QWheelEvent e(at, w->mapToGlobal(at), {}, QPoint(0, -120), Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase,
                      false);
        QApplication::sendEvent(w, &e);
    };
    turn(budget);
    turn(colour);
    EXPECT_EQ(settings(o), before);
    EXPECT_EQ(colour->currentIndex(), 0);
    budget->setFocus();  // chosen: now it turns
    turn(budget);
    EXPECT_LT(settings(o).grid.cellBudget, before.grid.cellBudget);
}

TEST(Window, ReadsAndWritesNumbersWithAPointWhateverTheDesktopsLanguage) {
    EXPECT_STREQ(std::setlocale(LC_NUMERIC, nullptr), "C");
    Opened o;
    o.window.goTo("Tunnel");
    auto* box = find<QDoubleSpinBox>(o.window, "rideHeight");
    EXPECT_EQ(box->locale().decimalPoint(), ".");
    type(box, "0.125");
    EXPECT_DOUBLE_EQ(settings(o).tunnel.rideHeight, 0.125);
}

TEST(ReportStage, ShowsThePagesThatItWouldWrite) {
    Opened o;
    const auto made = campaign::Campaign::open(o.folder / "ball.cvane");
    test::finished(made, campaign::pointsOf(made.settings).front(), 0.4);
    o.window.document().refreshAll();
    o.window.goTo("Report");
    auto* pages = o.window.findChild<desk::ReportPages*>();
    ASSERT_NE(pages, nullptr);
    // Those that need no stored flow; a section more, a page or more.
    auto* sections = find<QListWidget>(o.window, "reportSections");
    const auto last = sections->count() - 1;
    for (int i = 1; i <= last; ++i) sections->item(i)->setCheckState(Qt::Unchecked);
    const auto said = [&] { return find<QLabel>(o.window, "reportSaid")->text().toStdString(); };
    ASSERT_TRUE(waitUntil([&] { return pages->pages() > 0; }, 5000)) << said();
    EXPECT_EQ(o.window.middle().currentWidget(), pages);
    const int few = pages->pages();
    sections->item(last)->setCheckState(Qt::Checked);
    EXPECT_TRUE(waitUntil([&] { return pages->pages() > few; }, 5000)) << few << " " << said();
}

TEST(ReportStage, ListsThePoints) {
    Opened o;
    o.window.goTo("Schedule");
    typeLine(find<QLineEdit>(o.window, "alphas"), "0, 3");
    o.window.goTo("Report");
    EXPECT_TRUE(waitUntil([&] { return find<QLabel>(o.window, "reportTable")->text().count("waiting") == 2; }, 5000))
        << find<QLabel>(o.window, "reportTable")->text().toStdString();
}

TEST(Window, SaysWhenAFileIsNoSurfaceAndStaysAsItWas) {
    Opened o;
    base::replaceFile(o.folder / "letter.stl", "Dear reader, this is no surface.\n");
    const auto before = settings(o);
    o.window.document().create(QString::fromStdString((o.folder / "new.cvane").string()),
                               QString::fromStdString((o.folder / "letter.stl").string()), "m");
    EXPECT_TRUE(find<QLabel>(o.window, "message")->text().contains("letter.stl"))
        << find<QLabel>(o.window, "message")->text().toStdString();
    EXPECT_FALSE(std::filesystem::exists(o.folder / "new.cvane"));
    EXPECT_EQ(settings(o), before);
}

TEST(Window, WithoutACampaignTakesTypingAndKeysInSilenceOrInWords) {
    desk::Window w;
    w.show();
    QApplication::setActiveWindow(&w);
    for (int stage = 0; stage < w.stages(); ++stage) w.goTo(stage);
    for (auto* box : w.findChildren<QDoubleSpinBox*>()) {
        box->setValue(box->minimum() + 0.5 * std::min(1.0, box->maximum() - box->minimum()));
        box->setValue(box->maximum());
    }
    for (auto* box : w.findChildren<QSpinBox*>()) box->setValue(box->maximum());
    for (auto* box : w.findChildren<QComboBox*>())
        if (box->count() > 1) box->setCurrentIndex(1);
    // A menu or dialog that a button opens is given up again.
    QTimer closer;
    QObject::connect(&closer, &QTimer::timeout, [] {
        if (auto* popup = QApplication::activePopupWidget())
            popup->close();
        else if (auto* dialog = QApplication::activeModalWidget())
            dialog->close();
    });
    closer.start(30);
    for (auto* button : w.findChildren<QPushButton*>())
        // Demos open campaigns.
        if (button->isEnabled() && !button->text().contains("\u2026") && !button->objectName().startsWith("demo-"))
            button->click();
    const auto said = [&] { return find<QLabel>(w, "message")->text().toStdString(); };
    QTest::keyClick(find<QTableView>(w, "pointBoard"), Qt::Key_Return);
    EXPECT_NE(said().find("no campaign"), std::string::npos) << said();
    QMetaObject::invokeMethod(&w, [&] { find<QLabel>(w, "message")->setText("something else"); });
    // Which window a display takes for the active one after so many popups is its own affair: the action of F5 itself.
    const auto actions = w.findChildren<QAction*>();
    const auto run = std::find_if(actions.begin(), actions.end(),
                                  [](const QAction* a) { return a->shortcut() == QKeySequence(Qt::Key_F5); });
    ASSERT_NE(run, actions.end());
    (*run)->trigger();
    EXPECT_NE(said().find("no campaign"), std::string::npos) << said();
    EXPECT_FALSE(w.document().isOpen());
}

TEST(Document, SendsOneSignalForAChangeAndForgetsWhatNobodyWaitsFor) {
    Opened o;
    int signals_ = 0;
    QObject::connect(&o.window.document(), &desk::Document::changed,
                     [&](desk::Changes what) { signals_ += what.testFlag(desk::Change::Settings); });
    auto next = o.window.document().settings();
    next.air.altitude = 1000.0;
    o.window.document().change("change the air", next);
    EXPECT_EQ(signals_, 1);
    // Another campaign is opened while jobs of the first are at work: none of their outcomes arrives.
    shape::writeStl(bench::sphere(0.25, 12), o.folder / "small.stl", 1.0);
    next.model.placement.shift = Vec3(1, 0, 0);
    o.window.document().change("shift the model", next);
    o.window.document().create(QString::fromStdString((o.folder / "small.cvane").string()),
                               QString::fromStdString((o.folder / "small.stl").string()), "m");
    ASSERT_TRUE(waitUntil([&] { return o.window.document().modelReady(); }, 10000));
    QTest::qWait(300);
    EXPECT_NEAR(o.window.document().measures().bounds.size().x(), 0.5, 0.02);
    EXPECT_NEAR(o.window.document().measures().bounds.centre().x(), 0.0, 1e-6);
}

TEST(Document, RefusesWhatCannotBeSavedAndWhatIsOutOfRange) {
    Opened o;
    auto& d = o.window.document();
    auto next = d.settings();
    next.grid.cellBudget = -4;
    d.change("change the budget", next);
    EXPECT_EQ(d.settings().grid.cellBudget, campaign::Settings{}.grid.cellBudget);
    EXPECT_EQ(d.undoStack().count(), 0);
    std::filesystem::rename(o.folder / "ball.cvane", o.folder / "gone.cvane");
    next = d.settings();
    next.air.altitude = 1234.0;
    d.change("change the air", next);
    EXPECT_DOUBLE_EQ(d.settings().air.altitude, 0.0);
    EXPECT_EQ(d.undoStack().count(), 0);  // what was not saved is not to be undone
    EXPECT_FALSE(find<QLabel>(o.window, "message")->text().isEmpty());
}

TEST(Document, SurvivesAModelFileThatVanishes) {
    Opened o;
    std::filesystem::remove(o.folder / "ball.cvane" / "models" / "ball.stl");
    auto next = o.window.document().settings();
    next.model.unit = "mm";
    o.window.document().change("change the model's unit", next);
    EXPECT_TRUE(waitUntil([&] { return find<QLabel>(o.window, "message")->text().contains("ball.stl"); }, 5000));
    for (int stage = 0; stage < o.window.stages(); ++stage) o.window.goTo(stage);
}

TEST(Variants, AreLookedAtAndChangedAloneAndHaveTilesOfTheirOwn) {
    Opened o;
    auto& d = o.window.document();
    auto next = d.base().settings;
    next.setUps = {{"moving", nlohmann::json::object()}};
    d.changeBase("new set-up", next);
    EXPECT_EQ(d.reports().size(), 2u);
    auto* picker = find<QComboBox>(o.window, "setUp");
    EXPECT_EQ(picker->count(), 3);  // the base, this one, and another one…
    d.select(d.reports()[1].point);
    EXPECT_EQ(d.setUp(), "moving");
    EXPECT_EQ(picker->currentText(), "moving");
    o.window.goTo("Tunnel");
    find<QComboBox>(o.window, "ground")->setCurrentIndex(2);
    EXPECT_EQ(d.settings().tunnel.floor, grid::Floor::Moving);
    EXPECT_EQ(d.base().settings.tunnel.floor, grid::Floor::None);
    d.select(d.reports()[0].point);
    EXPECT_EQ(find<QComboBox>(o.window, "ground")->currentIndex(), 0);
    auto* board = find<QTableView>(o.window, "pointBoard");
    EXPECT_EQ(board->model()->rowCount() * board->model()->columnCount(), 2);
    d.undoStack().undo();
    EXPECT_EQ(o.window.stageAt(o.window.stage()).title(), "Tunnel");  // where it was changed
    d.select(d.reports()[1].point);
    EXPECT_EQ(d.settings().tunnel.floor, grid::Floor::None);
}

TEST(PointBoard, KeepsItsPointWhenTheScheduleChanges) {
    Opened o;
    auto& d = o.window.document();
    auto next = d.base().settings;
    next.schedule.alphas_deg = {0, 2, 4};
    d.changeBase("change the angles of attack", next);
    d.select({{next.schedule.speeds[0], 4, 0}});
    next.schedule.alphas_deg = {-2, 0, 2, 4};
    d.changeBase("change the angles", next);
    ASSERT_TRUE(d.selected().has_value());
    EXPECT_DOUBLE_EQ(d.selected()->condition.alpha_deg, 4.0);
    auto* board = find<QTableView>(o.window, "pointBoard");
    EXPECT_TRUE(board->model()->headerData(board->currentIndex().row(), Qt::Vertical).toString().contains("4"));
}

TEST(ReportStage, KeepsThe3DViewOfTheStageBeforeForItsPicture) {
    Opened o;
    o.window.goTo("Model");
    auto* renderer = o.window.middle().canvas().renderer();
    // Axes, scale and ground belong to the view itself.
    const auto seen = [&] {
        int count = 0;
        auto* actors = renderer->GetActors();
        actors->InitTraversal();
        while (auto* a = actors->GetNextActor()) count += a->GetVisibility() ? 1 : 0;
        return count;
    };
    EXPECT_GT(seen(), 0);
    o.window.goTo("Report");
    EXPECT_GT(seen(), 0);
    o.window.goTo("Pressures");  // pressures: nothing has been run
    EXPECT_EQ(seen(), 0);
    o.window.goTo("Model");
    EXPECT_GT(seen(), 0);
}
