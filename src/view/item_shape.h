#pragma once
#include <array>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "campaign/settings/settings.h"
#include "field/flow_field.h"

namespace cvane::view {

/// What an item of a point's flow is made of: polygons or lines with a value at each place. No drawing in it, so that
/// it can be worked out away from a window.
struct ItemShape {
    std::vector<Vec3> places;                         ///< [m]
    std::vector<double> values;                       ///< one a place; empty: plain
    std::vector<std::int32_t> corners;                ///< of polygons or lines, one after the other
    std::vector<std::int32_t> start{0};               ///< pieces + 1 entries into corners
    bool areLines = false, isFlat = false;            ///< flat: drawn in its own colours, without light and shade
    std::vector<std::array<Vec3, 2>> contours;        ///< pieces of lines of equal value [m]
    std::vector<std::pair<Vec3, std::string>> words;  ///< what is written, and where [m]
    int steps = 0;                                    ///< of the colours; 0: smooth
    double opacity = 1.0;
    double low = 0.0, high = 1.0;  ///< ends of the colours
    field::Sense sense = field::Sense::Level;
    std::shared_ptr<const ItemShape> coarse;  ///< for while the view moves; null: it is small enough as it is
    std::string title;                        ///< of the colours, with the unit
    std::string trouble;                      ///< why there is nothing, or less than was asked for
    std::size_t pieces() const { return start.size() - 1; }
    /// Takes one more polygon or line of these places.
    void addPiece(const std::vector<Vec3>& of);
};

/// @param wanted  false gives the work up: what is returned then counts for nothing
/// Does not throw for what the item asks wrongly: the trouble says so.
ItemShape shapeOf(const campaign::FlowItem& item, const field::FlowField& flow,
                  const std::function<bool()>& wanted = {});

/// How far a wall of another flow may lie away to be the same place, over the model's length.
inline constexpr double kSamePlace = 0.01;

/// A wall's values less those of another flow, of any grid, at the nearest place that looks about the same way; where
/// there is none near enough they are not numbers. The colours' ends are chosen anew.
ItemShape wallDifference(const campaign::FlowItem& item, const field::FlowField& flow, const field::FlowField& less);

/// Normals at a shape's places, means over its polygons; out of the model where these are walls.
std::vector<Vec3> normalsOf(const ItemShape& shape);

/// About the same in few pieces: places near each other that look the same way become one.
/// @return null: the shape has few enough
std::shared_ptr<const ItemShape> coarseOf(const ItemShape& shape);

/// What a flow shows before anything was chosen: the walls, a slice through the middle, lines that pass the model.
std::vector<campaign::FlowItem> firstItems(const field::FlowField& flow);

/// What walls have besides the quantities of the air.
const std::vector<field::Quantity>& wallQuantities();

/// The model's walls in a flow [m].
Box wallsOf(const field::FlowField& flow);
/// Height of the ground in a flow [m], the lower side of its grid; nothing in a tunnel without one.
std::optional<double> groundOf(const field::FlowField& flow, const grid::Tunnel& tunnel);

}  // namespace cvane::view
