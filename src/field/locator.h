#pragma once
#include <array>
#include <optional>

#include "field/mesh.h"

namespace cvane::field {

/// A place in the air as a mean of four nodes: any quantity can be read there.
struct Spot {
    CellIndex cell = -1;
    std::array<Node, 4> node{};
    std::array<double, 4> weight{};  ///< sum 1
};

template <class T>
T valueAt(const Mesh& mesh, const Spot& spot, const std::vector<T>& atPoints) {
    T sum = spot.weight[0] * mesh.at(atPoints, spot.node[0]);
    for (std::size_t k = 1; k < 4; ++k) sum += spot.weight[k] * mesh.at(atPoints, spot.node[k]);
    return sum;
}

/// Finds places that lie near each other one after the other, going from cell to cell.
class Locator {
  public:
    explicit Locator(const Mesh& mesh) : mesh_(mesh) {}
    /// Nothing in the model and outside the tunnel.
    std::optional<Spot> find(const Vec3& x);
    /// The same where the way from the place before must lead through the air: a wall in between ends it.
    std::optional<Spot> follow(const Vec3& x);
    /// The face through which the last place that was not found left the air; -1: not known.
    FaceIndex leftThrough() const { return left_; }

  private:
    struct Best {
        double least = -1e300;  ///< smallest weight
        Spot spot;
        FaceIndex face = -1;  ///< of the tetrahedron
        double towardsMiddle = 0.0;
    };
    std::optional<Spot> search(const Vec3& x);
    Best bestIn(CellIndex c, const Vec3& x) const;
    const Mesh& mesh_;
    CellIndex cell_ = -1;
    FaceIndex left_ = -1;
};

}  // namespace cvane::field
