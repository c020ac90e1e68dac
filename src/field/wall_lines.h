#pragma once
#include <array>
#include <functional>
#include <vector>

#include "field/mesh.h"

namespace cvane::field {

/// A place on a wall as a mean of three nodes.
struct WallSpot {
    std::int32_t triangle = -1;
    std::array<double, 3> weight{};  ///< sum 1
};

/// Walls as triangles about the middle of each face, with their neighbours.
class WallSkin {
  public:
    /// @param faces  of walls
    WallSkin(const Mesh& mesh, const std::vector<FaceIndex>& faces);

    std::size_t triangles() const { return corner_.size(); }
    double area() const { return area_; }                                  ///< [m2]
    Vec3 normal(std::int32_t t) const { return normal_[std::size_t(t)]; }  ///< of unit length, out of the model
    std::int32_t across(std::int32_t t, int side) const {                  ///< -1: an edge of the walls
        return across_[std::size_t(t)][std::size_t(side)];
    }
    const std::array<Node, 3>& corners(std::int32_t t) const { return corner_[std::size_t(t)]; }
    double sizeOf(std::int32_t t) const { return size_[std::size_t(t)]; }  ///< root of its area [m]
    Vec3 place(const WallSpot& s) const { return valueAt(s, mesh_.grid().points); }
    /// What is given at the grid's points, there.
    template <class T>
    T valueAt(const WallSpot& s, const std::vector<T>& atPoints) const {
        const auto& c = corners(s.triangle);
        T sum = s.weight[0] * mesh_.at(atPoints, c[0]);
        for (std::size_t k = 1; k < 3; ++k) sum += s.weight[k] * mesh_.at(atPoints, c[k]);
        return sum;
    }
    const Mesh& mesh() const { return mesh_; }

  private:
    const Mesh& mesh_;
    std::vector<std::array<Node, 3>> corner_;
    std::vector<std::array<std::int32_t, 3>> across_;  ///< the triangle beyond the side that faces each corner
    std::vector<Vec3> normal_;
    std::vector<double> size_;
    double area_ = 0.0;
};

/// A line on the wall along its shear, from its upstream end on.
struct WallLine {
    std::vector<WallSpot> spots;
    std::vector<Vec3> places;  ///< [m]
};

/// Lines along the shear all over the walls (limiting lines: those of the flow as the distance from the wall goes to
/// zero). They keep apart by about the side of a square of which `count` cover the walls, and end where another line
/// is met, at sharp edges, and where the shear vanishes or meets the shear from the other side.
/// @param shearAtPoints  one vector a grid point; its size does not count
/// @param wanted  false ends the work; what is there by then is returned
std::vector<WallLine> limitingLines(const WallSkin& skin, const std::vector<Vec3>& shearAtPoints, int count,
                                    const std::function<bool()>& wanted = {});

}  // namespace cvane::field
