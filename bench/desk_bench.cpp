// desk_bench CAMPAIGN SECONDS: the longest that one event holds the window's thread on a campaign whose points run
// meanwhile, for so long on each of the stages Run, Balance, Flow and Model, in that thread's processor time.
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
#include "tests/timed_application.h"

using namespace cvane;

namespace {
int watch(test::TimedApplication& app, const char* campaign, int seconds) {
    desk::Window window;
    window.resize(1280, 800);
    window.show();
    window.document().open(campaign);
    const auto known = [&] { return window.document().modelReady() && window.document().reportsKnown(); };
    if (!QTest::qWaitFor(known, 60000)) return 1;
    for (const char* stage : {"Run", "Balance", "Flow", "Model"}) {
        app.longest = 0.0;
        window.goTo(QString(stage));
        QTest::qWait(1000 * seconds);
        const auto& reports = window.document().reports();
        fmt::print("{}: {:.1f} ms at most, by an event of kind {}; the point is {}\n", stage, 1e3 * app.longest,
                   static_cast<int>(app.what), reports.empty() ? "none" : reports[0].stateWords());
    }
    return 0;
}
}  // namespace

int main(int argc, char** argv) {
    const int points = argc > 1 ? std::atoi(argv[1]) : 200;
    desk::Canvas::chooseFormat();
    desk::UserSettings::turnOff();
    test::TimedApplication app(argc, argv);
    desk::applyLook(app);
    if (argc > 2) return watch(app, argv[1], std::atoi(argv[2]));
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
