#pragma once
#include "desk/stages/stage.h"
#include <QCheckBox>
#include <QComboBox>
#include <QProgressBar>
#include <QPushButton>
#include <QSlider>

#include "grid/cut.h"

namespace cvane::desk {

/// Cell budget and wall layers; the cells on the surface and on a cut.
class GridStage : public Stage {
    Q_OBJECT
  public:
    GridStage(Document& document, Middle& middle);
    QString title() const override { return "Grid"; }
    QString keyFigure() const override;
    State state() const override;
    void show() override;

  private:
    QPushButton *make_, *cancel_;
    QProgressBar* bar_;
    QLabel* summary_;
    QComboBox* axis_;
    QSlider* place_;
    QFutureWatcher<grid::Cut> cutJob_;
};

}  // namespace cvane::desk
