#include "desk/model/run_queue.h"

#include <algorithm>

#include "base/errors.h"
#include "campaign/methods/runner.h"
#include "campaign/store/run_standing.h"
#include "desk/start/user_settings.h"

namespace cvane::desk {

RunQueue::RunQueue(Document& d) : QObject(&d), document_(d), ranks_(UserSettings::ranks(campaign::cores())) {
    timer_.setInterval(400);
    connect(&timer_, &QTimer::timeout, this, &RunQueue::tick);
    d.when(Change::Campaign, this, [this] {
        // What was waiting was of the campaign before.
        waiting_.clear();
        holding_.clear();
        holdJob_.forget();
        wantAll_ = false;
        startJob_.forget();
        run_.reset();
        emit changed();
    });
    d.when(Change::Settings, this, [this] { askRunning(); });
    // A point that was left running by an earlier window is taken up again.
    d.when(Change::Points, this, [this] {
        if (wantAll_ && document_.reportsKnown()) addAllOpen();
        if (run_) return;
        for (const auto& r : document_.reports())
            if (r.state == campaign::PointState::Running) {
                run_ = campaign::PointRun::attach(document_.base(), r.point);
                timer_.start();
                break;
            }
    });
}

RunQueue::~RunQueue() {
    startJob_.forget();
    holdJob_.forget();
    damageJob_.forget();
    pool_.waitForDone();
}

void RunQueue::setRanks(int n) {
    ranks_ = n;
    UserSettings::noteRanks(n);
}

void RunQueue::add(const std::vector<campaign::Point>& points) {
    if (saysThereIsNone()) return;
    std::vector<Waiting> all;
    std::vector<campaign::PointReport> done;
    for (const auto& p : points)
        if (const auto* r = document_.reportOf(p); r && campaign::isDone(r->state))
            done.push_back(*r);
        else if (r && r->state != campaign::PointState::Running)
            all.push_back({p, {}});
    enqueue(all);
    if (all.empty()) addDamaged(done);
}

void RunQueue::addDamaged(const std::vector<campaign::PointReport>& done) {
    // Whole files are read for it.
    damageJob_.start(
        [done](const auto&) {
            std::vector<campaign::Point> out;
            for (const auto& r : done)
                if (!campaign::damageOf(r.folder).empty()) out.push_back(r.point);
            return out;
        },
        [this](const std::vector<campaign::Point>& damaged) {
            std::vector<Waiting> all;
            for (const auto& p : damaged) all.push_back({p, {}});
            if (all.empty())
                emit document_.problem(
                    tr("These points are done or running. To run them once more beside what there is, choose "
                       "\u201canew\u201d in the board\u2019s menu."));
            else
                emit told(tr("Files of %n point(s) are damaged; they are made anew, in runs of their own.", nullptr,
                             static_cast<int>(damaged.size())));
            enqueue(all);
        });
}

void RunQueue::addAnew(const std::vector<campaign::Point>& points) {
    std::vector<Waiting> all;
    all.reserve(points.size());
    for (const auto& p : points) all.push_back({p, {0, true}});
    enqueue(all);
}

void RunQueue::addFurther(const campaign::Point& point, int iterations) {
    enqueue({{point, {iterations, false}}});
}

void RunQueue::enqueue(const std::vector<Waiting>& points) {
    if (points.empty() || !mayStart()) return;
    for (const auto& p : points)
        if (std::none_of(waiting_.begin(), waiting_.end(), [&](const Waiting& w) { return w.point == p.point; }))
            waiting_.push_back(p);
    timer_.start();
    emit changed();
}

bool RunQueue::mayStart() const {
    if (!document_.isOpen()) return false;
    for (const auto& r : document_.remarks())
        if (r.blocks) {
            emit document_.problem(QString::fromStdString(r.text));
            return false;
        }
    return true;
}

void RunQueue::hold(const std::vector<campaign::HeldLift>& lifts) {
    if (lifts.empty() || !mayStart()) return;
    for (const auto& h : lifts)
        if (std::find(holding_.begin(), holding_.end(), h) == holding_.end()) holding_.push_back(h);
    timer_.start();
    emit changed();
}

void RunQueue::holdNext() {
    holdJob_.start(
        [c = document_.base(), book = document_.book(), lift = holding_.front()](const auto&) {
            std::pair<campaign::HeldStep, QString> out;
            try {
                out.first = campaign::holdingOf(c, lift, *book);
            } catch (const std::exception& e) {
                out.second = e.what();
            }
            return out;
        },
        [this](const auto& outcome) { held(outcome.first, outcome.second); });
}

void RunQueue::held(const campaign::HeldStep& step, const QString& error) {
    if (holding_.empty()) return;  // let go meanwhile
    const auto words = QString::fromStdString(campaign::wordsOf(holding_.front()));
    QString why = error.isEmpty() ? QString::fromStdString(step.why) : error;
    const bool goesOn = why.isEmpty() && step.kind == campaign::NextTry::Kind::Run;
    if (goesOn && lastTry_ == step.point)
        why = tr("the try at %1 has come to no end.").arg(QString::fromStdString(step.point.name()));
    if (goesOn && tries_ >= campaign::kMostTries) why = tr("not reached in %1 runs.").arg(tries_);
    if (goesOn && why.isEmpty()) {
        auto next = document_.base().settings;
        campaign::noteTry(next, step.point);
        if (next != document_.base().settings) document_.changeBase(tr("try for a held lift"), next, tr("Schedule"));
        lastTry_ = step.point;
        ++tries_;
        waiting_.push_back({step.point, {}});
        emit changed();
        return;
    }
    if (!why.isEmpty())
        emit document_.problem(tr("%1: %2").arg(words, why));
    else
        emit told(tr("%1: reached by %2 with %3")
                      .arg(words, QString::fromStdString(step.point.name()))
                      .arg(*step.value, 0, 'g', 5));
    holding_.pop_front();
    lastTry_.reset();
    tries_ = 0;
    emit changed();
}

bool RunQueue::saysThereIsNone() const {
    if (!document_.isOpen())
        emit document_.problem(tr("There is no campaign to run. Open one, or make one from a surface file."));
    return !document_.isOpen();
}

void RunQueue::addAllOpen() {
    if (saysThereIsNone()) return;
    // What is done must be known first, or it would run again.
    wantAll_ = !document_.reportsKnown();
    if (wantAll_) return;
    std::vector<campaign::Point> open;
    for (const auto& r : document_.reports())
        if (!campaign::isDone(r.state) && r.state != campaign::PointState::Running) open.push_back(r.point);
    if (!open.empty()) add(open);
    std::vector<campaign::HeldLift> lifts;
    for (const auto& h : document_.base().settings.schedule.held)
        if (h.on) lifts.push_back(h);
    hold(lifts);
}

bool RunQueue::waitsForGrid(const campaign::Point& point) const {
    return !run_ && !waiting_.empty() && waiting_.front().point == point;
}

void RunQueue::stop() {
    waiting_.clear();
    holding_.clear();
    holdJob_.forget();
    lastTry_.reset();
    tries_ = 0;
    wantAll_ = false;
    stopWanted_ = startJob_.running();
    document_.cancelGrid();
    if (run_) {
        try {
            run_->askToStop();
        } catch (const base::InputError& e) {
            emit document_.problem(e.what());
        }
    }
    emit changed();
}

// Tolerances and iterations that are changed while a point runs hold for it from then on.
void RunQueue::askRunning() {
    if (!run_) {
        asked_.reset();
        return;
    }
    try {
        const auto now = readout::askedBy(document_.base().of(run_->point()).settings.flow);
        if (asked_ && askedOf_ == run_->point() && !(*asked_ == now)) campaign::askAnew(run_->folder(), now);
        asked_ = now;
        askedOf_ = run_->point();
    } catch (const base::InputError& e) {
        emit document_.problem(e.what());
    }
}

void RunQueue::save() {
    try {
        if (run_) run_->askToSave();
    } catch (const base::InputError& e) {
        emit document_.problem(e.what());
    }
}

void RunQueue::startNext() {
    stopWanted_ = false;
    const auto next = waiting_.front();
    waiting_.pop_front();
    startJob_.start(
        [c = document_.base(), book = document_.book(), next, ranks = ranks_](const auto&) {
            Started out;
            try {
                const auto seen = c.of(next.point);
                out.needsGrid = campaign::runnerOf(next.point.method).needsGrid() &&
                                (!campaign::gridIsCurrent(seen) || !campaign::gridIsWhole(seen));
                if (!out.needsGrid)
                    out.run = campaign::PointRun::start(c, next.point, book->reference(seen), ranks, next.options);
            } catch (const std::exception& e) {
                out.error = e.what();
            }
            return out;
        },
        [this, next](Started outcome) { started(next, std::move(outcome)); });
}

void RunQueue::started(const Waiting& what, Started outcome) {
    if (!outcome.error.isEmpty()) {
        waiting_.clear();
        holding_.clear();
        emit document_.problem(outcome.error);
    } else if (outcome.run) {
        gridMadeFor_.reset();
        run_ = std::move(outcome.run);
        if (stopWanted_) stop();
    } else if (gridMadeFor_ == what.point) {
        // Its grid failed or was cancelled, and has said so.
        waiting_.clear();
        gridMadeFor_.reset();
    } else {
        // The grid is made where it can be seen: the window looks at that configuration and set-up.
        waiting_.push_front(what);
        gridMadeFor_ = what.point;
        document_.lookAt(what.point.configuration, what.point.setUp);
        document_.makeGridOf(document_.base().of(what.point));
    }
    document_.refreshReports();
    emit changed();
}

void RunQueue::tick() {
    if (run_ && !run_->alive()) {
        run_.reset();
        asked_.reset();
        emit changed();
    }
    if (!run_ && !waiting_.empty() && !document_.gridRunning() && !startJob_.running()) startNext();
    if (!run_ && waiting_.empty() && !holding_.empty() && !startJob_.running() && !holdJob_.running()) holdNext();
    if (run_ && !asked_) askRunning();
    // How points stand is read from their files: every other second is often enough to see them move.
    constexpr int kEvery = 5;
    if (++ticks_ % kEvery == 0 || !run_) document_.refreshReports();
    if (!busy()) timer_.stop();
}

}  // namespace cvane::desk
