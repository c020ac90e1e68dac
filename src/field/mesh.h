#pragma once
#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "grid/grid.h"

namespace cvane::field {

using grid::CellIndex;
using grid::FaceIndex;

/// A node of the tetrahedra into which cells are split: a point of the grid, then the mean point of a face, then that
/// of a cell. Values at faces and cells are means as well, so that what is linear in space is so in every tetrahedron,
/// and neighbours agree on what they share.
using Node = std::int64_t;

/// A grid with what pictures need of it: cells by their faces, cells by place, means and gradients.
class Mesh {
  public:
    Mesh(std::shared_ptr<const grid::Grid> grid, std::shared_ptr<const grid::Geometry> geometry);

    const grid::Grid& grid() const { return *grid_; }
    const grid::Geometry& geometry() const { return *geometry_; }
    std::size_t points() const { return grid_->points.size(); }
    CellIndex cells() const { return grid_->cells(); }
    std::span<const FaceIndex> facesOf(CellIndex c) const {
        const auto i = static_cast<std::size_t>(c);
        return {faces_.data() + faceStart_[i], faces_.data() + faceStart_[i + 1]};
    }
    /// The cell on the other side of a face; -1 where there is none.
    CellIndex across(FaceIndex f, CellIndex c) const {
        if (f >= grid_->internalFaces()) return -1;
        const auto i = static_cast<std::size_t>(f);
        return grid_->owner[i] == c ? grid_->neighbour[i] : grid_->owner[i];
    }
    /// Cube root of the volume [m].
    double sizeOf(CellIndex c) const { return std::cbrt(geometry_->volume[static_cast<std::size_t>(c)]); }

    Node ofFace(FaceIndex f) const { return static_cast<Node>(points()) + f; }
    Node ofCell(CellIndex c) const { return static_cast<Node>(points()) + grid_->faces() + c; }
    /// Place of a node [m].
    Vec3 place(Node n) const { return at(grid_->points, n); }
    /// Value at a node of what is given at the grid's points.
    template <class T>
    T at(const std::vector<T>& atPoints, Node n) const {
        const auto nPoints = static_cast<Node>(points());
        if (n < nPoints) return atPoints[static_cast<std::size_t>(n)];
        if (n < nPoints + grid_->faces()) return meanOfFace(atPoints, static_cast<FaceIndex>(n - nPoints));
        const auto faces = facesOf(static_cast<CellIndex>(n - nPoints - grid_->faces()));
        T sum = meanOfFace(atPoints, faces[0]);
        for (std::size_t k = 1; k < faces.size(); ++k) sum += meanOfFace(atPoints, faces[k]);
        return sum / static_cast<double>(faces.size());
    }

    /// Calls visit(cell) for the cells of all blocks whose box `meets` takes.
    template <class Meets, class Visit>
    void visit(const Meets& meets, const Visit& visit) const {
        for (std::size_t b = 0; b < boxes_.size(); ++b) {
            if (!meets(boxes_[b])) continue;
            const std::size_t last = std::min(order_.size(), (b + 1) * kBlock);
            for (std::size_t i = b * kBlock; i < last; ++i) visit(order_[i]);
        }
    }
    /// The cell that holds a place; -1 in the model and outside the tunnel.
    CellIndex cellAt(const Vec3& x) const;

    /// The face of a cell that a place lies farthest beyond, and by how many of its sizes; below 0: inside.
    std::pair<FaceIndex, double> farthestBeyond(CellIndex c, const Vec3& x) const;

    /// Cell values at the grid's points: means over the cells around, weighted with the inverse distance, of what the
    /// values and their gradients say there. Exact for what is linear in space.
    std::vector<double> toPoints(const std::vector<double>& values) const;
    std::vector<Vec3> toPoints(const std::vector<Vec3>& values) const;
    /// Least-squares gradient over the neighbours of each cell, weighted with the inverse distance squared.
    std::vector<Vec3> gradient(const std::vector<double>& values) const;
    /// Rows belong to components: G(i, j) = d u_i / d x_j.
    std::vector<Mat3> gradient(const std::vector<Vec3>& values) const;

  private:
    static constexpr std::size_t kBlock = 32;  ///< cells near each other that share a box
    template <class T>
    T meanOfFace(const std::vector<T>& atPoints, FaceIndex f) const {
        const auto polygon = grid_->polygon(f);
        T sum = atPoints[static_cast<std::size_t>(polygon[0])];
        for (std::size_t k = 1; k < polygon.size(); ++k) sum += atPoints[static_cast<std::size_t>(polygon[k])];
        return sum / static_cast<double>(polygon.size());
    }
    template <class T, class G>
    std::vector<G> gradientOf(const std::vector<T>& values) const;
    template <class T>
    std::vector<T> pointsOf(const std::vector<T>& values) const;
    void makeBlocks();
    void makeLeastSquares();
    void makePointCells();

    std::shared_ptr<const grid::Grid> grid_;
    std::shared_ptr<const grid::Geometry> geometry_;
    std::vector<std::size_t> faceStart_;
    std::vector<FaceIndex> faces_;
    std::vector<CellIndex> order_;  ///< cells along a curve that fills space
    std::vector<Box> boxes_;        ///< of each block of them
    std::vector<Mat3> leastSquares_;
    std::vector<std::size_t> cellStart_;  ///< points + 1 entries into cellsOfPoint_
    std::vector<CellIndex> cellsOfPoint_;
};

}  // namespace cvane::field
