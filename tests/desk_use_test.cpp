// The window as people use it who cannot use a mouse, see little, or are new here.
#include <gtest/gtest.h>

#include <QAbstractButton>
#include <QAbstractItemView>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QFileDialog>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QTextEdit>

#include "campaign/settings/set_field.h"
#include "desk/look.h"
#include "desk/message_line.h"
#include "desk/start/first_steps.h"
#include "desk/start/user_settings.h"
#include "desk_helpers.h"

using namespace cvane;
using test::find;
using test::Opened;
using test::waitUntil;

namespace {
void makeSmall(desk::Window& w) {
    auto s = w.document().settings();
    for (const char* setting :
         {"grid.cell_budget=8000", "grid.layers=2", "flow.model=laminar", "schedule.speeds_m_s=0.0015",
          "tunnel.upstream_lengths=4", "tunnel.sideways_lengths=4", "tunnel.above_lengths=4", "tunnel.below_lengths=4",
          "flow.most_iterations=60", "flow.least_iterations=1"})
        campaign::setField(s, setting);
    w.document().change("make it small", s);
}
}  // namespace

// WCAG 2.1: 4.5 for words, 3 for what is drawn.
TEST(Look, WordsStandOutFromTheirGroundInBothThemes) {
    for (const bool dark : {false, true}) {
        const auto& c = desk::look::coloursOf(dark);
        for (const QColor& ground : {c.paper, c.sheet, c.raised})
            for (const QColor& words : {c.ink, c.faint, c.accent, c.warn})
                EXPECT_GE(desk::look::contrast(words, ground), 4.5)
                    << dark << " " << words.name().toStdString() << " on " << ground.name().toStdString();
        EXPECT_GE(desk::look::contrast(c.onAccent, c.accent), 4.5) << dark;
        EXPECT_GE(desk::look::contrast(c.calm, c.sheet), 3.0) << dark;
        desk::applyTheme(*qApp, dark ? desk::Theme::Dark : desk::Theme::Light);
        for (std::size_t i = 0; i < 8; ++i)
            EXPECT_GE(desk::look::contrast(desk::look::curve(i), c.sheet), 3.0) << dark << " curve " << i;
        for (const QColor& tile : {c.accent, c.calm, c.warn})
            EXPECT_GE(desk::look::contrast(c.ink, desk::look::wash(tile)), 4.5) << dark << tile.name().toStdString();
        for (const char* kind : {"QLineEdit", "QAbstractSpinBox"}) {
            const QColor field = QApplication::palette(kind).color(QPalette::Base);
            EXPECT_GE(desk::look::contrast(c.faint, field), 4.5) << dark << kind;
            if (dark) {
                EXPECT_GE(desk::look::contrast(field, c.paper), 1.4) << kind;
            }
        }
    }
    desk::applyTheme(*qApp, desk::Theme::Light);
    EXPECT_NEAR(desk::look::contrast(Qt::black, Qt::white), 21.0, 1e-12);
}

TEST(Window, IsDrawnInTheThemeThatIsChosenAtOnce) {
    Opened o;
    o.window.goTo("Run");
    const auto groundOfPlot = [&] { return o.window.middle().upper().toPixmap(200, 200).toImage().pixelColor(2, 2); };
    EXPECT_GT(groundOfPlot().lightness(), 200);
    for (auto* action : o.window.findChildren<QAction*>())
        if (action->text() == "&Evening") action->trigger();
    EXPECT_LT(groundOfPlot().lightness(), 80);
    EXPECT_LT(o.window.palette().color(QPalette::Window).lightness(), 80);
    for (auto* action : o.window.findChildren<QAction*>())
        if (action->text() == "&Paper") action->trigger();
    EXPECT_GT(groundOfPlot().lightness(), 200);
}

TEST(Window, HasANameForEveryControl) {
    Opened o;
    for (int i = 0; i < o.window.stages(); ++i) {
        o.window.goTo(i);
        QStringList nameless;
        for (const auto* w : o.window.findChildren<QWidget*>()) {
            const bool inside = w->objectName().startsWith("qt_") ||
                                qobject_cast<const QAbstractSpinBox*>(w->parent()) ||
                                qobject_cast<const QComboBox*>(w->parent());
            if (!w->isVisible() || inside || !(w->focusPolicy() & Qt::TabFocus)) continue;
            const auto* button = qobject_cast<const QAbstractButton*>(w);
            if (w->accessibleName().isEmpty() && (!button || button->text().isEmpty()))
                nameless << QString("%1 %2").arg(w->metaObject()->className(), w->objectName());
        }
        nameless.removeDuplicates();
        EXPECT_TRUE(nameless.isEmpty()) << o.window.stageAt(i).title().toStdString() << ": "
                                        << nameless.join(", ").toStdString();
    }
}

TEST(Window, GoesFromAFileToAResultByKeysAlone) {
    test::Folder folder;
    shape::writeStl(bench::sphere(0.5, 40), folder / "ball.stl", 1.0);
    desk::Window w;
    w.show();
    QApplication::setActiveWindow(&w);
    const auto key = [](int k, Qt::KeyboardModifiers with = {}) {
        QTest::keyClick(QApplication::focusWidget() ? QApplication::focusWidget() : QApplication::activeWindow(),
                        static_cast<Qt::Key>(k), with);
    };
    const auto type = [](const QString& text) { QTest::keyClicks(QApplication::focusWidget(), text); };
    // Both dialogs wait for their answer; each is given it once it is there.
    int answered = 0;
    QTimer answers;
    QObject::connect(&answers, &QTimer::timeout, [&] {
        auto* dialog = QApplication::activeModalWidget();
        if (!dialog) return;
        QApplication::setActiveWindow(dialog);  // as a window manager does
        if (!QApplication::focusWidget()) return;
        if (qobject_cast<QFileDialog*>(dialog) && answered == 0) {
            ++answered;
            type(QString::fromStdString((folder / "ball.stl").string()));
            key(Qt::Key_Return);
        } else if (auto* buttons = dialog->findChild<QDialogButtonBox*>();
                   answered == 1 && dialog->findChild<QTableWidget*>("unitChoice") &&
                   buttons->button(QDialogButtonBox::Ok)->isEnabled()) {
            ++answered;
            key(Qt::Key_Return);
        }
    });
    answers.start(50);
    QTest::qWait(200);
    QTest::keyClick(&w, Qt::Key_N, Qt::ControlModifier);
    ASSERT_TRUE(waitUntil([&] { return w.document().modelReady(); }, 10000)) << answered;
    answers.stop();
    QApplication::setActiveWindow(&w);

    const auto tabTo = [&](const char* field) {
        for (int i = 0; i < 300; ++i) {
            const auto* at = QApplication::focusWidget();
            if (at && at->objectName() == field) return true;
            QTest::keyClick(at ? const_cast<QWidget*>(at) : &w, Qt::Key_Tab);
        }
        return false;
    };
    QTest::keyClick(&w, Qt::Key_4, Qt::AltModifier);
    EXPECT_EQ(w.stageAt(w.stage()).title(), "Grid");
    ASSERT_TRUE(tabTo("cellBudget"));
    key(Qt::Key_A, Qt::ControlModifier);
    type("8000");
    key(Qt::Key_Tab);
    EXPECT_EQ(w.document().settings().grid.cellBudget, 8000);
    ASSERT_TRUE(tabTo("layers"));
    key(Qt::Key_A, Qt::ControlModifier);
    type("2");
    key(Qt::Key_Tab);
    // Keys of the steps are typed where no number is being typed.
    w.setFocus();
    QTest::keyClick(&w, Qt::Key_5, Qt::AltModifier);
    ASSERT_TRUE(tabTo("flowModel"));
    for (int i = 0; i < 8 && w.document().settings().flow.model != flow::Model::Laminar; ++i) key(Qt::Key_Up);
    for (int i = 0; i < 8 && w.document().settings().flow.model != flow::Model::Laminar; ++i) key(Qt::Key_Down);
    ASSERT_EQ(w.document().settings().flow.model, flow::Model::Laminar);
    ASSERT_TRUE(tabTo("windReynolds"));
    key(Qt::Key_A, Qt::ControlModifier);
    type("0.0001");
    key(Qt::Key_Return, Qt::ShiftModifier);
    QTest::keyClick(&w, Qt::Key_F7);
    ASSERT_TRUE(waitUntil([&] { return w.document().gridCurrent(); }, 60000));
    QTest::keyClick(&w, Qt::Key_F5);
    ASSERT_TRUE(waitUntil(
        [&] {
            return !w.document().reports().empty() && w.document().reports()[0].state == campaign::PointState::Settled;
        },
        120000));
    w.setFocus();
    QTest::keyClick(&w, Qt::Key_7, Qt::AltModifier);
    EXPECT_EQ(w.stageAt(w.stage()).title(), "Balance");
    ASSERT_TRUE(tabTo("balanceTable"));
    EXPECT_NEAR(find<QTableWidget>(w, "balanceTable")->item(1, 1)->text().toDouble(), 1.09, 0.25);
}

TEST(Window, LeadsANewUserToNumbersAndAPictureInFewClicks) {
    Opened o;
    auto& w = o.window;
    int clicks = 2;  // the file dropped, the unit taken
    const auto press = [&](const char* name) {
        QPushButton* button = nullptr;
        ASSERT_TRUE(waitUntil(
            [&] {
                for (auto* b : w.findChildren<QPushButton*>(name))
                    if (b->isVisible()) button = b;
                return button != nullptr;
            },
            20000))
            << name;
        QTest::mouseClick(button, Qt::LeftButton);
        ++clicks;
        QTest::qWait(30);
    };
    for (auto* action : w.findChildren<QAction*>())
        if (action->text().startsWith("&First steps")) action->trigger();
    press("firstSize");
    press("firstFlies");
    EXPECT_EQ(w.document().settings().tunnel.floor, grid::Floor::None);
    press("firstGrid");
    EXPECT_EQ(w.document().settings().grid.cellBudget, 60000);
    // A test need not wait for as many.
    w.document().cancelGrid();
    ASSERT_TRUE(waitUntil([&] { return !w.document().gridRunning(); }, 20000));
    makeSmall(w);
    ASSERT_TRUE(waitUntil([&] { return !w.document().gridRunning(); }, 5000));
    w.document().makeGrid();
    press("firstRun");
    press("firstFlow");
    EXPECT_EQ(w.stageAt(w.stage()).title(), "Flow");
    EXPECT_LE(clicks, 12);
    press("firstPicture");
    EXPECT_LE(clicks, 12);
    RecordProperty("actions", clicks);
    const auto picture =
        QImage(QString::fromStdString((o.folder / "ball.cvane" / "pictures" / "first-steps.png").string()));
    EXPECT_GT(picture.width(), 300);
    EXPECT_TRUE(w.findChild<QWidget*>("firstSteps")->isHidden());
}

TEST(Window, OffersWhatAStageLacks) {
    Opened o;
    makeSmall(o.window);
    o.window.goTo("Balance");
    ASSERT_TRUE(waitUntil([&] { return o.window.findChild<QWidget*>("needCard")->isVisible(); }, 5000));
    EXPECT_TRUE(find<QLabel>(o.window, "needCardSays")->text().contains("not been run"));
    o.window.goTo("Grid");
    ASSERT_TRUE(waitUntil([&] { return o.window.findChild<QPushButton*>("needGrid") != nullptr; }, 5000));
    QTest::mouseClick(find<QPushButton>(o.window, "needGrid"), Qt::LeftButton);
    EXPECT_TRUE(waitUntil([&] { return o.window.document().gridCurrent(); }, 60000));
    EXPECT_TRUE(waitUntil([&] { return o.window.findChild<QWidget*>("needCard")->isHidden(); }, 5000));
}

TEST(Window, PutsAModelWhereTheTunnelHasItsMiddle) {
    auto model = bench::sphere(0.5, 24);
    for (Vec3& p : model.points) p += Vec3(3.0, 0.2, -4.0);
    Opened o(model);
    o.window.goTo("Model");
    // Sooner than the model can follow: each waits for the one before, and none moves it twice.
    for (const char* button : {"centreY", "standOnGround", "noseToZero", "noseToZero", "centreY"})
        QTest::mouseClick(find<QPushButton>(o.window, button), Qt::LeftButton);
    ASSERT_TRUE(waitUntil([&] { return !o.window.document().placing(); }, 30000));
    const Box b = o.window.document().measures().bounds;
    EXPECT_NEAR(b.low.x(), 0.0, 1e-9);
    EXPECT_NEAR(b.low.y() + b.high.y(), 0.0, 1e-9);
    EXPECT_NEAR(b.low.z(), 0.0, 1e-9);
    EXPECT_EQ(o.window.document().settings().tunnel.rideHeight, 0.0);
}

TEST(Window, PicksPartsInTheViewAndTicksSeveralAtOnce) {
    auto model = bench::sphere(0.5, 24);
    const auto second = bench::sphere(0.2, 16);
    model.parts = {{"large"}, {"small"}};
    const auto first = static_cast<std::int32_t>(model.points.size());
    for (const Vec3& p : second.points) model.points.push_back(p + Vec3(2.0, 0.0, 0.0));
    for (auto f : second.facets) {
        for (auto& k : f) k += first;
        model.facets.push_back(f);
    }
    model.partOf.assign(model.facets.size(), 0);
    for (std::size_t i = model.facets.size() - second.facets.size(); i < model.facets.size(); ++i) model.partOf[i] = 1;
    Opened o(model);
    o.window.goTo("Model");
    auto* parts = find<QTableWidget>(o.window, "parts");
    ASSERT_EQ(parts->rowCount(), 2);
    emit o.window.middle().canvas().clicked(Vec3(2.0, 0.0, 0.2));
    EXPECT_TRUE(find<QLabel>(o.window, "pickedParts")->text().contains(parts->item(1, 0)->text()));
    parts->selectAll();
    parts->item(1, 0)->setCheckState(Qt::Unchecked);
    for (const auto& p : o.window.document().settings().model.parts) EXPECT_FALSE(p.inTheAir) << p.name;
}

TEST(MessageLine, KeepsWhatWasSaid) {
    Opened o;
    emit o.window.document().problem("Something is amiss.");
    auto* line = o.window.findChild<desk::MessageLine*>();
    ASSERT_NE(line, nullptr);
    ASSERT_GE(line->history().size(), 2);
    EXPECT_TRUE(line->history().last().contains("Something is amiss."));
    line->showHistory();
    auto* list = o.window.findChild<QPlainTextEdit*>("messageHistory");
    ASSERT_NE(list, nullptr);
    EXPECT_TRUE(list->toPlainText().contains("amiss"));
    list->window()->close();
}

TEST(Afterflight, LeadsToThePlaceThatItNames) {
    Opened o;
    emit o.window.document().placeWanted(Vec3(0.5, 0.1, 0.0));
    EXPECT_EQ(o.window.stageAt(o.window.stage()).title(), "Flow");
    EXPECT_LT((o.window.middle().canvas().camera().focus - Vec3(0.5, 0.1, 0.0)).norm(), 1e-9);
    emit o.window.document().stageWanted("Tunnel");
    EXPECT_EQ(o.window.stageAt(o.window.stage()).title(), "Tunnel");
}
