#include "desk/stages/schedule_stage.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLineEdit>

#include "base/errors.h"
#include "base/time_left.h"
#include "base/units.h"
#include "campaign/plan/points.h"
#include "desk/look.h"
#include "desk/stages/points_panel.h"

namespace cvane::desk {
ScheduleStage::ScheduleStage(Document& d, Middle& m) : Stage(d, m) {
    makeSheet();
    count_ = note();
    column_->addWidget(count_);
    auto* lists = section(tr("Points: every speed with every angle"));
    list(lists, tr("Speeds [m/s]"), "speeds", tr("change the speeds"),
         [](campaign::Settings& s) -> std::vector<double>& { return s.schedule.speeds; });
    list(lists, tr("Alpha [deg]"), "alphas", tr("change the angles of attack"),
         [](campaign::Settings& s) -> std::vector<double>& { return s.schedule.alphas_deg; });
    list(lists, tr("Beta [deg]"), "betas", tr("change the sideslip angles"),
         [](campaign::Settings& s) -> std::vector<double>& { return s.schedule.betas_deg; });
    column_->addWidget(
        note(tr("Numbers with commas, or first:last:step. For each speed the angles run outwards from zero; each point "
                "starts from its settled neighbour.")));
    section(tr("Further points"))->addRow(new PointsPanel(document_));
    auto* flow = section(tr("Flow"));
    choice(
        flow, tr("Model"), "flowModel",
        {tr("k-omega SST"), tr("Spalart-Allmaras"), tr("k-epsilon, realisable"), tr("laminar"), tr("inviscid")},
        tr("change the flow model"), [](const campaign::Settings& s) { return static_cast<int>(s.flow.model); },
        [](campaign::Settings& s, int i) { s.flow.model = static_cast<flow::Model>(i); });
    number(flow, tr("Turbulence intensity"), "intensity", 1e-5, 0.3, 5, "", tr("change the free-stream turbulence"),
           [](campaign::Settings& s) -> double& { return s.flow.turbulenceIntensity; });
    length(flow, tr("Its length (0: auto)"), "turbulenceLength", 0, 100, 4, tr("change the free-stream turbulence"),
           [](campaign::Settings& s) -> double& { return s.flow.turbulenceLength; });
    choice(
        flow, tr("A quarter of cells first"), "coarseFirst", {tr("yes, for the band"), tr("no")},
        tr("change the start"), [](const campaign::Settings& s) { return s.flow.coarseFirst ? 0 : 1; },
        [](campaign::Settings& s, int i) { s.flow.coarseFirst = i == 0; });
    whole(flow, tr("At most, iterations"), "mostIterations", 10, 100000, 100, tr("change the iterations"),
          [](campaign::Settings& s) -> int& { return s.flow.mostIterations; });
    number(flow, tr("Settled: CD within (share)"), "toleranceCD", 1e-5, 0.2, 4, "", tr("change the tolerance"),
           [](campaign::Settings& s) -> double& { return s.flow.toleranceCD; });
    number(flow, tr("Settled: CL within"), "toleranceCL", 1e-6, 0.5, 4, "", tr("change the tolerance"),
           [](campaign::Settings& s) -> double& { return s.flow.toleranceCL; });
    auto* numerics = section(tr("Numerics"));
    choice(
        numerics, tr("Convection"), "order", {tr("second order"), tr("first order")}, tr("change the order"),
        [](const campaign::Settings& s) { return s.flow.secondOrder ? 0 : 1; },
        [](campaign::Settings& s, int i) { s.flow.secondOrder = i == 0; })
        ->setToolTip(
            tr("First order is for finding out why a run blows up: its friction of its own spoils lift and drag."));
    choice(
        numerics, tr("Bounded slopes"), "limiter", {tr("in poor cells"), tr("in all cells"), tr("nowhere")},
        tr("change the limiter"), [](const campaign::Settings& s) { return static_cast<int>(s.flow.limiter); },
        [](campaign::Settings& s, int i) { s.flow.limiter = static_cast<flow::Limiter>(i); })
        ->setToolTip(tr("Where a value rebuilt at a face may not pass those of the cells around. In all cells is more "
                        "robust and flattens suction peaks."));
    number(numerics, tr("Relaxation at most"), "relaxation", 0.5, 0.95, 2, "", tr("change the relaxation"),
           [](campaign::Settings& s) -> double& { return s.flow.relaxation; })
        ->setToolTip(tr("Share of a new velocity that an iteration takes over; lowered on its own while the flow works "
                        "itself up."));
    choice(
        numerics, tr("Precision"), "precision", {tr("double"), tr("mixed")}, tr("change the precision"),
        [](const campaign::Settings& s) { return static_cast<int>(s.flow.precision); },
        [](campaign::Settings& s, int i) { s.flow.precision = static_cast<flow::Precision>(i); })
        ->setToolTip(tr("Mixed guesses at pressure corrections in single precision and weighs them in double: the same "
                        "settled flow, less memory traffic where memory is slow."));
    auto* units = section(tr("Units shown"));
    const auto unit = [&](const QString& label, const char* name, std::span<const base::Unit> all,
                          std::string campaign::ShownUnits::*field) {
        QStringList words;
        for (const auto& u : all) words << QString::fromUtf8(u.symbol.data());
        choice(
            units, label, name, words, tr("change the units shown"),
            [words, field](const campaign::Settings& s) {
                return static_cast<int>(words.indexOf(QString::fromStdString(s.units.*field)));
            },
            [words, field](campaign::Settings& s, int i) { s.units.*field = words[i].toStdString(); });
    };
    unit(tr("Length"), "unitLength", base::lengthUnits(), &campaign::ShownUnits::length);
    unit(tr("Speed"), "unitSpeed", base::speedUnits(), &campaign::ShownUnits::speed);
    unit(tr("Force"), "unitForce", base::forceUnits(), &campaign::ShownUnits::force);
    unit(tr("Area"), "unitArea", base::areaUnits(), &campaign::ShownUnits::area);
    column_->addStretch(1);
    document_.when(Change::Points, this, [this] {
        const auto& all = document_.reports();
        const auto open =
            std::count_if(all.begin(), all.end(), [](const auto& r) { return !campaign::isDone(r.state); });
        QString text = all.size() == 1 ? tr("1 point") : tr("%1 points").arg(all.size());
        text += open == 0 ? tr(", all done.") : tr(", %1 to run").arg(open);
        if (const auto seconds = campaign::secondsForeseen(all); open > 0)
            text +=
                seconds
                    ? tr(": %1 by those already run.").arg(QString::fromStdString(base::TimeLeft::wordsFor(*seconds)))
                    : QString(".");
        count_->setText(text);
        if (current_) show();
    });
}

QString ScheduleStage::keyFigure() const {
    return tr("%1 points").arg(document_.reports().size());
}
Stage::State ScheduleStage::state() const {
    return document_.reports().empty() ? State::NeedsYou : State::Ready;
}

void ScheduleStage::show() {
    // The order of the points in the alpha-speed plane, so that a missing or doubled condition is seen.
    auto& p = middle_.upper();
    p.begin(tr("alpha [deg]"), tr("speed [m/s]"));
    std::vector<double> a, v, doneA, doneV;
    for (const auto& r : document_.reports()) {
        a.push_back(r.point.condition.alpha_deg);
        v.push_back(r.point.condition.speed);
        if (r.result && r.state != campaign::PointState::OutOfDate) {
            doneA.push_back(r.point.condition.alpha_deg);
            doneV.push_back(r.point.condition.speed);
        }
    }
    p.add(tr("in the order of running"), a, v, look::faint, 1);
    for (std::size_t i = 0; i < doneA.size(); ++i) {
        p.add(tr("done"), {doneA[i]}, {doneV[i]}, look::accent, 1);
        if (i > 0) p.plottable(p.plottableCount() - 1)->removeFromLegend();
    }
    p.finish();
    middle_.showPlots(false);
}

}  // namespace cvane::desk
