#pragma once
#include "desk/stages/stage.h"

namespace cvane::desk {

/// Speeds and angles that are combined into points.
class ScheduleStage : public Stage {
    Q_OBJECT
  public:
    ScheduleStage(Document& document, Middle& middle);
    QString title() const override { return "Schedule"; }
    Group group() const override { return Group::Work; }
    bool draws() const override { return false; }
    QString keyFigure() const override;
    State state() const override;
    void show() override;

  private:
    QLabel* count_;
};

}  // namespace cvane::desk
