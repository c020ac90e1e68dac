#pragma once
#include "desk/stages/stage.h"
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QSlider>

#include "desk/fields.h"

namespace cvane::desk {

/// The air around the model on a cut: speed, pressure, lost total pressure.
class FlowStage : public Stage {
    Q_OBJECT
  public:
    FlowStage(Document& document, Middle& middle);
    QString title() const override { return "Flow"; }
    QString keyFigure() const override;
    State state() const override;
    void show() override;

  private:
    void load();
    void draw();
    QComboBox *axis_, *what_;
    QSlider* place_;
    QLabel* words_;
    QFutureWatcher<std::shared_ptr<const PointFields>> job_;
    std::shared_ptr<const PointFields> fields_;
    std::string loaded_;
};

}  // namespace cvane::desk
