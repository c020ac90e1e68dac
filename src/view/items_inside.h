#pragma once
// Shared by the files that make items of a flow.
#include "view/item_shape.h"

namespace cvane::view {

struct Title {
    std::string text;
    field::Sense sense = field::Sense::Level;
};
/// Of a quantity of the air or of walls, or of a formula.
Title titleOf(const field::FlowField& flow, const std::string& id);
void take(const Title& title, ItemShape& shape);
/// Ends of the colours: the item's own, or what shows most of the values.
void chooseRange(const campaign::FlowItem& item, ItemShape& shape);

/// Takes an arrow, its head in the plane across `normal`: a shaft and a head, five places in all.
void addArrow(const Vec3& from, const Vec3& way, const Vec3& normal, ItemShape& shape);

/// What a square metre of the i-th wall face adds to the force, over q.
inline Vec3 pushOf(const field::FlowField& flow, std::size_t i) {
    const auto& wall = flow.wall();
    const Vec3& S = flow.mesh().geometry().faceArea[static_cast<std::size_t>(wall.face[i])];
    return wall.Cp[i] * S.normalized() + wall.Cf[i];
}

void makeWall(const campaign::FlowItem& item, const field::FlowField& flow, ItemShape& shape);
void makeWallArrows(const campaign::FlowItem& item, const field::FlowField& flow, ItemShape& shape);
void makeWallLines(const campaign::FlowItem& item, const field::FlowField& flow, const std::function<bool()>& wanted,
                   ItemShape& shape);

}  // namespace cvane::view
