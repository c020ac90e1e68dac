#pragma once
#include <QObject>
#include <QTimer>
#include <deque>
#include <optional>

#include "campaign/launch/point_run.h"
#include "campaign/steps/hold.h"
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
    void addAllOpen();  ///< every point of the schedule that is not done, and what held lifts ask for
    void hold(const std::vector<campaign::HeldLift>& lifts);  ///< points are run until these are reached
    void stop();  ///< the running point writes a checkpoint and ends; the others are taken off
    bool busy() const { return run_.has_value() || !waiting_.empty() || startJob_.running() || !holding_.empty(); }
    int ranks() const { return ranks_; }
    void setRanks(int n);  ///< kept for the next window too
    /// Whether it is the next one, and starts as soon as its grid is there.
    bool waitsForGrid(const campaign::Point& point) const;
    std::optional<campaign::Point> current() const { return run_ ? std::optional(run_->point()) : std::nullopt; }

  signals:
    void changed();
    void told(const QString& sentence);  ///< good news of a held lift

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
    void askRunning();
    void startNext();
    void started(const Waiting& what, Started outcome);
    void enqueue(const std::vector<Waiting>& points);
    void addDamaged(const std::vector<campaign::PointReport>& done);  ///< those whose files are not whole any more
    void tick();
    bool saysThereIsNone() const;  ///< no campaign is open, which has been told
    bool mayStart() const;         ///< blocking remarks have been told otherwise
    void holdNext();
    void held(const campaign::HeldStep& outcome, const QString& error);
    Document& document_;
    std::deque<Waiting> waiting_;
    std::deque<campaign::HeldLift> holding_;  ///< the first one is on its way
    std::optional<campaign::Point> lastTry_;  ///< of that one
    int tries_ = 0;                           ///< of that one, by this queue
    std::optional<campaign::PointRun> run_;
    std::optional<readout::Asked> asked_;  ///< of the running point, as it was last told
    std::optional<campaign::Point> askedOf_;
    std::optional<campaign::Point> gridMadeFor_;  ///< the point for whose sake a grid was made last
    bool wantAll_ = false, stopWanted_ = false;   ///< stopWanted_: of a point that is just being started
    int ranks_;
    int ticks_ = 0;
    QTimer timer_;
    QThreadPool pool_;
    Job<Started> startJob_{*this, pool_};
    Job<std::pair<campaign::HeldStep, QString>> holdJob_{*this, pool_};
    Job<std::vector<campaign::Point>> damageJob_{*this, pool_};
};

}  // namespace cvane::desk
