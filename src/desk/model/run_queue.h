#pragma once
#include <QObject>
#include <QTimer>
#include <deque>
#include <optional>

#include "campaign/launch/point_run.h"
#include "desk/model/document.h"

namespace cvane::desk {

/// Runs points one after another through solver processes of their own. Closing the window leaves the running one at
/// work; the next window finds it.
class RunQueue : public QObject {
    Q_OBJECT
  public:
    explicit RunQueue(Document& document);
    ~RunQueue() override;
    void add(
        const std::vector<campaign::Point>& points);  ///< those that are not done; what is computed is never run over
    void addAnew(const std::vector<campaign::Point>& points);       ///< each as a new run beside what there is
    void addFurther(const campaign::Point& point, int iterations);  ///< beyond its result
    void save();                                                    ///< the running point writes a checkpoint now
    void addAllOpen();                                              ///< every point of the schedule that is not done
    void stop();  ///< the running point writes a checkpoint and ends; the others are taken off
    bool busy() const { return run_.has_value() || !waiting_.empty() || startJob_.running(); }
    int ranks() const { return ranks_; }
    void setRanks(int n) { ranks_ = n; }
    std::optional<campaign::Point> current() const { return run_ ? std::optional(run_->point()) : std::nullopt; }

  signals:
    void changed();

  private:
    struct Waiting {
        campaign::Point point;
        campaign::StartOptions options;
    };
    /// What became of a start, away from the window's thread: it reads the model.
    struct Started {
        std::optional<campaign::PointRun> run;
        bool needsGrid = false;
        QString error;
    };
    void startNext();
    void started(const Waiting& what, Started outcome);
    void enqueue(const std::vector<Waiting>& points);
    void tick();
    Document& document_;
    std::deque<Waiting> waiting_;
    std::optional<campaign::PointRun> run_;
    std::optional<campaign::Point> gridMadeFor_;  ///< the point for whose sake a grid was made last
    bool wantAll_ = false, stopWanted_ = false;   ///< stopWanted_: of a point that is just being started
    int ranks_;
    QTimer timer_;
    QThreadPool pool_;
    Job<Started> startJob_{*this, pool_};
};

}  // namespace cvane::desk
