#include "field/mesh.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numeric>

namespace cvane::field {
namespace {
// The bits of three numbers of 21 bits, by turns: cells near each other in space come near each other in the order.
std::uint64_t woven(std::uint64_t x, std::uint64_t y, std::uint64_t z) {
    const auto spread = [](std::uint64_t v) {
        v &= 0x1fffff;
        v = (v | v << 32) & 0x1f00000000ffffULL;
        v = (v | v << 16) & 0x1f0000ff0000ffULL;
        v = (v | v << 8) & 0x100f00f00f00f00fULL;
        v = (v | v << 4) & 0x10c30c30c30c30c3ULL;
        return (v | v << 2) & 0x1249249249249249ULL;
    };
    return spread(x) | spread(y) << 1 | spread(z) << 2;
}

Vec3 outer(double d, const Vec3& c) {
    return d * c;
}
Mat3 outer(const Vec3& d, const Vec3& c) {
    return d * c.transpose();
}
double along(const Vec3& g, const Vec3& d) {
    return g.dot(d);
}
Vec3 along(const Mat3& g, const Vec3& d) {
    return g * d;
}
}  // namespace

Mesh::Mesh(std::shared_ptr<const grid::Grid> grid, std::shared_ptr<const grid::Geometry> geometry)
    : grid_(std::move(grid)), geometry_(std::move(geometry)) {
    const auto n = static_cast<std::size_t>(grid_->cells());
    faceStart_.assign(n + 1, 0);
    const auto forEach = [&](const auto& take) {
        for (FaceIndex f = 0; f < grid_->faces(); ++f) {
            take(static_cast<std::size_t>(grid_->owner[static_cast<std::size_t>(f)]), f);
            if (f < grid_->internalFaces())
                take(static_cast<std::size_t>(grid_->neighbour[static_cast<std::size_t>(f)]), f);
        }
    };
    forEach([&](std::size_t c, FaceIndex) { ++faceStart_[c + 1]; });
    std::partial_sum(faceStart_.begin(), faceStart_.end(), faceStart_.begin());
    faces_.resize(faceStart_.back());
    auto next = faceStart_;
    forEach([&](std::size_t c, FaceIndex f) { faces_[next[c]++] = f; });
    makeBlocks();
    makeLeastSquares();
    makePointCells();
}

void Mesh::makeBlocks() {
    const auto n = static_cast<std::size_t>(cells());
    Box all;
    for (const Vec3& x : geometry_->cellCentre) all.add(x);
    const Vec3 scale = (all.size().cwiseMax(1e-300)).cwiseInverse() * static_cast<double>(0x1fffff);
    std::vector<std::pair<std::uint64_t, CellIndex>> keyed(n);
    for (std::size_t c = 0; c < n; ++c) {
        const Vec3 u = (geometry_->cellCentre[c] - all.low).cwiseProduct(scale);
        keyed[c] = {woven(static_cast<std::uint64_t>(u.x()), static_cast<std::uint64_t>(u.y()),
                          static_cast<std::uint64_t>(u.z())),
                    static_cast<CellIndex>(c)};
    }
    std::sort(keyed.begin(), keyed.end());
    order_.resize(n);
    for (std::size_t i = 0; i < n; ++i) order_[i] = keyed[i].second;
    boxes_.assign((n + kBlock - 1) / kBlock, Box{});
    for (std::size_t i = 0; i < n; ++i)
        for (const FaceIndex f : facesOf(order_[i]))
            for (const auto p : grid_->polygon(f)) boxes_[i / kBlock].add(grid_->points[static_cast<std::size_t>(p)]);
}

void Mesh::makeLeastSquares() {
    // As the solver's own gradients: a cell that has neighbours in a plane only takes its boundary faces as well, with
    // no change towards them.
    leastSquares_.assign(static_cast<std::size_t>(cells()), Mat3::Zero());
#pragma omp parallel for schedule(static)
    for (CellIndex c = 0; c < cells(); ++c) {
        const auto i = static_cast<std::size_t>(c);
        Mat3 inner = Mat3::Zero(), edge = Mat3::Zero();
        for (const FaceIndex f : facesOf(c)) {
            const CellIndex other = across(f, c);
            const Vec3 d = (other >= 0 ? geometry_->cellCentre[static_cast<std::size_t>(other)]
                                       : geometry_->faceCentre[static_cast<std::size_t>(f)]) -
                           geometry_->cellCentre[i];
            (other >= 0 ? inner : edge) += d * d.transpose() / d.squaredNorm();
        }
        // Where the product of the eigenvalues is far from that of equal ones, the smallest may be small.
        if (inner.determinant() < 0.2 * std::pow(inner.trace() / 3.0, 3)) {
            const Eigen::SelfAdjointEigenSolver<Mat3> eigen(inner, Eigen::EigenvaluesOnly);
            if (eigen.eigenvalues()[0] < 0.02 * eigen.eigenvalues()[2]) inner += edge;
        }
        inner += 1e-14 * inner.trace() * Mat3::Identity();
        leastSquares_[i] = inner.inverse();
    }
}

void Mesh::makePointCells() {
    cellStart_.assign(points() + 1, 0);
    std::vector<CellIndex> seenBy(points());
    const auto forEach = [&](const auto& take) {
        std::fill(seenBy.begin(), seenBy.end(), -1);
        for (CellIndex c = 0; c < cells(); ++c)
            for (const FaceIndex f : facesOf(c))
                for (const auto p : grid_->polygon(f))
                    if (auto& last = seenBy[static_cast<std::size_t>(p)]; last != c) {
                        last = c;
                        take(static_cast<std::size_t>(p), c);
                    }
    };
    forEach([&](std::size_t p, CellIndex) { ++cellStart_[p + 1]; });
    std::partial_sum(cellStart_.begin(), cellStart_.end(), cellStart_.begin());
    cellsOfPoint_.resize(cellStart_.back());
    auto next = cellStart_;
    forEach([&](std::size_t p, CellIndex c) { cellsOfPoint_[next[p]++] = c; });
}

std::pair<FaceIndex, double> Mesh::farthestBeyond(CellIndex c, const Vec3& x) const {
    std::pair<FaceIndex, double> worst{-1, -1e300};
    for (const FaceIndex f : facesOf(c)) {
        const auto i = static_cast<std::size_t>(f);
        const Vec3& S = geometry_->faceArea[i];
        const double side = grid_->owner[i] == c ? 1.0 : -1.0;
        const double d = side * S.dot(x - geometry_->faceCentre[i]) / std::max(S.norm(), 1e-300);
        if (d > worst.second) worst = {f, d};
    }
    worst.second /= sizeOf(c);
    return worst;
}

CellIndex Mesh::cellAt(const Vec3& x) const {
    // Faces that are not plane leave slivers between cells: the one that x is least outside of has it.
    constexpr double kSliver = 0.05;  // of a cell
    CellIndex best = -1;
    double least = kSliver;
    visit([&](const Box& b) { return (x.array() >= b.low.array()).all() && (x.array() <= b.high.array()).all(); },
          [&](CellIndex c) {
              if (const double d = farthestBeyond(c, x).second; d < least) {
                  least = d;
                  best = c;
              }
          });
    return best;
}

template <class T, class G>
std::vector<G> Mesh::gradientOf(const std::vector<T>& values) const {
    std::vector<G> out(values.size());
#pragma omp parallel for schedule(static)
    for (CellIndex c = 0; c < cells(); ++c) {
        const auto i = static_cast<std::size_t>(c);
        G sum = G::Zero();
        for (const FaceIndex f : facesOf(c)) {
            const CellIndex other = across(f, c);
            if (other < 0) continue;
            const auto o = static_cast<std::size_t>(other);
            const Vec3 d = geometry_->cellCentre[o] - geometry_->cellCentre[i];
            sum += outer(values[o] - values[i], Vec3(leastSquares_[i] * d / d.squaredNorm()));
        }
        out[i] = sum;
    }
    return out;
}

std::vector<Vec3> Mesh::gradient(const std::vector<double>& values) const {
    return gradientOf<double, Vec3>(values);
}
std::vector<Mat3> Mesh::gradient(const std::vector<Vec3>& values) const {
    return gradientOf<Vec3, Mat3>(values);
}

template <class T>
std::vector<T> Mesh::pointsOf(const std::vector<T>& values) const {
    const auto slope = gradient(values);
    std::vector<T> out(points());
    const auto n = static_cast<std::int64_t>(points());
#pragma omp parallel for schedule(static)
    for (std::int64_t p = 0; p < n; ++p) {
        const auto i = static_cast<std::size_t>(p);
        double weights = 0.0;
        T sum = 0.0 * values[0];
        for (auto k = cellStart_[i]; k < cellStart_[i + 1]; ++k) {
            const auto c = static_cast<std::size_t>(cellsOfPoint_[k]);
            const Vec3 d = grid_->points[i] - geometry_->cellCentre[c];
            const double w = 1.0 / std::max(d.norm(), 1e-300);
            sum += w * (values[c] + along(slope[c], d));
            weights += w;
        }
        out[i] = weights > 0.0 ? T(sum / weights) : sum;
    }
    return out;
}

std::vector<double> Mesh::toPoints(const std::vector<double>& values) const {
    return pointsOf(values);
}
std::vector<Vec3> Mesh::toPoints(const std::vector<Vec3>& values) const {
    return pointsOf(values);
}

}  // namespace cvane::field
