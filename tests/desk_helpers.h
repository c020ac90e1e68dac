#pragma once
#include <gtest/gtest.h>

#include <QApplication>
#include <QDoubleSpinBox>
#include <QLineEdit>
#include <QtTest>
#include <functional>

#include "bench/models.h"
#include "desk/window.h"
#include "folder.h"
#include "shape/stl_export.h"
#include "timed_application.h"

namespace cvane::test {

/// The widget of this name; the test fails where there is none.
template <class T>
T* find(QWidget& w, const char* name) {
    auto* t = w.findChild<T*>(name);
    EXPECT_NE(t, nullptr) << name;
    return t;
}

/// Types into a field as a user does, and leaves it.
inline void type(QDoubleSpinBox* box, const QString& text) {
    box->setFocus();
    box->selectAll();
    QTest::keyClicks(box, text);
    QTest::keyClick(box, Qt::Key_Tab);
}

/// The same in the line of the wind, which is told to change the selected point.
inline void typeWind(QDoubleSpinBox* box, const QString& text) {
    box->setFocus();
    box->selectAll();
    QTest::keyClicks(box, text);
    QTest::keyClick(box, Qt::Key_Return, Qt::ShiftModifier);
}

inline void typeLine(QLineEdit* line, const QString& text) {
    line->setFocus();
    line->selectAll();
    QTest::keyClicks(line, text);
    QTest::keyClick(line, Qt::Key_Return);
}

/// @param milliseconds  for a machine that has nothing else to do; a busy one gets four times as long
inline bool waitUntil(const std::function<bool()>& done, int milliseconds) {
    return QTest::qWaitFor(done, 4 * milliseconds);
}

/// A window on a new campaign around a ball of 1 m diameter.
struct Opened {
    test::Folder folder;
    desk::Window window;
    Opened() : Opened(bench::sphere(0.5, 40)) {}
    explicit Opened(const shape::Surface& model) {
        shape::writeStl(model, folder / "ball.stl", 1.0);
        window.show();
        // Without a window manager nobody else makes the window active, and shortcuts go to the active one.
        QApplication::setActiveWindow(&window);
        window.document().create(QString::fromStdString((folder / "ball.cvane").string()),
                                 QString::fromStdString((folder / "ball.stl").string()), "m");
        EXPECT_TRUE(waitUntil([&] { return window.document().modelReady(); }, 10000));
    }
};

}  // namespace cvane::test
