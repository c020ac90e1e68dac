// What leaves the stage Sections as files or by the clipboard, and published data that come in.
#include <QApplication>
#include <QClipboard>
#include <QFileDialog>

#include "base/errors.h"
#include "base/files.h"
#include "base/units.h"
#include "campaign/store/outside_data.h"
#include "desk/plot_menu.h"
#include "desk/save_file.h"
#include "desk/stages/sections_stage.h"
#include "report/workbook.h"
#include "section/outline/coordinates.h"
#include "section/polar/table.h"

namespace cvane::desk {

void SectionsStage::writeOut() {
    const auto* e = chosen();
    if (!e) return;
    const QString file =
        askWhereToSave(sheet_, tr("Save the outline"), QString::fromStdString(e->name) + ".dat",
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

std::vector<campaign::PolarRows> SectionsStage::polarRows() const {
    std::vector<campaign::PolarRows> out;
    for (const auto& c : work_.curves()) out.push_back({&c.asked, c.field, c.points});
    return out;
}

std::string SectionsStage::tableText() const {
    return campaign::polarTable(document_.campaign(), polarRows()).csv;
}

void SectionsStage::copyTable() {
    QApplication::clipboard()->setText(QString::fromStdString(report::tabbed(report::cellsOf(tableText(), 2))));
}

void SectionsStage::exportTable() {
    const QString file =
        askWhereToSave(sheet_, tr("Save all points"), "polars.xlsx", tr("Workbooks (*.xlsx);;Tables (*.csv)"));
    if (!file.isEmpty()) saveTable(file);
}

void SectionsStage::saveTable(const QString& file) {
    try {
        if (!file.endsWith(".xlsx")) {
            base::exportFile(file.toStdString(), tableText());
            return;
        }
        const auto rows = polarRows();
        const auto& c = document_.campaign();
        std::vector<campaign::NamedTable> tables{campaign::polarTable(c, rows), campaign::polarFiguresTable(c, rows)};
        const auto& view = work_.view();
        if (view.trouble.isEmpty() && !view.distribution.upper.empty())
            tables.push_back(campaign::pressureTable(view.figures, view.distribution));
        tables.push_back(campaign::columnsExplained());
        std::vector<report::Sheet> sheets;
        for (const auto& t : tables) sheets.push_back({t.name, report::cellsOf(t.csv, t.wordColumns)});
        report::writeWorkbook(file.toStdString(), sheets);
    } catch (const std::exception& problem) {
        emit document_.problem(problem.what());
    }
}

void SectionsStage::exportPlots() {
    const QString file =
        askWhereToSave(sheet_, tr("Save the plots"), "polars.pdf", tr("Drawings (*.pdf);;Vector drawings (*.svg)"));
    if (!file.isEmpty()) savePlots(file);
}

void SectionsStage::savePlots(const QString& file) {
    const QString end = file.endsWith(".svg") ? ".svg" : ".pdf", stem = file.endsWith(end) ? file.chopped(4) : file;
    // A sheet of its own needs its names on it.
    for (Plot* p : {left_, right_}) p->showLegend(p->names().size() > 1);
    const bool left = savePlot(*left_, stem + end), right = savePlot(*right_, stem + "-right" + end);
    for (Plot* p : {left_, right_}) p->showLegend(false);
    if (!left || !right) emit document_.problem(tr("%1 cannot be written. Choose another place.").arg(file));
}

void SectionsStage::addReference() {
    const QString file =
        QFileDialog::getOpenFileName(sheet_, tr("Published data"), {}, tr("Tables (*.csv *.txt *.dat)"));
    if (file.isEmpty()) return;
    try {
        const auto data = campaign::readOutsideData(file.toStdString());
        const Reference r{QString::fromStdString(data.name), data.columns[0].values, data.columns[1].values};
        references_.push_back(r);
        plotPolars();
    } catch (const std::exception& problem) {
        emit document_.problem(problem.what());
    }
}

}  // namespace cvane::desk
