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
    struct Side;  ///< one that can be moved

  private:
    void addRideHeight(QFormLayout* form);
    // The sides by hand in the view.
    grid::Tunnel tunnel() const;
    void showHandles(const Box& box);
    void listenToHand();
    void dragSide(const QString& name, const Vec3& to);
    void extend(const Side& side, double lengths);  ///< while it is held, and what comes of it
    void letSideGo();
    std::optional<grid::Tunnel> dragged_;
    Job<QString> planJob_;  ///< of the tunnel that is dragged
    QLabel *box_, *remarks_;
};

}  // namespace cvane::desk
