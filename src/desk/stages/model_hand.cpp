// The stage Model by hand: the model is turned by grips in the view.
#include <QDoubleSpinBox>
#include <cmath>

#include "base/units.h"
#include "desk/look.h"
#include "desk/scene.h"
#include "desk/stages/model_stage.h"

namespace cvane::desk {
namespace {
struct Grip {
    const char* name;
    int axis;     ///< about which it turns
    int arm;      ///< axis along which it stands off the middle
    double side;  ///< on which side: -1 against that axis, 1 along it
    int moves;    ///< axis along which it is moved
    double sign;  ///< of a right-handed turn, for a move along +
};
// Ahead of the nose, behind the tail, and at the starboard side.
constexpr Grip kGrips[] = {{"pitch", 1, 0, -1.0, 2, 1.0}, {"yaw", 2, 0, 1.0, 1, 1.0}, {"roll", 0, 1, 1.0, 2, 1.0}};

double armOf(const Grip& g, const Box& b) {
    return 0.65 * std::max(b.size()[g.arm], 0.3 * b.size().maxCoeff()) * g.side;
}

Vec3 placeOf(const Grip& g, const Box& b) {
    Vec3 at = b.centre();
    at[g.arm] += armOf(g, b);
    return at;
}
}  // namespace

void ModelStage::showScene(bool on) {
    Stage::showScene(on);
    if (on) return;
    turn_.reset();
    middle_.canvas().setHandles({});
}

void ModelStage::showHandles() {
    std::vector<Handle> handles;
    if (current_ && document_.modelReady() && !turn_)
        for (const Grip& g : kGrips)
            handles.push_back({g.name, placeOf(g, document_.measures().bounds), Vec3(Vec3::Unit(g.moves))});
    if (!turn_) middle_.canvas().setHandles(std::move(handles));
}

void ModelStage::dragTurn(const QString& name, const Vec3& to) {
    const Box b = document_.measures().bounds;
    for (const Grip& g : kGrips) {
        if (name != g.name) continue;
        const double off = to[g.moves] - b.centre()[g.moves], arm = std::abs(armOf(g, b));
        sketchTurn(name, {g.axis, std::round(10.0 * g.sign * std::atan2(off, arm) / base::degree) / 10.0});
    }
}

void ModelStage::typeTurn(const QString& name, double degrees) {
    for (const Grip& g : kGrips)
        if (name == g.name) sketchTurn(name, {g.axis, degrees});
}

void ModelStage::sketchTurn(const QString& name, const Turn& turn) {
    const Box b = document_.measures().bounds;
    turn_ = turn;
    // A sketch of the box that is turned; the model follows when it is let go.
    std::vector<Vec3> ring;
    const Mat3 R = Eigen::AngleAxisd(turn.degrees * base::degree, Vec3(Vec3::Unit(turn.axis))).toRotationMatrix();
    const Vec3 half = 0.5 * b.size(), c = b.centre();
    for (const auto& [i, j, k] : {std::array{-1, -1, -1},
                                  {1, -1, -1},
                                  {1, 1, -1},
                                  {-1, 1, -1},
                                  {-1, -1, -1},
                                  {-1, -1, 1},
                                  {1, -1, 1},
                                  {1, 1, 1},
                                  {-1, 1, 1},
                                  {-1, -1, 1}})
        ring.push_back(c + R * Vec3(i * half.x(), j * half.y(), k * half.z()));
    scene_.add("turn", scene::pathActor(ring, look::accent));
    emit document_.said(tr("%1 by %2\u00b0: let go, or type the angle and Enter; Esc leaves it.")
                            .arg(name)
                            .arg(turn.degrees, 0, 'f', 1));
    middle_.canvas().refresh();
}

void ModelStage::giveTurnUp() {
    turn_.reset();
    scene_.remove("turn");
    showHandles();
}

void ModelStage::letTurnGo() {
    if (!turn_) return;
    const Turn turn = *turn_;
    turn_.reset();
    scene_.remove("turn");
    turnBy(turn.axis, turn.degrees);
    // What is typed next is the angle.
    rotation_[static_cast<std::size_t>(turn.axis)]->setFocus();
    rotation_[static_cast<std::size_t>(turn.axis)]->selectAll();
}

}  // namespace cvane::desk
