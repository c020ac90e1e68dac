// A vehicle drawn from its side view, by mouse and by keys, up to what a change of its shape does.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <QComboBox>
#include <QFileDialog>
#include <QInputDialog>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>
#include <QTimer>

#include "desk/point_board.h"
#include "desk/stages/outline/outline_stage.h"
#include "tests/desk_helpers.h"

using namespace cvane;
using test::find;
using test::waitUntil;

namespace {
/// A window without a campaign, whose questions are answered as by a user: a folder's or a build's name, and Return.
struct Bare {
    test::Folder folder;
    desk::Window window;
    QTimer answers;
    int answered = 0;
    Bare() {
        window.show();
        QApplication::setActiveWindow(&window);
        QObject::connect(&answers, &QTimer::timeout, [this] {
            auto* dialog = QApplication::activeModalWidget();
            if (!dialog) return;
            QApplication::setActiveWindow(dialog);  // as a window manager does
            auto* focus = QApplication::focusWidget();
            if (!focus) return;
            const bool file = qobject_cast<QFileDialog*>(dialog) != nullptr;
            if (!file && !qobject_cast<QInputDialog*>(dialog)) return;
            ++answered;
            if (file) {
                qobject_cast<QLineEdit*>(focus)->selectAll();
                QTest::keyClicks(focus, QString::fromStdString((folder / "drawn.cvane").string()));
            } else {
                QTest::keyClicks(focus, "lower tail");
            }
            QTest::keyClick(focus, Qt::Key_Return);
        });
        answers.start(50);
    }
    bool draw() {
        QTest::mouseClick(find<QPushButton>(window, "startOutline"), Qt::LeftButton);
        QApplication::setActiveWindow(&window);
        return waitUntil([this] { return window.document().modelReady(); }, 10000);
    }
    const vehicle::Outline& outline() { return *window.document().settings().model.outline; }
};

void drag(desk::ProfileView& view, std::size_t corner, const QPoint& by) {
    const QPoint from = view.handleAt(desk::ProfileView::Line::Profile, corner).toPoint();
    QTest::mousePress(&view, Qt::LeftButton, {}, from);
    QTest::mouseMove(&view, from + by);
    // What a move without a window manager does not carry: that the button is down.
    QMouseEvent move(QEvent::MouseMove, QPointF(from + by), view.mapToGlobal(QPointF(from + by)), Qt::NoButton,
                     Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&view, &move);
    QTest::mouseRelease(&view, Qt::LeftButton, {}, from + by);
}

void typeCell(QTableWidget* table, int row, int column, const QString& text) {
    table->item(row, column)->setText(text);  // what leaving its editor does
    QCoreApplication::processEvents();
}
}  // namespace

TEST(OutlineStage, LeadsFromNothingToTwoShapesComparedInPerCentByMouse) {
    Bare b;
    auto& w = b.window;
    auto& d = w.document();
    int actions = 2;  // the start page's button, the folder's question
    ASSERT_TRUE(b.draw());
    EXPECT_EQ(w.stageAt(w.stage()).title(), "Outline");
    const auto press = [&](const char* name) {
        QTest::mouseClick(find<QPushButton>(w, name), Qt::LeftButton);
        QApplication::setActiveWindow(&w);
        ++actions;
    };
    press("anotherBuild");
    ++actions;  // its name
    ASSERT_EQ(d.configuration(), "lower tail");
    const double before = b.outline().profile[4].z;
    drag(*find<desk::ProfileView>(w, "profileView"), 4, QPoint(0, 30));
    ++actions;
    EXPECT_LT(b.outline().profile[4].z, before - 0.02);
    EXPECT_TRUE(find<QLabel>(w, "outlineDiffers")->text().contains("side view, corner 5: z"))
        << find<QLabel>(w, "outlineDiffers")->text().toStdString();
    EXPECT_EQ(d.base().settings.model.outline->profile[4].z, before) << "the base stays as it was";
    press("stageSchedule");
    auto* methods = find<QComboBox>(w, "methods");
    methods->setCurrentIndex(methods->findText("panels"));
    emit methods->activated(methods->currentIndex());
    actions += 2;
    // A test need not wait for as many.
    auto few = d.settings();
    few.panels.count = 1500;
    d.change("fewer panels", few);
    press("stageRun");
    ASSERT_TRUE(
        waitUntil([&] { return d.reports().size() == 2 && find<QPushButton>(w, "runAll")->isEnabled(); }, 10000));
    press("runAll");
    ASSERT_TRUE(waitUntil(
        [&] {
            const auto& all = d.reports();
            return all.size() == 2 &&
                   std::all_of(all.begin(), all.end(), [](const auto& r) { return campaign::isDone(r.state); });
        },
        60000))
        << find<QLabel>(w, "message")->text().toStdString();
    press("stageCompare");
    auto* board = find<QTableView>(w, "pointBoard");
    for (const int row : {0, 1}) {
        QTest::mouseClick(board->viewport(), Qt::LeftButton, row ? Qt::ControlModifier : Qt::NoModifier,
                          board->visualRect(board->model()->index(row, 0)).center());
        ++actions;
    }
    auto* says = find<QLabel>(w, "compareWords");
    EXPECT_TRUE(waitUntil([&] { return says->text().startsWith("lower tail less base: CD"); }, 10000))
        << says->text().toStdString();
    EXPECT_TRUE(says->text().contains("%")) << says->text().toStdString();
    EXPECT_LE(actions, 14);
    RecordProperty("actions", actions);
    EXPECT_EQ(b.answered, 2);
}

TEST(OutlineStage, TypedNumbersMoveThePictureAndUndoTakesThemBack) {
    Bare b;
    auto& w = b.window;
    ASSERT_TRUE(b.draw());
    auto* table = find<QTableWidget>(w, "profileCorners");
    const auto first = b.outline();
    typeCell(table, 2, 4, "40");  // the windscreen laid back
    EXPECT_NEAR(table->item(2, 4)->text().toDouble(), 40.0, 1e-3);
    EXPECT_LT(b.outline().profile[3].z, first.profile[3].z);
    EXPECT_EQ(table->item(3, 1)->text().toDouble(), QString::number(b.outline().profile[3].z, 'g', 6).toDouble());
    typeCell(table, 2, 4, "100");
    EXPECT_NEAR(table->item(2, 4)->text().toDouble(), 40.0, 1e-3) << "what cannot be is not taken";
    EXPECT_TRUE(find<QLabel>(w, "message")->text().contains("side 3"))
        << find<QLabel>(w, "message")->text().toStdString();
    typeCell(table, 1, 2, "9");
    EXPECT_TRUE(find<QLabel>(w, "message")->text().contains("corner 2 has no room"));
    EXPECT_EQ(b.outline().profile[1].radius, first.profile[1].radius) << "the last good shape stays";
    w.document().undoStack().undo();
    EXPECT_EQ(b.outline(), first) << "one step of undo for what was taken";
}

TEST(OutlineStage, PlatesAndWheelsArePartsOfTheModel) {
    Bare b;
    auto& w = b.window;
    ASSERT_TRUE(b.draw());
    QTest::mouseClick(find<QPushButton>(w, "outlinePlatesAdd"), Qt::LeftButton);
    auto* plates = find<QTableWidget>(w, "outlinePlates");
    ASSERT_EQ(plates->rowCount(), 1);
    typeCell(plates, 0, 0, "spoiler");
    QTest::mouseClick(find<QPushButton>(w, "outlineWheelsAdd"), Qt::LeftButton);
    EXPECT_EQ(b.outline().wheels.size(), 3u);
    ASSERT_TRUE(waitUntil([&] { return w.document().modelReady() && w.document().placed().parts.size() == 8; }, 10000));
    std::string names;
    for (const auto& p : w.document().placed().parts) names += p.name + ";";
    EXPECT_NE(names.find("spoiler;"), std::string::npos) << names;
}
