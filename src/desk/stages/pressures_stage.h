#pragma once
#include "desk/stages/stage.h"
#include <QComboBox>
#include <QDoubleSpinBox>

#include "desk/fields.h"

namespace cvane::desk {

/// Surface Cp in the view and Cp along a cut.
class PressuresStage : public Stage {
    Q_OBJECT
  public:
    PressuresStage(Document& document, Middle& middle);
    QString title() const override { return "Pressures"; }
    QString keyFigure() const override;
    State state() const override;
    void show() override;

  private:
    void load();
    void plot();
    QComboBox *axis_, *what_;
    QDoubleSpinBox* place_;
    QLabel* words_;
    QFutureWatcher<std::shared_ptr<const PointFields>> job_;
    std::shared_ptr<const PointFields> fields_;
    std::string loaded_;
};

}  // namespace cvane::desk
