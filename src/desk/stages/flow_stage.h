#pragma once
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QSlider>

#include "desk/model/field_loader.h"
#include "desk/stages/stage.h"

namespace cvane::desk {

/// The air around the model on a cut: speed, pressure, lost total pressure.
class FlowStage : public Stage {
    Q_OBJECT
  public:
    FlowStage(Document& document, Middle& middle);
    QString title() const override { return "Flow"; }
    Group group() const override { return Group::Reading; }
    QString keyFigure() const override;
    State state() const override;
    void show() override;

  private:
    void draw();
    QComboBox *axis_, *what_;
    QSlider* place_;
    QLabel* words_;
    FieldLoader loader_;
};

}  // namespace cvane::desk
