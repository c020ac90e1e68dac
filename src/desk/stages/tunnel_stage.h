#pragma once
#include "desk/stages/stage.h"

namespace cvane::desk {

/// The box of air: extents in body lengths, ground, half model, blockage.
class TunnelStage : public Stage {
    Q_OBJECT
  public:
    TunnelStage(Document& document, Middle& middle);
    QString title() const override { return "Tunnel"; }
    Group group() const override { return Group::Tunnel; }
    QString keyFigure() const override;
    State state() const override;
    void show() override;
    void showScene(bool on) override;

  private:
    void addRideHeight(QFormLayout* form);
    // The sides by hand in the view.
    grid::Tunnel tunnel() const;
    void showHandles(const Box& box);
    void dragSide(const QString& name, const Vec3& to);
    void letSideGo();
    std::optional<grid::Tunnel> dragged_;
    QLabel *box_, *remarks_;
};

}  // namespace cvane::desk
