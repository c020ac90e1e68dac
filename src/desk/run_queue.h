#pragma once
#include <QObject>
#include <QTimer>
#include <deque>
#include <optional>

#include "campaign/point_run.h"
#include "desk/document.h"

namespace cvane::desk {

/// Runs points one after another through solver processes of their own. Closing the window leaves the running one at work;
/// the next window finds it.
class RunQueue : public QObject {
    Q_OBJECT
  public:
    explicit RunQueue(Document& document);
    void add(const std::vector<campaign::Point>& points);
    void addFurther(const campaign::Point& point, int iterations);  ///< beyond its result
    void save();                       ///< the running point writes a checkpoint now
    void addAllOpen();                 ///< every point of the schedule that is not done
    void stop();                       ///< the running point writes a checkpoint and ends; the others are taken off
    bool busy() const { return run_.has_value() || !waiting_.empty(); }
    int ranks() const { return ranks_; }
    void setRanks(int n) { ranks_ = n; }
    std::optional<campaign::Point> current() const { return run_ ? std::optional(run_->point()) : std::nullopt; }

  signals:
    void changed();

  private:
    struct Waiting {
        campaign::Point point;
        int further;
    };
    void enqueue(const std::vector<Waiting>& points);
    void tick();
    Document& document_;
    std::deque<Waiting> waiting_;
    std::optional<campaign::PointRun> run_;
    bool wantGrid_ = false, wantAll_ = false;
    int ranks_;
    QTimer timer_;
};

}  // namespace cvane::desk
