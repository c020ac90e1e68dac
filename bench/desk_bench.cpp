// desk_bench [POINTS]: how long a change of the reference area takes until the window shows all points anew, with
// made-up results of a ball. Needs a display; under xvfb-run it draws in software.
#include <fmt/format.h>

#include <QApplication>
#include <QElapsedTimer>
#include <QTest>

#include "desk/canvas.h"
#include "desk/look.h"
#include "desk/start/user_settings.h"
#include "desk/window.h"
#include "tests/made_up_run.h"

using namespace cvane;

int main(int argc, char** argv) {
    const int points = argc > 1 ? std::atoi(argv[1]) : 200;
    desk::Canvas::chooseFormat();
    desk::UserSettings::turnOff();
    QApplication app(argc, argv);
    desk::applyLook(app);
    const test::Folder folder;
    auto c = test::ball(folder);
    c.settings.schedule.alphas_deg.clear();
    for (int i = 0; i < points; ++i) c.settings.schedule.alphas_deg.push_back(0.1 * i);
    c.save();
    for (const auto& p : campaign::pointsOf(c.settings)) test::finished(c, p, 0.4 + 0.001 * p.condition.alpha_deg);

    desk::Window window;
    window.show();
    window.document().open(QString::fromStdString(c.folder().string()));
    const auto known = [&] { return window.document().modelReady() && window.document().reportsKnown(); };
    if (!QTest::qWaitFor(known, 60000)) return 1;
    for (const char* stage : {"Balance", "Compare", "Pressures"}) {
        window.goTo(QString(stage));
        QTest::qWait(500);
        for (const double area : {1.0, 2.0, 3.0}) {
            auto s = window.document().settings();
            s.reference.areaFrom = campaign::AreaFrom::Typed;
            s.reference.typedArea = area;
            QElapsedTimer timer;
            timer.start();
            window.document().change("bench", s);
            const bool told = QTest::qWaitFor(
                [&] {
                    const auto& r = window.document().reports().back();
                    return window.document().reportsKnown() && r.result && r.result->reference.area == area;
                },
                20000);
            QCoreApplication::sendPostedEvents();
            QCoreApplication::processEvents();
            fmt::print("{}: area {} with {} points: {} ms{}\n", stage, area, points, timer.elapsed(),
                       told ? "" : ", NOT SHOWN");
        }
    }
    return 0;
}
