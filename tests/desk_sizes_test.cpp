// The window at the sizes that people have: nothing is cut, nothing moves.
#include <gtest/gtest.h>

#include <QAbstractButton>
#include <QApplication>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QScrollArea>
#include <QScrollBar>
#include <QTest>
#include <map>

#include "campaign/settings/set_field.h"
#include "desk_helpers.h"

using namespace cvane;
using test::Opened;
using test::waitUntil;

namespace {
QString nameOf(const QWidget* w) {
    const auto* label = qobject_cast<const QLabel*>(w);
    const auto* button = qobject_cast<const QAbstractButton*>(w);
    return QString("%1 \"%2\" %3")
        .arg(w->metaObject()->className(),
             label    ? label->text()
             : button ? button->text()
                      : "",
             w->objectName());
}

// Words that are wider or higher than the place that they have.
QStringList cutIn(const QWidget* sheet) {
    QStringList out;
    for (const auto* w : sheet->findChildren<QWidget*>()) {
        if (!w->isVisible()) continue;
        const QSize needs = w->minimumSizeHint();
        if (const auto* label = qobject_cast<const QLabel*>(w)) {
            const int height = label->wordWrap() ? label->heightForWidth(label->width()) : label->sizeHint().height();
            if ((!label->wordWrap() && label->sizeHint().width() > label->width()) || height > label->height() + 1)
                out << nameOf(w) + QString(" %1x%2").arg(w->width()).arg(w->height());
        } else if (qobject_cast<const QAbstractButton*>(w)) {
            if (needs.width() > w->width() || needs.height() > w->height()) out << nameOf(w);
        }
        // What stands beyond the sheet's edge cannot be read at all: sheets scroll up and down only.
        if (const int right = w->mapTo(sheet, QPoint(w->width(), 0)).x();
            w->parentWidget() == sheet && right > sheet->width() + 1)
            out << nameOf(w) + " beyond the edge";
    }
    return out;
}

// Where what can be typed or pressed stands in the window.
std::map<QString, QRect> placesIn(const desk::Window& window, const QWidget* sheet) {
    std::map<QString, QRect> out;
    for (const auto* w : sheet->findChildren<QWidget*>()) {
        const bool field = qobject_cast<const QLineEdit*>(w) || qobject_cast<const QComboBox*>(w) ||
                           qobject_cast<const QAbstractButton*>(w);
        if (field && w->isVisible() && !w->objectName().startsWith("qt_"))
            out[nameOf(w)] = QRect(w->mapTo(&window, QPoint()), w->size());
    }
    return out;
}
}  // namespace

TEST(Window, MovesNoFieldWhileWorkBeginsGoesOnAndEnds) {
    Opened on;
    auto s = on.window.document().settings();
    for (const char* setting : {"grid.cell_budget=8000", "flow.model=laminar", "flow.most_iterations=30",
                                "flow.least_iterations=1", "schedule.speeds_m_s=0.0015", "grid.layers=2"})
        campaign::setField(s, setting);
    on.window.document().change("make it small", s);
    for (const char* title : {"Grid", "Run"}) {
        ASSERT_TRUE(on.window.goTo(QString(title)));
        QTest::qWait(300);
        auto& stage = on.window.stageAt(on.window.stage());
        const auto before = placesIn(on.window, stage.sheet());
        ASSERT_GT(before.size(), 3u);
        const auto moved = [&] {
            QStringList out;
            for (const auto& [name, place] : placesIn(on.window, stage.sheet()))
                if (const auto it = before.find(name); it != before.end() && it->second != place) out << name;
            return out;
        };
        const auto stay = [&](const char* when) {
            if (moved().isEmpty()) return;
            // A layout that is on its way comes to its end before anything is drawn.
            QCoreApplication::sendPostedEvents();
            const auto names = moved();
            EXPECT_TRUE(names.isEmpty()) << title << ", " << when << ": " << names.join("; ").toStdString();
        };
        if (stage.title() == "Grid")
            on.window.document().makeGrid();
        else
            on.window.queue().addAllOpen();
        for (int i = 0; i < 20; ++i) {
            QTest::qWait(50);
            stay("at work");
        }
        ASSERT_TRUE(waitUntil([&] { return !on.window.document().gridRunning() && !on.window.queue().busy(); }, 60000));
        QTest::qWait(300);
        stay("at the end");
        emit on.window.document().problem("A sentence that says what is wrong, where it is, and what is to be done.");
        QTest::qWait(50);
        stay("after an error");
    }
}

TEST(Window, CutsNoWordsAtAnyUsualSize) {
    Opened on;
    for (const QSize size : {QSize(900, 600), QSize(1280, 800), QSize(1920, 1080)}) {
        on.window.resize(size);
        QTest::qWait(50);
        EXPECT_EQ(on.window.size(), size);
        for (int i = 0; i < on.window.stages(); ++i) {
            on.window.goTo(i);
            QTest::qWait(30);
            auto& stage = on.window.stageAt(i);
            const auto cut = cutIn(stage.sheet());
            EXPECT_TRUE(cut.isEmpty()) << stage.title().toStdString() << " at " << size.width() << ": "
                                       << cut.join("; ").toStdString();
            // Nothing of the sheet lies beyond its right edge.
            for (auto* above = stage.sheet()->parentWidget(); above; above = above->parentWidget())
                if (auto* area = qobject_cast<QScrollArea*>(above)) {
                    EXPECT_EQ(area->horizontalScrollBar()->maximum(), 0)
                        << stage.title().toStdString() << " at " << size.width();
                    break;
                }
        }
    }
}
