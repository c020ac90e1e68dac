// The window. crisp-vane [CAMPAIGN or SURFACE] [--stage NAME] [--run-next]
#include <QApplication>
#include <QCommandLineParser>
#include <QTimer>
#include <iostream>

#include "desk/canvas.h"
#include "desk/look.h"
#include "desk/window.h"

int main(int argc, char** argv) {
    cvane::desk::Canvas::chooseFormat();
    QApplication app(argc, argv);
    app.setApplicationName("Crisp Vane");
    app.setApplicationVersion("0.1.0");
    app.setDesktopFileName("crisp-vane");
    app.setWindowIcon(QIcon(":/crisp-vane.svg"));
    cvane::desk::applyLook(app);
    QCommandLineParser parser;
    parser.setApplicationDescription("A virtual wind tunnel: from a surface file to coefficients and pressures.");
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument("what", "campaign folder to open, or a surface file to make one from");
    const QCommandLineOption stage("stage", "stage to show first, by its name on the left", "name"),
        run("run-next", "run the points that are not done");
    parser.addOptions({stage, run});
    parser.process(app);
    cvane::desk::Window window;
    window.restorePlace();
    window.show();
    if (!parser.positionalArguments().isEmpty()) {
        window.bring(parser.positionalArguments().first());
        if (parser.isSet(run)) window.queue().addAllOpen();
    }
    if (parser.isSet(stage) && !window.goTo(parser.value(stage))) {
        std::cerr << "--stage takes the name of a stage, such as Sections or Balance.\n";
        return 2;
    }
    return app.exec();
}
