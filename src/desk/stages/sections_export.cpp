// What leaves the stage Sections as files or by the clipboard, and published data that come in.
#include <QApplication>
#include <QClipboard>
#include <QFileDialog>
#include <QSvgGenerator>

#include "base/errors.h"
#include "base/files.h"
#include "base/units.h"
#include "desk/stages/sections_stage.h"
#include "report/workbook.h"
#include "section/outline/coordinates.h"
#include "section/polar/table.h"

namespace cvane::desk {

void SectionsStage::writeOut() {
    const auto* e = chosen();
    if (!e) return;
    const QString file = QFileDialog::getSaveFileName(
        sheet_, tr("Save the outline"), QString::fromStdString(e->name) + ".dat",
        tr("One loop from the trailing edge (*.dat);;Upper and lower list from the nose (*.txt)"));
    if (file.isEmpty()) return;
    try {
        base::exportFile(file.toStdString(),
                         section::writeCoordinates(
                             campaign::outlineOf(document_.campaign(), *e),
                             file.endsWith(".txt") ? section::PointOrder::TwoLists : section::PointOrder::Loop));
    } catch (const std::exception& problem) {
        emit document_.problem(problem.what());
    }
}

std::string SectionsStage::tableText() const {
    std::string out = campaign::polarTableHead();
    for (const auto& c : work_.curves())
        for (const auto& p : c.points)
            out += campaign::polarTableRow(c.asked.section, c.field, c.asked.flapTurn_deg, p.figures);
    return out;
}

void SectionsStage::copyTable() {
    QApplication::clipboard()->setText(QString::fromStdString(report::tabbed(report::cellsOf(tableText(), 2))));
}

void SectionsStage::exportTable() {
    const QString file = QFileDialog::getSaveFileName(sheet_, tr("Save all points"), "polars.xlsx",
                                                      tr("Workbooks (*.xlsx);;Tables (*.csv)"));
    if (!file.isEmpty()) saveTable(file);
}

void SectionsStage::saveTable(const QString& file) {
    try {
        if (file.endsWith(".xlsx"))
            report::writeWorkbook(file.toStdString(), {{"Polars", report::cellsOf(tableText(), 2)}});
        else
            base::exportFile(file.toStdString(), tableText());
    } catch (const std::exception& problem) {
        emit document_.problem(problem.what());
    }
}

void SectionsStage::exportPlots() {
    const QString file = QFileDialog::getSaveFileName(sheet_, tr("Save the plots"), "polars.pdf",
                                                      tr("Drawings (*.pdf);;Vector drawings (*.svg)"));
    if (!file.isEmpty()) savePlots(file);
}

void SectionsStage::savePlots(const QString& file) {
    const auto svg = [](Plot& plot, const QString& name) {
        QSvgGenerator paper;
        paper.setFileName(name);
        paper.setSize(plot.size());
        paper.setViewBox(plot.rect());
        QCPPainter painter;
        if (!painter.begin(&paper)) return false;
        painter.setMode(QCPPainter::pmVectorized);
        plot.toPainter(&painter, plot.width(), plot.height());
        return painter.end();
    };
    const bool drawing = file.endsWith(".svg");
    const QString end = drawing ? ".svg" : ".pdf", stem = file.endsWith(end) ? file.chopped(4) : file;
    // A sheet of its own needs its names on it.
    for (Plot* p : {left_, right_}) p->legend->setVisible(p->plottableCount() > 1);
    const auto save = [&](Plot& plot, const QString& name) { return drawing ? svg(plot, name) : plot.savePdf(name); };
    const bool left = save(*left_, stem + end), right = save(*right_, stem + "-right" + end);
    for (Plot* p : {left_, right_}) p->legend->setVisible(false);
    if (!left || !right) emit document_.problem(tr("%1 cannot be written. Choose another place.").arg(file));
}

void SectionsStage::addReference() {
    const QString file =
        QFileDialog::getOpenFileName(sheet_, tr("Published data"), {}, tr("Tables (*.csv *.txt *.dat)"));
    if (file.isEmpty()) return;
    try {
        Reference r{QFileInfo(file).completeBaseName(), {}, {}};
        for (const QString& line : QString::fromStdString(base::readFile(file.toStdString())).split('\n')) {
            const auto words = QString(line).replace(',', ' ').replace(';', ' ').simplified().split(' ');
            bool okX = false, okY = false;
            if (words.size() < 2) continue;
            const double x = words[0].toDouble(&okX), y = words[1].toDouble(&okY);
            if (okX && okY) r.x.push_back(x), r.y.push_back(y);
        }
        if (r.x.empty())
            throw base::InputError("holds no rows of two numbers.", QFileInfo(file).fileName().toStdString(),
                                   "Give x and y in the axes of the left plot.");
        references_.push_back(r);
        plotPolars();
    } catch (const std::exception& problem) {
        emit document_.problem(problem.what());
    }
}

}  // namespace cvane::desk
