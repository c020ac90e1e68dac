// The stage Tunnel by hand: its sides are moved by grips in the view.
#include <algorithm>
#include <cmath>

#include "desk/stages/planned_grid.h"
#include "desk/stages/tunnel_stage.h"

namespace cvane::desk {

// As it is, or as it is being dragged.
grid::Tunnel TunnelStage::tunnel() const {
    return dragged_.value_or(document_.tunnel());
}

struct TunnelStage::Side {
    const char* name;
    int axis;
    bool high;
    double grid::Tunnel::*extent;
};

namespace {
using Side = TunnelStage::Side;
constexpr Side kSides[] = {{"upstream", 0, false, &grid::Tunnel::upstream},
                           {"downstream", 0, true, &grid::Tunnel::downstream},
                           {"side", 1, true, &grid::Tunnel::sideways},
                           {"above", 2, true, &grid::Tunnel::above},
                           {"below", 2, false, &grid::Tunnel::below}};
}  // namespace

void TunnelStage::showScene(bool on) {
    Stage::showScene(on);
    if (on) return;
    dragged_.reset();
    middle_.canvas().setHandles({});
}

// A grip in the middle of each side that can be moved; the ground is moved by the ride height.
void TunnelStage::showHandles(const Box& box) {
    if (dragged_) return;  // the one that is held stays where the hand is
    std::vector<Handle> handles;
    for (const Side& s : kSides) {
        if (s.axis == 2 && !s.high && document_.settings().tunnel.floor != grid::Floor::None) continue;
        Vec3 at = box.centre();
        at[s.axis] = (s.high ? box.high : box.low)[s.axis];
        if (current_) handles.push_back({s.name, at, Vec3(Vec3::Unit(s.axis))});
    }
    middle_.canvas().setHandles(std::move(handles));
}

void TunnelStage::dragSide(const QString& name, const Vec3& to) {
    const Box model = grid::modelInTunnel(document_.settings().tunnel, document_.measures().bounds);
    const double length = model.size().maxCoeff();
    for (const Side& s : kSides) {
        if (name != s.name || !(length > 0.0)) continue;
        const double away = s.high ? to[s.axis] - model.high[s.axis] : model.low[s.axis] - to[s.axis];
        extend(s, std::max(0.1, std::round(10.0 * away / length) / 10.0));
    }
}

void TunnelStage::extend(const Side& s, double lengths) {
    auto t = document_.tunnel();
    t.*s.extent = lengths;
    dragged_ = t;
    show();
    const QString words =
        tr("%1 %2 body lengths: the model %3 of the section").arg(s.name).arg(lengths).arg(keyFigure());
    emit document_.said(words + ".");
    // What the grid becomes with it takes a moment: said as soon as it is known.
    auto c = document_.campaign();
    c.settings.tunnel.*s.extent = lengths;
    planGrid(
        planJob_, c, document_.placedShared(),
        [](const grid::Plan& p) {
            return tr("%L1 cells, %2 m on the model").arg(p.cells).arg(p.surfaceCell, 0, 'g', 3);
        },
        [this, words](const QString& grid) {
            if (current_ && !grid.isEmpty()) emit document_.said(words + "; " + grid + ".");
        });
}

void TunnelStage::listenToHand() {
    const auto& canvas = middle_.canvas();
    connect(&canvas, &Canvas::handleMoved, this, [this](const QString& name, const Vec3& to) {
        if (current_) dragSide(name, to);
    });
    connect(&canvas, &Canvas::handleTyped, this, [this](const QString& name, double lengths) {
        for (const Side& s : kSides)
            if (current_ && name == s.name && lengths > 0.0) extend(s, lengths);
    });
    connect(&canvas, &Canvas::handleLeft, this, [this] {
        if (current_) letSideGo();
    });
    connect(&canvas, &Canvas::handleGivenUp, this, [this] {
        if (!current_) return;
        planJob_.forget();
        dragged_.reset();
        show();
    });
}

void TunnelStage::letSideGo() {
    if (!dragged_) return;
    auto s = document_.settings();
    for (const Side& side : kSides) s.tunnel.*side.extent = (*dragged_).*side.extent;
    dragged_.reset();
    change(tr("change the tunnel"), s);
}

}  // namespace cvane::desk
