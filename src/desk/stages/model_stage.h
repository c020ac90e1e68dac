#pragma once
#include <QTableWidget>
#include <array>
#include <optional>

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
    void showScene(bool on) override;

  private:
    void fillParts();
    void tellPicked();
    void pickAt(const Vec3& place);
    // By hand in the view: by grips ahead of the nose, behind the tail and at the side.
    void turnBy(int axis, double degrees);
    void showHandles();
    void dragTurn(const QString& name, const Vec3& to);
    void letTurnGo();
    void typeTurn(const QString& name, double degrees);
    void giveTurnUp();
    QTableWidget* parts_;
    QLabel *size_, *health_, *remarks_, *picked_;
    std::array<class QDoubleSpinBox*, 3> rotation_{};
    /// A turn on its way: about which axis, how far, from how the model stood.
    struct Turn {
        int axis = 0;
        double degrees = 0.0;
    };
    void sketchTurn(const QString& name, const Turn& turn);
    std::optional<Turn> turn_;
    bool filling_ = false;
};

}  // namespace cvane::desk
