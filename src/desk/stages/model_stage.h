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
    Need need() const override;
    void show() override;

  private:
    void fillParts();
    void tellPicked();
    void pickAt(const Vec3& place);
    QTableWidget* parts_;
    QLabel *size_, *health_, *remarks_, *picked_;
    bool filling_ = false;
};

}  // namespace cvane::desk
