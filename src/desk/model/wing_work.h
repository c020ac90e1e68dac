#pragma once
#include <QObject>
#include <QThreadPool>

#include "desk/model/job.h"
#include "lifting/loadings.h"

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
    /// @param others  further loadings, whose curves stand beside
    void ask(const wing::Aircraft& aircraft, const lifting::Asked& asked, std::vector<lifting::Loading> others = {});
    /// Nothing is asked for any more, and nothing shown.
    void clear();
    bool running() const { return quick_.running() || whole_.running(); }

    struct Shown {
        wing::Aircraft aircraft;
        lifting::Asked asked;
        lifting::Outcome outcome;
        std::vector<lifting::Loading> loadings;  ///< beside it
        std::vector<lifting::Outcome> outcomes;  ///< of these
        double wetted = 0.0;                     ///< area of the skin [m2]; 0: not known yet
        bool whole = false;                      ///< with the sections' drag, where that was asked for
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
    /// What is asked for, as a job takes it.
    struct Wanted {
        wing::Aircraft aircraft;
        lifting::Asked asked;
        std::vector<lifting::Loading> others;
        bool needsPolars() const { return asked.sectionDrag || asked.holdStrips; }
    };
    static Found computed(const Wanted& wanted, bool whole, const std::shared_ptr<lifting::PolarShelf>& shelf,
                          const std::function<bool()>& goOn);
    void startWhole(const std::shared_ptr<const Wanted>& wanted);
    QThreadPool pool_;
    std::filesystem::path folder_;
    std::shared_ptr<lifting::PolarShelf> shelf_ = std::make_shared<lifting::PolarShelf>();
    std::shared_ptr<const Shown> shown_;
    QString trouble_, words_;
    Job<Found> quick_{*this, pool_}, whole_{*this, pool_};
};

}  // namespace cvane::desk
