#include "desk/stages/balance_stage.h"

#include <QApplication>
#include <QClipboard>
#include <QHeaderView>
#include <QPushButton>
#include <cmath>
#include <map>

#include "base/units.h"
#include "desk/look.h"
#include "desk/table_text.h"

namespace cvane::desk {

BalanceStage::BalanceStage(Document& d, Middle& m) : Stage(d, m) {
    makeSheet();
    words_ = note();
    words_->setObjectName("balanceWords");
    column_->addWidget(words_);
    findings_ = new FindingsNote(d, {});
    findings_->setObjectName("balanceFindings");
    column_->addWidget(findings_);
    table_ = new QTableWidget;
    table_->setObjectName("balanceTable");
    table_->setAccessibleName(tr("Balance of the selected point"));
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->verticalHeader()->hide();
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    column_->addWidget(table_, 1);
    auto* copy = new QPushButton(tr("Copy for a spreadsheet"));
    column_->addWidget(copy);
    connect(copy, &QPushButton::clicked, this, [this] { QApplication::clipboard()->setText(tableText(*table_)); });
    const auto refresh = [this] {
        fill();
        if (current_) show();
    };
    document_.when(Change::Points, this, refresh);
    document_.when(Change::Selection, this, refresh);
}

void BalanceStage::fill() {
    const auto* r = document_.selectedReport();
    findings_->setVisible(r && r->result);
    findings_->showAfterflight();
    if (!r || !r->result) {
        table_->setRowCount(0);
        words_->setText(tr("The selected point has no result yet. Run it from the point board."));
        return;
    }
    const auto& x = *r->result;
    const auto unit = base::unitNamed(base::forceUnits(), document_.settings().units.force);
    const QString u = QString::fromUtf8(unit.symbol.data());
    words_->setText(tr("%1%2 after %3 iterations on %L4 cells. Drag is %5 % pressure. y+ %6 to %7, median %8.%9 %10")
                        .arg(x.provisional()
                                 ? tr("~ provisional (%1)").arg(QString::fromStdString(campaign::nameOf(r->state)))
                                 : QString::fromStdString(flow::nameOf(x.verdict)),
                             r->state == campaign::PointState::OutOfDate ? tr(", but out of date,") : "")
                        .arg(x.iterations)
                        .arg(x.cells)
                        .arg(100.0 * x.pressureShareOfDrag, 0, 'f', 1)
                        .arg(x.yPlusLow, 0, 'g', 2)
                        .arg(x.yPlusHigh, 0, 'g', 3)
                        .arg(x.yPlusMedian, 0, 'g', 3)
                        .arg(x.halfModel ? tr(" All values are those of the whole, mirrored model.") : "")
                        .arg(x.gridsOfBand() > 0
                                 ? tr("The \u00b1 is how far a value may lie from that of many more iterations and "
                                      "cells: what is still to go, and what %1 grids say of the cells%2.")
                                       .arg(x.gridsOfBand())
                                       .arg(ofDrag(x))
                                 : tr("The \u00b1 is how far a value may still move with more iterations; what a finer "
                                      "grid would change is not in it, for lack of a coarser one to compare with.")));
    QString more;
    for (const auto& d : x.discs)
        more += tr("\n%1: %2 %3 of thrust at %4 m/s inflow takes %5 W; momentum theory %6 W.")
                    .arg(QString::fromStdString(d.name))
                    .arg(d.thrust / unit.inSI, 0, 'g', 4)
                    .arg(u)
                    .arg(d.inflow, 0, 'g', 4)
                    .arg(d.power, 0, 'g', 4)
                    .arg(d.theoryPower, 0, 'g', 4);
    for (const auto& b : x.blocks)
        more += tr("\n%1: %2 kg/s through it, pressure drop %3 Pa.")
                    .arg(QString::fromStdString(b.name))
                    .arg(b.massFlow, 0, 'g', 4)
                    .arg(b.pressureDrop, 0, 'g', 4);
    if (x.forceFromOutside)
        more += tr("\nMomentum through the tunnel's sides gives CD %1, %2 % from the balance.")
                    .arg(x.total.coefficients.CD + x.outsideCD(), 0, 'f', 5)
                    .arg(100.0 * x.outsideCD() / std::max(std::abs(x.total.coefficients.CD), 1e-12), 0, 'g', 2);
    if (x.groundDisplacement)
        more += tr("\nThe ground's boundary layer displaces the air by %1 m where the model begins.")
                    .arg(*x.groundDisplacement, 0, 'g', 2);
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

void BalanceStage::show() {
    auto &top = middle_.upper(), &bottom = middle_.lower();
    struct Series {
        std::vector<double> a, CL, CD, Cm, drag, bandL, bandD, bandM, bandDrag;
    };
    // One curve a build and wind: over alpha at a speed and sideslip, or over speed at an alpha and sideslip.
    struct Key {
        bool provisional;
        std::string configuration, setUp;
        double beta, other;
        auto operator<=>(const Key&) const = default;
    };
    std::map<Key, Series> series;
    auto reports = document_.reports();
    const auto by = [](auto value) {
        return [value](const auto& p, const auto& q) { return value(p.point.condition) < value(q.point.condition); };
    };
    const auto [least, most] =
        std::minmax_element(reports.begin(), reports.end(), by([](const auto& c) { return c.alpha_deg; }));
    const bool overAlpha =
        least != reports.end() && most->point.condition.alpha_deg - least->point.condition.alpha_deg > 1e-9;
    std::stable_sort(reports.begin(), reports.end(),
                     by([&](const auto& c) { return overAlpha ? c.alpha_deg : c.speed; }));
    const auto speed = base::unitNamed(base::speedUnits(), document_.settings().units.speed);
    const auto force = base::unitNamed(base::forceUnits(), document_.settings().units.force);
    const QString speedUnit = QString::fromUtf8(speed.symbol.data()),
                  forceUnit = QString::fromUtf8(force.symbol.data());
    for (const auto& r : reports) {
        if (!r.result || r.state == campaign::PointState::OutOfDate || r.state == campaign::PointState::Diverged)
            continue;
        const auto& c = r.point.condition;
        auto& s = series[{r.provisional(), r.point.configuration, r.point.setUp, c.beta_deg,
                          overAlpha ? c.speed : c.alpha_deg}];
        const auto& k = r.result->coefficients;
        s.a.push_back(overAlpha ? c.alpha_deg : c.speed / speed.inSI);
        s.CL.push_back(k.CL);
        s.CD.push_back(k.CD);
        s.Cm.push_back(k.Cm);
        const double newtons = r.result->wind.dynamicPressure() * r.result->reference.area / force.inSI;
        s.drag.push_back(k.CD * newtons);
        const auto band = r.result->trust();
        s.bandL.push_back(band.CL);
        s.bandD.push_back(band.CD);
        s.bandM.push_back(band.Cm);
        s.bandDrag.push_back(band.CD * newtons);
    }
    // What all curves share is not said of each.
    const auto varies = [&](auto value) {
        return std::any_of(series.begin(), series.end(),
                           [&](const auto& one) { return value(one.first) != value(series.begin()->first); });
    };
    const bool configurations = varies([](const Key&k) { return k.configuration; }),
               setUps = varies([](const Key&k) { return k.setUp; });
    const bool betas = varies([](const Key& k) { return k.beta; });
    const auto nameOf = [&](const Key& k) {
        QStringList words;
        const auto shown = [](const std::string& name) { return QString::fromStdString(campaign::shownName(name)); };
        if (configurations) words << shown(k.configuration);
        if (setUps) words << shown(k.setUp);
        words << (overAlpha ? QString("%1 %2").arg(k.other / speed.inSI, 0, 'g', 4).arg(speedUnit)
                            : tr("alpha %1\u00b0").arg(k.other));
        if (betas) words << tr("beta %1\u00b0").arg(k.beta);
        if (k.provisional) words << tr("~ provisional");
        return words.join(", ");
    };
    if (overAlpha) {
        top.begin(tr("alpha [deg]"), tr("CL (line) and Cm (dashed)"));
        bottom.begin("CD", "CL");
    } else {
        top.begin(tr("speed [%1]").arg(speedUnit), "CD");
        bottom.begin(tr("speed [%1]").arg(speedUnit), tr("drag [%1]").arg(forceUnit));
    }
    std::size_t i = 0;
    for (const auto& [key, s] : series) {
        const QColor colour = look::curve(i++);
        if (overAlpha) {
            top.add("CL, " + nameOf(key), s.a, s.CL, colour, key.provisional ? Plot::kOpenMarks : 1, s.bandL);
            top.add("Cm, " + nameOf(key), s.a, s.Cm, colour, key.provisional ? Plot::kOpenMarks : 2, s.bandM);
            bottom.add(nameOf(key), s.CD, s.CL, colour, key.provisional ? Plot::kOpenMarks : 1, s.bandL, s.bandD);
        } else {
            top.add(nameOf(key), s.a, s.CD, colour, key.provisional ? Plot::kOpenMarks : 1, s.bandD);
            bottom.add(nameOf(key), s.a, s.drag, colour, key.provisional ? Plot::kOpenMarks : 1, s.bandDrag);
        }
    }
    top.finish();
    bottom.finish();
    middle_.showPlots(true);
}

}  // namespace cvane::desk
