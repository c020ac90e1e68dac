#pragma once
#include <QObject>
#include <QThreadPool>

#include "desk/model/job.h"
#include "lifting/runs.h"

namespace cvane::desk {

/// The lifting surface of one aircraft, away from the window's thread: at once without its sections' drag, then with
/// it, whose polars are kept for the next one. The last that was asked for counts.
class WingWork : public QObject {
    Q_OBJECT
  public:
    WingWork();
    ~WingWork() override;
    /// Where polars are kept; another campaign's are not looked for.
    void keepPolarsIn(const std::filesystem::path& folder);
    void ask(const wing::Aircraft& aircraft, const lifting::Asked& asked);
    /// Nothing is asked for any more, and nothing shown.
    void clear();
    bool running() const { return quick_.running() || whole_.running(); }

    struct Shown {
        wing::Aircraft aircraft;
        lifting::Asked asked;
        lifting::Outcome outcome;
        bool whole = false;  ///< with the sections' drag, where that was asked for
    };
    /// Null: nothing yet.
    const std::shared_ptr<const Shown>& shown() const { return shown_; }
    QString trouble() const { return trouble_; }  ///< why there is nothing for what was asked last
    QString words() const { return words_; }      ///< what is being done

  signals:
    void moved();

  private:
    struct Found {
        std::shared_ptr<const Shown> shown;
        QString trouble;
    };
    void startWhole(const wing::Aircraft& aircraft, const lifting::Asked& asked);
    QThreadPool pool_;
    std::filesystem::path folder_;
    std::shared_ptr<lifting::PolarShelf> shelf_ = std::make_shared<lifting::PolarShelf>();
    std::shared_ptr<const Shown> shown_;
    QString trouble_, words_;
    Job<Found> quick_{*this, pool_}, whole_{*this, pool_};
};

}  // namespace cvane::desk
