#pragma once
#include <QTableWidget>

#include "desk/stages/stage.h"

namespace cvane::desk {

/// Parts, placement, dimensions, surface health and reference values.
class ModelStage : public Stage {
    Q_OBJECT
  public:
    ModelStage(Document& document, Middle& middle);
    QString title() const override { return "Model"; }
    Group group() const override { return Group::Shape; }
    QString keyFigure() const override;
    State state() const override;
    void show() override;

  private:
    void fillParts();
    QTableWidget* parts_;
    QLabel *size_, *health_, *remarks_;
    bool filling_ = false;
};

}  // namespace cvane::desk
