#pragma once
#include <QGroupBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <nlohmann/json.hpp>

#include "desk/model/run_queue.h"
#include "desk/plot.h"

namespace cvane::desk {

/// The selected point on grids of several budgets: runs those that are missing away from the window's thread, and tells
/// what the values approach. Each grid's run is kept like any other, so that a study that was stopped goes on.
class StudyPanel : public QGroupBox {
    Q_OBJECT
  public:
    StudyPanel(Document& document, RunQueue& queue);
    ~StudyPanel() override;
    bool running() const { return job_.running(); }
    /// There is a study of the selected point to be shown.
    bool hasPlots() const;
    /// CD and CL over the cells' size, with what they approach at size zero.
    void plot(Plot& drag, Plot& lift) const;

  signals:
    void changed();

  private:
    struct Told {
        nlohmann::json value;
        QString error;
    };
    void start();
    void done(const Told& told);
    void refresh();

    Document& document_;
    RunQueue& queue_;
    QThreadPool pool_;
    Job<Told> job_{*this, pool_};
    nlohmann::json value_;  ///< of the last study; null: none
    QLineEdit* budgets_;
    QPushButton *start_, *stop_;
    QLabel* words_;
};

}  // namespace cvane::desk
