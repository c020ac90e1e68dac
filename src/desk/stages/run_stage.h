#pragma once
#include <QCheckBox>
#include <QElapsedTimer>
#include <QPushButton>
#include <QSpinBox>

#include "desk/model/run_queue.h"
#include "desk/stages/findings_note.h"
#include "desk/stages/stage.h"
#include "desk/stages/study_panel.h"

namespace cvane::desk {

/// Starts, watches and stops the solver; residuals and coefficients live.
class RunStage : public Stage {
    Q_OBJECT
  public:
    RunStage(Document& document, Middle& middle, RunQueue& queue);
    QString title() const override { return "Run"; }
    Group group() const override { return Group::Work; }
    bool draws() const override { return false; }
    QString keyFigure() const override;
    State state() const override;
    Need need() const override { return needOfResult(); }
    void show() override;

  private:
    RunQueue& queue_;
    StudyPanel* study_;
    QCheckBox* showStudy_;
    QPushButton *start_, *stop_, *save_, *further_;
    QLabel* now_;
    QElapsedTimer sincePlot_;
    std::optional<campaign::Point> plotted_;  ///< whose curves are shown
    FindingsNote *preflight_, *afterflight_;
};

}  // namespace cvane::desk
