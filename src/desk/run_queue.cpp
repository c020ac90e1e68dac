#include "desk/run_queue.h"

#include <algorithm>

#include "base/errors.h"

namespace cvane::desk {

RunQueue::RunQueue(Document& d) : QObject(&d), document_(d), ranks_(campaign::cores()) {
    timer_.setInterval(400);
    connect(&timer_, &QTimer::timeout, this, &RunQueue::tick);
    connect(&d, &Document::opened, this, [this] {
        waiting_.clear();
        run_.reset();
        emit changed();
    });
    // A point that was left running by an earlier window is taken up again.
    connect(&d, &Document::reportsChanged, this, [this] {
        if (wantAll_ && document_.reportsKnown()) addAllOpen();
        if (run_) return;
        for (const auto& r : document_.reports())
            if (r.state == campaign::PointState::Running) {
                run_ = campaign::PointRun::attach(document_.campaign(), r.point);
                timer_.start();
                break;
            }
    });
}

void RunQueue::add(const std::vector<campaign::Point>& points) {
    std::vector<Waiting> all;
    for (const auto& p : points) all.push_back({p, 0});
    enqueue(all);
}

void RunQueue::addFurther(const campaign::Point& point, int iterations) { enqueue({{point, iterations}}); }

void RunQueue::enqueue(const std::vector<Waiting>& points) {
    for (const auto& r : document_.remarks())
        if (r.blocks) {
            emit document_.problem(QString::fromStdString(r.text));
            return;
        }
    for (const auto& p : points)
        if (std::none_of(waiting_.begin(), waiting_.end(), [&](const Waiting& w) { return w.point == p.point; })) waiting_.push_back(p);
    wantGrid_ = !document_.gridCurrent();
    if (wantGrid_) document_.makeGrid();
    timer_.start();
    emit changed();
}

void RunQueue::addAllOpen() {
    // What is done must be known first, or it would run again.
    wantAll_ = !document_.reportsKnown();
    if (wantAll_) return;
    std::vector<campaign::Point> open;
    for (const auto& r : document_.reports())
        if (r.state != campaign::PointState::Settled && r.state != campaign::PointState::Unsteady && r.state != campaign::PointState::Running) open.push_back(r.point);
    add(open);
}

void RunQueue::stop() {
    waiting_.clear();
    wantAll_ = wantGrid_ = false;
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

void RunQueue::save() {
    try {
        if (run_) run_->askToSave();
    } catch (const base::InputError& e) {
        emit document_.problem(e.what());
    }
}

void RunQueue::tick() {
    if (run_ && !run_->alive()) {
        run_.reset();
        emit changed();
    }
    if (!run_ && !waiting_.empty() && !document_.gridRunning()) {
        if (!document_.gridCurrent()) {
            waiting_.clear();  // the grid failed or was cancelled, and has said so
            emit changed();
        } else {
            const auto next = waiting_.front();
            waiting_.pop_front();
            try {
                run_ = campaign::PointRun::start(document_.campaign(), next.point, document_.reference(), ranks_, next.further);
            } catch (const base::InputError& e) {
                waiting_.clear();
                emit document_.problem(e.what());
            }
            emit changed();
        }
    }
    document_.refreshReports();
    if (!busy()) timer_.stop();
}

}  // namespace cvane::desk
