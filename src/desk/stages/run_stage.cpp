#include "desk/stages/run_stage.h"

#include <QHBoxLayout>

#include "base/time_left.h"
#include "campaign/settings/set_field.h"
#include "campaign/store/monitor.h"
#include "desk/look.h"
#include "desk/note_room.h"

namespace cvane::desk {

RunStage::RunStage(Document& d, Middle& m, RunQueue& q) : Stage(d, m), queue_(q) {
    makeSheet();
    now_ = note();
    now_->setObjectName("runNow");
    column_->addWidget(roomFor(now_, 4));
    auto* row = new QHBoxLayout;
    start_ = new QPushButton(tr("Run what is not done"));
    start_->setObjectName("runAll");
    stop_ = new QPushButton(tr("Stop and keep"));
    stop_->setObjectName("stopRun");
    stop_->setToolTip(tr("The solver writes a checkpoint and ends; running the point again goes on from there"));
    save_ = new QPushButton(tr("Save now"));
    save_->setObjectName("saveRun");
    save_->setToolTip(tr("The running point writes a checkpoint and goes on"));
    further_ = new QPushButton(tr("200 iterations more"));
    further_->setObjectName("furtherRun");
    further_->setToolTip(tr("Takes the selected point up again where it ended, settled or not"));
    row->addWidget(start_, 1);
    row->addWidget(stop_);
    column_->addLayout(row);
    auto* second = new QHBoxLayout;
    second->addWidget(further_, 1);
    second->addWidget(save_);
    column_->addLayout(second);
    auto* how = section(tr("How"));
    auto* ranks = new QSpinBox;
    ranks->setObjectName("ranks");
    ranks->setRange(1, campaign::coresAtHand());
    ranks->setValue(q.ranks());
    q.setRanks(ranks->value());
    how->addRow(tr("Ranks (processes)"), ranks);
    connect(ranks, &QSpinBox::valueChanged, &q, &RunQueue::setRanks);
    auto* flight = section(tr("Preflight"));
    preflight_ = new FindingsNote(d, [this](const QString& assignment) {
        auto next = document_.settings();
        campaign::setField(next, assignment.toStdString());
        change(tr("mend what the preflight found"), next);
    });
    preflight_->setObjectName("preflight");
    flight->addRow(roomFor(preflight_, 6));
    auto* after = section(tr("Afterflight, of the selected point"));
    afterflight_ = new FindingsNote(d, {});
    afterflight_->setObjectName("afterflight");
    after->addRow(roomFor(afterflight_, 5));
    study_ = new StudyPanel(d, q);
    showStudy_ = new QCheckBox(tr("Show the study in the plots"));
    showStudy_->setObjectName("showStudy");
    study_->layout()->addWidget(showStudy_);
    column_->addWidget(study_);
    connect(study_, &StudyPanel::changed, this, [this] {
        showStudy_->setEnabled(study_->hasPlots());
        showStudy_->setChecked(study_->hasPlots() && !study_->running());
        start_->setEnabled(!study_->running());
        if (current_) show();
    });
    connect(showStudy_, &QCheckBox::toggled, this, [this] {
        if (current_) show();
    });
    column_->addStretch(1);
    column_->addWidget(note(tr("Closing the window leaves a running point at work. The next window finds it again.")));
    connect(start_, &QPushButton::clicked, &q, &RunQueue::addAllOpen);
    connect(stop_, &QPushButton::clicked, &q, &RunQueue::stop);
    connect(save_, &QPushButton::clicked, &q, &RunQueue::save);
    connect(further_, &QPushButton::clicked, this, [this] {
        if (const auto* r = document_.selectedReport()) queue_.addFurther(r->point, 200);
    });
    const auto refresh = [this] {
        stop_->setEnabled(queue_.busy());
        showStudy_->setEnabled(study_->hasPlots());
        save_->setEnabled(queue_.current().has_value());
        preflight_->showPreflight();
        afterflight_->showAfterflight();
        const auto* r = document_.selectedReport();
        further_->setEnabled(r && r->result &&
                             (campaign::isDone(r->state) || r->state == campaign::PointState::Stopped));
        if (r) {
            QString s = QString("%1 m/s, alpha %2\u00b0, beta %3\u00b0: %4")
                            .arg(r->point.condition.speed)
                            .arg(r->point.condition.alpha_deg)
                            .arg(r->point.condition.beta_deg)
                            .arg(QString::fromStdString(r->stateWords()));
            if (r->state == campaign::PointState::Running) {
                if (r->coarse) s += tr(" on the coarse grid");
                s += (r->inTime ? tr(", step of time %1 of at most %2") : tr(", iteration %1 of at most %2"))
                         .arg(r->iterations)
                         .arg(r->mostIterations);
                if (r->secondsLeft > 0.0) s += ", " + QString::fromStdString(base::TimeLeft::wordsFor(r->secondsLeft));
                if (r->secondsLeft > 0.0 && r->inTime) s += tr(" in steps of time");
            }
            if (!r->message.empty()) s += ". " + QString::fromStdString(r->message);
            if (const auto remark = r->result ? readout::remarkOf(*r->result) : ""; !remark.empty())
                s += ". " + QString::fromStdString(remark);
            now_->setText(s);
        }
        // Curves that grow are drawn anew every other second: to watch shall cost next to nothing.
        constexpr int kBetween_ms = 2000;
        const bool grows = r && r->state == campaign::PointState::Running && r->point == plotted_;
        if (current_ && !(grows && sincePlot_.isValid() && sincePlot_.elapsed() < kBetween_ms)) show();
    };
    document_.when(Change::Points, this, refresh);
    document_.when(Change::Selection | Change::Checks, this, refresh);
    connect(&q, &RunQueue::changed, this, refresh);
}

QString RunStage::keyFigure() const {
    int done = 0;
    for (const auto& r : document_.reports()) done += campaign::isDone(r.state);
    return tr("%1 of %2 done").arg(done).arg(document_.reports().size());
}

Stage::State RunStage::state() const {
    bool all = !document_.reports().empty();
    for (const auto& r : document_.reports()) {
        if (r.state == campaign::PointState::Running) return State::AtWork;
        all = all && campaign::isDone(r.state);
    }
    return all ? State::Ready : State::OutOfDate;
}

void RunStage::show() {
    sincePlot_.start();
    plotted_ = document_.selected();
    auto &top = middle_.upper(), &bottom = middle_.lower();
    if (showStudy_->isChecked() && study_->hasPlots()) {
        study_->plot(top, bottom);
        middle_.showPlots(true);
        return;
    }
    top.begin(tr("iteration"), tr("residual"), true);
    bottom.begin(tr("iteration"), tr("coefficient"));
    if (const auto* r = document_.selectedReport()) {
        const auto m = campaign::readMonitor(r->latest, r->reference);
        const auto* it = m.column("iteration");
        const QColor colours[] = {look::curve(0), look::curve(1), look::curve(3), look::curve(4)};
        if (it && !it->empty()) {
            // By the names that the run gave them: its turbulence model need not be that of the present settings.
            constexpr std::string_view kResidual = "res_";
            std::size_t shown = 0;
            for (std::size_t i = 0; i < m.names.size() && shown < std::size(colours); ++i) {
                auto y = m.columns[i];
                if (!m.names[i].starts_with(kResidual) ||
                    std::all_of(y.begin(), y.end(), [](double v) { return v <= 0.0; }))
                    continue;
                for (double& v : y) v = std::max(v, 1e-16);
                auto name = m.names[i].substr(kResidual.size());
                std::replace(name.begin(), name.end(), '_', ' ');
                top.add(QString::fromStdString(name), *it, y, colours[shown++], 0);
            }
            // The first swings of a start would flatten everything after them.
            const std::size_t skip = it->size() > 40 ? 20 : 0;
            const auto tail = [&](const std::vector<double>& v) {
                return std::vector<double>(v.begin() + static_cast<std::ptrdiff_t>(skip), v.end());
            };
            const char* coefficients[] = {"CD", "CL", "CY", "Cm"};
            for (int i = 0; i < 4; ++i)
                bottom.add(coefficients[i], tail(*it), tail(*m.column(coefficients[i])), colours[i], 0);
            const auto mark = [&](double at, const QString& words) {
                top.markAt(at, words);
                if (at >= (*it)[skip]) bottom.markAt(at, words);
            };
            if (r->result && r->result->coarse && r->result->readings().onGrid.empty())
                mark(it->front(), tr("from the coarse grid, %1 iterations").arg(r->result->coarse->iterations));
            if (r->result && r->result->averagedOver > 0 && r->result->readings().onGrid.empty())
                mark(r->result->iterations - r->result->averagedOver, tr("averages from here"));
            if (const auto* step = m.column("time_step_s")) {
                const auto first = std::find_if(step->begin(), step->end(), [](double dt) { return dt > 0.0; });
                if (first != step->end())
                    mark((*it)[static_cast<std::size_t>(first - step->begin())], tr("steps of time from here"));
            }
        }
    }
    top.finish();
    bottom.finish();
    middle_.showPlots(true);
}

}  // namespace cvane::desk
