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
    list(lists, "schedule.speeds_m_s", tr("Speeds [m/s]"), "speeds", tr("change the speeds"));
    list(lists, "schedule.alphas_deg", tr("Alpha [deg]"), "alphas", tr("change the angles of attack"));
    list(lists, "schedule.betas_deg", tr("Beta [deg]"), "betas", tr("change the sideslip angles"));
    column_->addWidget(
        note(tr("Numbers with commas, or first:last:step. For each speed the angles run outwards from zero; each point "
                "starts from its settled neighbour.")));
    section(tr("Further points"))->addRow(new PointsPanel(document_));
    choice(lists, "schedule.methods", tr("Methods"), "methods", tr("change the methods"),
           {tr("field"), tr("lifting surface"), tr("lifting surface and field"), tr("panels"), tr("panels and field"),
            tr("all three")});
    auto* flow = section(tr("Flow"));
    choice(flow, "flow.model", tr("Model"), "flowModel", tr("change the flow model"));
    const auto turbulence = tr("change the free-stream turbulence");
    number(flow, "flow.turbulence_intensity", tr("Turbulence intensity"), "intensity", 5, turbulence);
    number(flow, "flow.turbulence_length_m", tr("Turbulence length (0: auto)"), "turbulenceLength", 4, turbulence);
    choice(flow, "flow.coarse_first", tr("Coarse grid first"), "coarseFirst", tr("change the start"),
           {tr("no"), tr("for the band")});
    whole(flow, "flow.most_iterations", tr("Iterations at most"), "mostIterations", 100, tr("change the iterations"));
    const auto tolerance = tr("change the tolerance");
    number(flow, "flow.tolerance_CD_relative", tr("Convergence, CD (share)"), "toleranceCD", 4, tolerance);
    number(flow, "flow.tolerance_CL", tr("Convergence, CL"), "toleranceCL", 4, tolerance);
    auto* numerics = section(tr("Numerics"));
    addToolTip(*choice(numerics, "flow.second_order", tr("Convection"), "order", tr("change the order"),
                       {tr("first order"), tr("second order")}),
               tr("First order is for finding out why a run blows up: its friction of its own spoils lift and drag."));
    addToolTip(*choice(flow, "flow.compressible", tr("Compressible"), "compressible", tr("change the equations"),
                       {tr("above Mach 0.3"), tr("always"), tr("never")}),
               tr("Whether the gas has a density and a temperature of its own in every cell."));
    addToolTip(*choice(numerics, "flow.limiter", tr("Limiter"), "limiter", tr("change the limiter"),
                       {tr("in poor cells"), tr("in all cells"), tr("nowhere")}),
               tr("Where a value rebuilt at a face may not pass those of the cells around. In all cells is more "
                  "robust and flattens suction peaks."));
    addToolTip(
        *number(numerics, "flow.relaxation", tr("Under-relaxation"), "relaxation", 2, tr("change the relaxation")),
        tr("Share of a new velocity that an iteration takes over; lowered on its own while the flow works "
           "itself up."));
    addToolTip(*choice(numerics, "flow.precision", tr("Precision"), "precision", tr("change the precision")),
               tr("Mixed guesses at pressure corrections in single precision and weighs them in double: the same "
                  "settled flow, less memory traffic where memory is slow."));
    auto* units = section(tr("Units shown"));
    const auto shown = tr("change the units shown");
    choice(units, "shown_units.length", tr("Length"), "unitLength", shown);
    choice(units, "shown_units.speed", tr("Speed"), "unitSpeed", shown);
    choice(units, "shown_units.force", tr("Force"), "unitForce", shown);
    choice(units, "shown_units.area", tr("Area"), "unitArea", shown);
    column_->addStretch(1);
    document_.when(Change::Values, this, [this] {
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
    const auto count = document_.reports().size();
    return count == 1 ? tr("1 point") : tr("%1 points").arg(count);
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
