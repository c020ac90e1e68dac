#include "desk/stages/balance_stage.h"

#include <QApplication>
#include <QClipboard>
#include <QHeaderView>
#include <QPushButton>

#include "base/errors.h"
#include "base/units.h"
#include "desk/note_room.h"
#include "desk/table_text.h"
#include "readout/slopes.h"

namespace cvane::desk {

BalanceStage::BalanceStage(Document& d, Middle& m) : Stage(d, m), walls_(d), quick_(d) {
    makeSheet();
    words_ = note();
    words_->setObjectName("balanceWords");
    column_->addWidget(roomFor(words_, 8));
    findings_ = new FindingsNote(d, {});
    findings_->setObjectName("balanceFindings");
    column_->addWidget(roomFor(findings_, 5));
    table_ = new QTableWidget;
    table_->setObjectName("balanceTable");
    table_->setAccessibleName(tr("Balance of the selected point"));
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->verticalHeader()->hide();
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    table_->verticalHeader()->setDefaultSectionSize(table_->fontMetrics().height() + 8);
    fitRows(*table_, 10);
    column_->addWidget(table_);
    auto* copy = new QPushButton(tr("Copy for a spreadsheet"));
    column_->addWidget(copy);
    auto* more = section(tr("Slopes and neutral point"));
    slopes_ = new QTableWidget(0, 4);
    slopes_->setObjectName("slopesTable");
    slopes_->setAccessibleName(tr("Slopes over alpha at the selected point's speed"));
    slopes_->setHorizontalHeaderLabels({tr("derivative"), tr("value"), "\u00b1", tr("unit")});
    slopes_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    slopes_->verticalHeader()->hide();
    slopes_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    slopes_->verticalHeader()->setDefaultSectionSize(slopes_->fontMetrics().height() + 8);
    fitRows(*slopes_, 8);
    more->addRow(slopes_);
    slopeWords_ = note();
    slopeWords_->setObjectName("slopeWords");
    more->addRow(roomFor(slopeWords_, 3));
    auto* copySlopes = new QPushButton(tr("Copy the slopes"));
    more->addRow(copySlopes);
    connect(copySlopes, &QPushButton::clicked, this,
            [this] { QApplication::clipboard()->setText(tableText(*slopes_)); });
    auto* plots = section(tr("Plot"));
    plot_ = new QComboBox;
    plot_->setObjectName("balancePlot");
    plot_->setAccessibleName(tr("Plot"));
    plot_->addItems({tr("polars"), tr("span loading")});
    plots->addRow(plot_);
    spanWords_ = note();
    spanWords_->setObjectName("spanWords");
    plots->addRow(roomFor(spanWords_, 3));
    connect(plot_, &QComboBox::activated, this, [this] {
        spanWords_->clear();
        show();
    });
    document_.when(Change::Campaign | Change::Settings | Change::Model, this, [this] {
        if (current_) quick_.wanted();
    });
    connect(&quick_, &QuickCurve::moved, this, [this] {
        if (current_ && plot_->currentIndex() == 0) plotPolars();
    });
    connect(&walls_, &FieldLoader::changed, this, [this] {
        if (current_) show();
    });
    connect(copy, &QPushButton::clicked, this, [this] { QApplication::clipboard()->setText(tableText(*table_)); });
    const auto refresh = [this] {
        fill();
        fillSlopes();
        if (current_) show();
    };
    document_.when(Change::Values, this, refresh);
    document_.when(Change::Selection, this, refresh);
}

void BalanceStage::fill() {
    const auto* r = document_.selectedReport();
    findings_->showAfterflight();
    if (!r || !r->result) {
        table_->setRowCount(0);
        words_->setText(tr("The selected point has no result yet. Run it from the point board."));
        return;
    }
    const auto& x = *r->result;
    const auto& f = x.readings();
    const auto unit = base::unitNamed(base::forceUnits(), document_.settings().units.force);
    const QString u = QString::fromUtf8(unit.symbol.data());
    if (r->point.method != campaign::Method::Field)
        words_->setText(
            tr("%1 on %L2 panels. Drag is %3 % induced. The \u00b1 is what two measures of lift and of induced drag "
               "differ by, near the surface and far behind.")
                .arg(QString(campaign::nameOf(r->point.method).shown))
                .arg(x.cells)
                .arg(100.0 * x.pressureShareOfDrag, 0, 'f', 1));
    else
        words_->setText(
            tr("%1%2 after %3 iterations on %L4 cells. Drag is %5 % pressure. y+ %6 to %7, median %8.%9 %10")
                .arg(x.provisional() ? tr("~ provisional (%1)").arg(QString::fromStdString(campaign::nameOf(r->state)))
                                     : QString::fromStdString(flow::nameOf(x.verdict)),
                     r->state == campaign::PointState::OutOfDate ? tr(", but out of date,") : "")
                .arg(x.iterations)
                .arg(x.cells)
                .arg(100.0 * x.pressureShareOfDrag, 0, 'f', 1)
                .arg(f.yPlusLow, 0, 'g', 2)
                .arg(f.yPlusHigh, 0, 'g', 3)
                .arg(f.yPlusMedian, 0, 'g', 3)
                .arg(x.halfModel ? tr(" All values are those of the whole, mirrored model.") : "")
                .arg(x.gridsOfBand() > 0
                         ? tr("The \u00b1 is how far a value may lie from that of many more iterations and "
                              "cells: what is still to go, and what %1 grids say of the cells%2.")
                               .arg(x.gridsOfBand())
                               .arg(ofDrag(x))
                         : tr("The \u00b1 is how far a value may still move with more iterations; what a finer "
                              "grid would change is not in it, for lack of a coarser one to compare with.")));
    QString more;
    for (const auto& d : f.discs)
        more += tr("\n%1: %2 %3 of thrust at %4 m/s inflow takes %5 W; momentum theory %6 W.")
                    .arg(QString::fromStdString(d.name))
                    .arg(d.thrust / unit.inSI, 0, 'g', 4)
                    .arg(u)
                    .arg(d.inflow, 0, 'g', 4)
                    .arg(d.power, 0, 'g', 4)
                    .arg(d.theoryPower, 0, 'g', 4);
    for (const auto& b : f.blocks)
        more += tr("\n%1: %2 kg/s through it, pressure drop %3 Pa.")
                    .arg(QString::fromStdString(b.name))
                    .arg(b.massFlow, 0, 'g', 4)
                    .arg(b.pressureDrop, 0, 'g', 4);
    if (f.forceFromOutside)
        more += tr("\nThe far-field momentum balance gives CD %1, %2 % from the balance.")
                    .arg(x.total.coefficients.CD + x.outsideCD(), 0, 'f', 5)
                    .arg(100.0 * x.outsideCD() / std::max(std::abs(x.total.coefficients.CD), 1e-12), 0, 'g', 2);
    if (f.groundDisplacement)
        more += tr("\nThe ground's boundary layer displaces the air by %1 m where the model begins.")
                    .arg(*f.groundDisplacement, 0, 'g', 2);
    if (const auto remark = readout::remarkOf(x); !remark.empty()) more += "\n" + QString::fromStdString(remark);
    words_->setText(words_->text() + more);
    fillTable(x);
}

// What the grids say of drag in particular.
QString BalanceStage::ofDrag(const readout::Result& x) {
    QString out;
    if (const auto order = x.orderOfDrag()) out += tr(", drag with order %1").arg(*order, 0, 'f', 1);
    if (const auto parts = x.gridBandOfDrag())
        out += tr(", CD of pressure to \u00b1%1 and of friction to \u00b1%2")
                   .arg(parts->pressure, 0, 'g', 2)
                   .arg(parts->friction, 0, 'g', 2);
    return out;
}

// Quantities down, the whole model and its parts across: what counts most stands at the left, where nothing is cut.
void BalanceStage::fillTable(const readout::Result& x) {
    const auto unit = base::unitNamed(base::forceUnits(), document_.settings().units.force);
    const QString u = QString::fromUtf8(unit.symbol.data());
    const QStringList quantities{"CL",
                                 "CD",
                                 "CY",
                                 "Cl",
                                 "Cm",
                                 "Cn",
                                 tr("drag %1").arg(u),
                                 tr("lift %1").arg(u),
                                 tr("side %1").arg(u),
                                 tr("friction drag %1").arg(u)};
    table_->clear();
    table_->setRowCount(static_cast<int>(quantities.size()));
    table_->setColumnCount(1);
    QStringList heads{tr("quantity")};
    const auto put = [&](int row, const QString& text) {
        auto* item = new QTableWidgetItem(text);
        const int column = table_->columnCount() - 1;
        if (column > 0) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        table_->setItem(row, column, item);
    };
    for (int row = 0; row < table_->rowCount(); ++row) put(row, quantities[row]);
    const auto column = [&](const QString& head, const air::Coefficients& c) {
        heads << head;
        table_->setColumnCount(table_->columnCount() + 1);
        int row = 0;
        for (const double v : {c.CL, c.CD, c.CY, c.Cl, c.Cm, c.Cn}) put(row++, QString::number(v, 'f', 5));
    };
    const auto forces = [&](const Vec3& F, const Vec3& friction) {
        int row = 6;
        for (const double v : {F.dot(x.wind.dragAxis()), F.dot(x.wind.liftAxis()), F.dot(x.wind.sideAxis()),
                               friction.dot(x.wind.dragAxis())})
            put(row++, QString::number(v / unit.inSI, 'g', 5));
    };
    column(tr("whole"), x.coefficients);
    forces(x.total.force(), x.total.frictionForce);
    column("\u00b1", x.trust());
    if (x.coarse) column(tr("on %L1 cells").arg(x.coarse->cells), x.coarse->coefficients);
    for (const auto& part : x.parts) {
        column(QString::fromStdString(part.name), part.coefficients);
        forces(part.force(), part.frictionForce);
    }
    table_->setHorizontalHeaderLabels(heads);
    fitRows(*table_, 10);
}

QString BalanceStage::keyFigure() const {
    const auto* r = document_.selectedReport();
    return r && r->result ? QString("CD %1  CL %2")
                                .arg(r->result->coefficients.CD, 0, 'f', 4)
                                .arg(r->result->coefficients.CL, 0, 'f', 3)
                          : tr("no result yet");
}

Stage::State BalanceStage::state() const {
    return stateOfResult();
}

// The points of the selected one's build, speed and sideslip that have results: its polar over alpha.
std::vector<readout::Result> BalanceStage::polar() const {
    std::vector<readout::Result> out;
    const auto* chosen = document_.selectedReport();
    if (!chosen) return out;
    for (const auto& r : document_.reports()) {
        const auto &p = r.point, &s = chosen->point;
        if (r.result && r.state != campaign::PointState::OutOfDate && p.configuration == s.configuration &&
            p.setUp == s.setUp && p.method == s.method && p.condition.speed == s.condition.speed &&
            p.condition.beta_deg == s.condition.beta_deg)
            out.push_back(*r.result);
    }
    return out;
}

void BalanceStage::fillSlopes() {
    slopes_->setRowCount(0);
    const auto results = polar();
    if (results.size() < 2) {
        slopeWords_->setText(tr("Two or more angles of attack at this speed make slopes and a neutral point."));
        return;
    }
    try {
        const auto found = readout::slopesOf(results, true);
        for (const auto& d : found.values) {
            if (d.id == "CY_alpha" || d.id == "Cl_alpha" || d.id == "Cn_alpha") continue;
            const int row = slopes_->rowCount();
            slopes_->insertRow(row);
            int column = 0;
            for (const auto& text : {QString::fromStdString(d.name), QString::number(d.value, 'g', 4),
                                     QString::number(d.error, 'g', 2), QString::fromStdString(d.unit)})
                slopes_->setItem(row, column++, new QTableWidgetItem(text));
        }
        QStringList without;
        for (const auto& [at, why] : found.leftOut)
            without << tr("%1\u00b0 (%2)")
                           .arg(results[at].wind.alpha / base::degree, 0, 'g', 4)
                           .arg(QString::fromStdString(why));
        slopeWords_->setText(tr("Through %1 points, %2\u00b0 to %3\u00b0%4.")
                                 .arg(found.used.size())
                                 .arg(results[found.used.front()].wind.alpha / base::degree, 0, 'g', 4)
                                 .arg(results[found.used.back()].wind.alpha / base::degree, 0, 'g', 4)
                                 .arg(without.isEmpty() ? QString() : tr("; left out: ") + without.join(", ")));
    } catch (const base::InputError& e) {
        slopeWords_->setText(e.what());
    }
}

}  // namespace cvane::desk
