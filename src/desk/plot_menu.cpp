// What can be done with any plot: saved, copied, given axes by hand.
#include "desk/plot_menu.h"

#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QDialog>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QLineEdit>
#include <QMenu>
#include <QSvgGenerator>

#include "desk/message_line.h"
#include "desk/plot.h"
#include "desk/save_file.h"
#include "desk/stages/typed_values.h"
#include "desk/start/user_settings.h"

namespace cvane::desk {
namespace {
bool saveSvg(Plot& plot, const QString& file) {
    QSvgGenerator paper;
    paper.setFileName(file);
    paper.setSize(plot.size());
    paper.setViewBox(plot.rect());
    QCPPainter painter;
    if (!painter.begin(&paper)) return false;
    painter.setMode(QCPPainter::pmVectorized);
    plot.toPainter(&painter, plot.width(), plot.height());
    return painter.end();
}

constexpr double kPictureScale = 2.0;
}  // namespace

bool savePlot(Plot& plot, const QString& file) {
    if (file.endsWith(".svg")) return saveSvg(plot, file);
    if (file.endsWith(".png")) return plot.savePng(file, 0, 0, kPictureScale);
    return plot.savePdf(file);
}

QString tableOf(Plot& plot) {
    QString out;
    for (int k = 0; k < plot.plottableCount(); ++k) {
        const auto* curve = qobject_cast<const QCPCurve*>(plot.plottable(k));
        if (!curve || curve->data()->isEmpty() || curve->name().isEmpty()) continue;
        // The bars of its bands.
        const QCPErrorBars *ofY = nullptr, *ofX = nullptr;
        for (int j = 0; j < plot.plottableCount(); ++j)
            if (const auto* bars = qobject_cast<const QCPErrorBars*>(plot.plottable(j));
                bars && bars->dataPlottable() == curve)
                (bars->errorType() == QCPErrorBars::etValueError ? ofY : ofX) = bars;
        if (!out.isEmpty()) out += "\n";
        out += curve->name() + "\n" + plot.xAxis->label() + "\t" + plot.yAxis->label();
        if (ofY) out += "\t\u00b1";
        if (ofX) out += QString("\t\u00b1 ") + plot.xAxis->label();
        out += "\n";
        int row = 0;
        for (const auto& d : *curve->data()) {
            out += QString::number(d.key, 'g', 10) + "\t" + QString::number(d.value, 'g', 10);
            for (const auto* bars : {ofY, ofX})
                if (bars && row < bars->data()->size())
                    out += "\t" + QString::number((*bars->data())[row].errorPlus, 'g', 6);
            out += "\n";
            ++row;
        }
    }
    return out;
}

void Plot::contextMenuEvent(QContextMenuEvent* e) {
    auto* line = window()->findChild<MessageLine*>();
    const auto say = [line](const QString& text) {
        if (line) line->say(text);
    };
    QMenu menu;
    menu.addAction(tr("Save as a drawing or picture\u2026"), this, [this, line, say] {
        const QString file = askWhereToSave(this, tr("Save the plot"), UserSettings::folder() + "/plot.pdf",
                                            tr("PDF (*.pdf);;Drawing (*.svg);;Picture (*.png)"));
        if (file.isEmpty()) return;
        UserSettings::noteFolder(file);
        if (savePlot(*this, file))
            say(tr("The plot is %1.").arg(file));
        else if (line)
            line->warn(tr("%1 cannot be written. Choose another place.").arg(file));
    });
    menu.addAction(tr("Copy as a picture"), this, [this, say] {
        QApplication::clipboard()->setPixmap(toPixmap(0, 0, kPictureScale));
        say(tr("The plot is on the clipboard."));
    });
    menu.addAction(tr("Copy its numbers for a spreadsheet"), this, [this, say] {
        QApplication::clipboard()->setText(tableOf(*this));
        say(tr("The numbers of the curves are on the clipboard."));
    });
    menu.addSeparator();
    menu.addAction(tr("Axes by hand\u2026"), this, &Plot::askForAxes);
    menu.addAction(tr("Show all (double click)"), this, &Plot::showAll);
    menu.exec(e->globalPos());
}

void Plot::askForAxes() {
    QDialog ask(this);
    ask.setWindowTitle(tr("Axes by hand"));
    auto* form = new QFormLayout(&ask);
    const auto field = [&](const QString& words, const char* name, double value) {
        auto* line = new QLineEdit(QString::number(value, 'g', 6));
        line->setObjectName(name);
        form->addRow(words, line);
        return line;
    };
    const QCPRange x = xAxis->range(), y = yAxis->range();
    QLineEdit* fields[] = {
        field(tr("%1 from").arg(xAxis->label()), "axisXFrom", x.lower), field(tr("to"), "axisXTo", x.upper),
        field(tr("%1 from").arg(yAxis->label()), "axisYFrom", y.lower), field(tr("to"), "axisYTo", y.upper)};
    auto* wrong = new QLabel;
    wrong->setProperty("role", "warn");
    form->addRow(wrong);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::rejected, &ask, &QDialog::reject);
    connect(buttons, &QDialogButtonBox::accepted, &ask, [&] {
        double v[4];
        bool good = true;
        for (int k = 0; k < 4; ++k) good = readNumber(fields[k]->text(), v[k]) && good;
        if (!good || !(v[1] > v[0]) || !(v[3] > v[2])) {
            wrong->setText(tr("Each axis needs two numbers, the smaller one first."));
            return;
        }
        setAxes({v[0], v[1]}, {v[2], v[3]});
        ask.accept();
    });
    ask.exec();
}

void Plot::setAxes(const QCPRange& x, const QCPRange& y) {
    byHand_ = true;
    xAxis->setRange(x);
    yAxis->setRange(y);
    redraw();
}

void Plot::showAll() {
    byHand_ = false;
    finish(yAxis->rangeReversed());
}

}  // namespace cvane::desk
