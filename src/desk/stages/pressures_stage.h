#pragma once
#include <QComboBox>
#include <QDoubleSpinBox>

#include "desk/model/field_loader.h"
#include "desk/stages/stage.h"

namespace cvane::desk {

/// Surface Cp in the view and Cp along a cut.
class PressuresStage : public Stage {
    Q_OBJECT
  public:
    PressuresStage(Document& document, Middle& middle);
    QString title() const override { return "Pressures"; }
    Group group() const override { return Group::Reading; }
    QString keyFigure() const override;
    State state() const override;
    void show() override;

  private:
    void plot();
    QComboBox *axis_, *what_;
    QDoubleSpinBox* place_;
    QLabel* words_;
    FieldLoader loader_;
};

}  // namespace cvane::desk
