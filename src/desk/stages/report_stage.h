#pragma once
#include "desk/stages/stage.h"

namespace cvane::desk {

/// Tables and pictures out of the program.
class ReportStage : public Stage {
    Q_OBJECT
  public:
    ReportStage(Document& document, Middle& middle);
    QString title() const override { return "Report"; }
    Group group() const override { return Group::Reading; }
    bool draws() const override { return false; }
    QString keyFigure() const override;
    State state() const override;
    void show() override;

  private:
    QLabel* words_;
};

}  // namespace cvane::desk
