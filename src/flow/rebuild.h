#pragma once
#include <cstddef>
#include <vector>

#include "base/vec3.h"
#include "flow/piece.h"

namespace cvane::flow {

/// Of what a face gets from its cells, the share that is rebuilt from their gradients; the rest lies on the straight
/// line between the two. Means over cells then give the mean over the face to third order where cells are even, from
/// upwind as from both sides: with the rebuild alone the error is h^2 / 12 of the second derivative, which over the
/// few cells of the deceleration ahead of a body adds up to some per cent of the total pressure. Source: B. van Leer,
/// Lect. Appl. Math. 22, 1985 (kappa = 1/3).
inline constexpr double kRebuilt = 2.0 / 3.0;

inline double along(const Vec3& gradient, const Vec3& r) {
    return gradient.dot(r);
}
inline Vec3 along(const Mat3& gradient, const Vec3& r) {
    return gradient * r;
}

/// At a linked face, on the straight line between its cells; exact for linear fields where the line misses the middle.
template <class T, class G>
T straightBetween(const Piece& p, std::size_t f, const std::vector<T>& phi, const std::vector<G>& grad) {
    const auto P = static_cast<std::size_t>(p.P[f]), N = static_cast<std::size_t>(p.N[f]);
    const double w = p.w[f];
    const Vec3 off = w * (p.xf[f] - p.x[P]) + (1.0 - w) * (p.xf[f] - p.x[N]);
    return w * phi[P] + (1.0 - w) * phi[N] + along(G(w * grad[P] + (1.0 - w) * grad[N]), off);
}

/// At a linked face, from both sides.
template <class T, class G>
T betweenCells(const Piece& p, std::size_t f, const std::vector<T>& phi, const std::vector<G>& grad) {
    const auto P = static_cast<std::size_t>(p.P[f]), N = static_cast<std::size_t>(p.N[f]);
    const double w = p.w[f];
    const Vec3 toP = p.xf[f] - p.x[P], toN = p.xf[f] - p.x[N], off = w * toP + (1.0 - w) * toN;
    const Vec3 rP = kRebuilt * toP + (1.0 - kRebuilt) * off, rN = kRebuilt * toN + (1.0 - kRebuilt) * off;
    return w * (phi[P] + along(grad[P], rP)) + (1.0 - w) * (phi[N] + along(grad[N], rN));
}

}  // namespace cvane::flow
