// The stage Sections, driven through its window.
#include <gtest/gtest.h>

#include <QCheckBox>
#include <QClipboard>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSpinBox>
#include <QTableWidget>

#include "base/files.h"
#include "desk/section_picture.h"
#include "desk/stages/sections_stage.h"
#include "desk_helpers.h"
#include "folder.h"
#include "section/outline/coordinates.h"
#include "section/outline/families.h"

using namespace cvane;
using test::typeLine;
using test::waitUntil;

namespace {
/// A window on a new campaign without a model, and few angles to wait for.
struct OnSections {
    test::Folder folder;
    desk::Window window;
    desk::SectionsStage* stage = nullptr;
    OnSections(double first_deg, double last_deg, double step_deg) {
        window.show();
        window.document().create(QString::fromStdString((folder / "s.cvane").string()), {}, {});
        stage = qobject_cast<desk::SectionsStage*>(&window.stageAt(window.stage()));
        auto s = window.document().settings();
        s.sections.first_deg = first_deg, s.sections.last_deg = last_deg, s.sections.step_deg = step_deg;
        window.document().change("fewer angles", s);
    }
    bool computed() {
        return waitUntil([&] { return !stage->work().running(); }, 20000);
    }
};
}  // namespace

TEST(SectionsStage, ComputesPolarsOfACodeAndAFileAndUndoTakesThemBack) {
    OnSections on(0.0, 4.0, 2.0);
    const auto& folder = on.folder;
    auto& window = on.window;
    auto* stage = on.stage;
    EXPECT_EQ(window.stageAt(window.stage()).title(), "Sections");
    ASSERT_NE(stage, nullptr);
    typeLine(window.findChild<QLineEdit*>("sectionCode"), "2412");
    const auto done = [&](std::size_t curves) {
        return waitUntil([&] { return stage->work().curves().size() == curves && !stage->work().running(); }, 20000);
    };
    ASSERT_TRUE(done(1)) << window.findChild<QLabel*>("message")->text().toStdString() << stage->work().curves().size();
    EXPECT_EQ(stage->work().curves()[0].points.size(), 3u);
    EXPECT_EQ(window.findChild<QTableWidget*>("sectionReadings")->rowCount(), 1);
    EXPECT_TRUE(waitUntil([&] { return !stage->work().view().distribution.upper.empty(); }, 10000));
    base::replaceFile(folder / "own.dat",
                      section::writeCoordinates(section::sectionFromCode("0015"), section::PointOrder::TwoLists));
    stage->bring(QString::fromStdString((folder / "own.dat").string()));
    ASSERT_TRUE(done(2));
    EXPECT_EQ(window.document().settings().sections.sections.size(), 2u);
    window.findChild<QPushButton*>("copySections")->click();
    EXPECT_EQ(QApplication::clipboard()->text().count('\n'), 7);
    window.document().undoStack().undo();
    ASSERT_TRUE(done(1));
    stage->bring("no such thing");
    EXPECT_TRUE(window.findChild<QLabel*>("message")->text().contains("no code"));
    EXPECT_EQ(window.document().settings().sections.sections.size(), 1u);
}

TEST(SectionsStage, ThicknessMakesAnotherPolarAndTheOldOneComesBack) {
    OnSections on(0.0, 2.0, 1.0);
    const auto& folder = on.folder;
    auto& window = on.window;
    auto* stage = on.stage;
    stage->bring("0012");
    ASSERT_TRUE(on.computed());
    const auto before = stage->work().curves()[0].asked.key;
    window.findChild<QDoubleSpinBox*>("sectionThickness")->setValue(15.0);
    EXPECT_NE(stage->work().curves()[0].asked.key, before);
    ASSERT_TRUE(on.computed());
    EXPECT_EQ(stage->work().curves()[0].before.size(), 3u);  // beside it for comparison
    stage->savePlots(QString::fromStdString((folder / "p.pdf").string()));
    for (const char* name : {"p.pdf", "p-right.pdf"})
        EXPECT_TRUE(base::readFile(folder / name).starts_with("%PDF")) << name;
    window.document().undoStack().undo();
    EXPECT_EQ(stage->work().curves()[0].asked.key, before);
    EXPECT_FALSE(stage->work().running());  // it was kept
}

TEST(SectionsStage, TheFieldsPointsAreStoredAndShownBesideThePanels) {
    OnSections on(0.0, 2.0, 2.0);
    const auto& folder = on.folder;
    auto& window = on.window;
    auto* stage = on.stage;
    ASSERT_NE(stage, nullptr);
    EXPECT_TRUE(window.findChild<QPushButton*>("stageRun")->isHidden());  // nothing to run without a model
    auto s = window.document().settings();
    s.sections.fieldAngles_deg = {0.0}, s.sections.fieldLevel = 0;
    window.document().change("one angle in the field", s);
    stage->bring("0012");
    ASSERT_TRUE(on.computed());
    window.findChild<QPushButton*>("solveInField")->click();
    EXPECT_TRUE(stage->work().fieldRunning());
    EXPECT_EQ(stage->state(), desk::Stage::State::AtWork);
    ASSERT_TRUE(waitUntil([&] { return !stage->work().fieldRunning(); }, 60000));
    ASSERT_EQ(stage->work().curves().size(), 2u);
    const auto& field = stage->work().curves()[1];
    ASSERT_TRUE(field.field);
    ASSERT_EQ(field.walls.size(), 1u);
    EXPECT_NEAR(field.points[0].figures.cl, 0.0, 0.01);
    ASSERT_TRUE(waitUntil([&] { return stage->work().fieldView() != nullptr; }, 10000));
    // Pressures of panels and field on one plot; the grid, as cells.
    window.findChild<QAction*>("arrangeChord")->trigger();
    auto* plot = window.findChild<desk::Plot*>("leftPolar");
    EXPECT_EQ(plot->plottableCount(), 4);
    window.findChild<QCheckBox*>("showGrid")->click();
    EXPECT_TRUE(waitUntil([&] { return stage->work().cells().size() > 4000; }, 10000));
    // What was solved is there again in another window, and a table has both methods.
    desk::Window other;
    other.show();
    other.document().open(QString::fromStdString((folder / "s.cvane").string()));
    auto* again = qobject_cast<desk::SectionsStage*>(&other.stageAt(other.stage()));
    ASSERT_EQ(again->work().curves().size(), 2u);
    EXPECT_EQ(again->work().curves()[1].walls[0].cd, field.walls[0].cd);
    again->saveTable(QString::fromStdString((folder / "t.csv").string()));
    const auto table = base::readFile(folder / "t.csv");
    EXPECT_NE(table.find("0012,panels,"), std::string::npos);
    EXPECT_NE(table.find("0012,field,"), std::string::npos);
    again->saveTable(QString::fromStdString((folder / "t.xlsx").string()));
    EXPECT_TRUE(base::readFile(folder / "t.xlsx").starts_with("PK"));
    again->savePlots(QString::fromStdString((folder / "p.svg").string()));
    EXPECT_NE(base::readFile(folder / "p.svg").find("<svg"), std::string::npos);
}

TEST(SectionsStage, TheNoseIsDraggedInThePictureAsOneStepOfUndo) {
    OnSections on(0.0, 0.0, 1.0);
    auto& window = on.window;
    auto* stage = on.stage;
    stage->bring("2412");
    ASSERT_TRUE(waitUntil([&] { return !stage->work().view().outline.points.empty(); }, 20000));
    auto* picture = window.findChild<desk::SectionPicture*>("sectionPicture");
    window.findChild<QCheckBox*>("shapeByHand")->click();
    const auto drag = [&](desk::SectionPicture::Handle handle, const QPoint& by) {
        const QPoint from = picture->handleAt(handle)->toPoint();
        QTest::mousePress(picture, Qt::LeftButton, {}, from);
        QTest::mouseMove(picture, from + by / 2);
        QTest::mouseMove(picture, from + by);
        QTest::mouseRelease(picture, Qt::LeftButton, {}, from + by);
    };
    const auto entry = [&] { return window.document().settings().sections.sections[0]; };
    const int steps = window.document().undoStack().count();
    drag(desk::SectionPicture::Handle::Thickness, {0, -10});
    EXPECT_EQ(window.document().undoStack().count(), steps + 1);
    ASSERT_TRUE(entry().thickness.has_value());
    EXPECT_GT(*entry().thickness, 0.125);
    EXPECT_LT(*entry().thickness, 0.25);
    EXPECT_FALSE(entry().noseRadius.has_value());
    ASSERT_TRUE(on.computed());
    drag(desk::SectionPicture::Handle::Nose, {8, 0});
    ASSERT_TRUE(entry().noseRadius.has_value());
    window.document().undoStack().undo();
    window.document().undoStack().undo();
    EXPECT_FALSE(entry().thickness.has_value());
}
