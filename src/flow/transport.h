#pragma once
#include <algorithm>
#include <cmath>
#include <vector>

#include "flow/ahead.h"
#include "flow/piece.h"
#include "flow/rebuild.h"
#include "flow/sparse.h"

namespace cvane::flow {

/// How the convected value at a face is reconstructed from the cell upwind of it.
enum class Scheme {
    FirstOrder,      ///< the cell's value
    SecondOrder,     ///< rebuilt from its gradient, and in part from the cell downwind (kRebuilt)
    Limited,         ///< linear reconstruction, limited by van Leer's function of the ratio of successive differences
    LimitedInShocks  ///< SecondOrder where the flow is smooth, Limited in shocks
};

/// van Leer's limiter, 1 for a linear profile. Source: B. van Leer, J. Comput. Phys. 14 (1974).
/// r is the upwind difference over the face difference, found from the gradient: r = 2 grad_C.d / (phi_D - phi_C) - 1.
inline double vanLeer(double upwind2, double face) {
    if (std::abs(face) < 1e-30) return 0.0;
    const double r = upwind2 / face - 1.0;
    return r > 0.0 ? 2.0 * r / (1.0 + r) : 0.0;
}

/// The diffusivity that acts between cells P and N, from their mean at the face; w: weight of P there. This one is the
/// mean.
struct AsItIs {
    double operator()(std::size_t, std::size_t, double, double mean) const { return mean; }
};

/// Diffusion between two cells as if phi^(-1/2) were linear between them: exact for phi = C / y^2, as omega falls off
/// from a wall, where a straight line between the first two cells carries 1.6 times the true flux.
struct AsInverseSquare {
    const std::vector<double>& phi;  ///< own and ghost cells
    double operator()(std::size_t cellP, std::size_t cellN, double w, double mean) const {
        const double P = 1.0 / std::sqrt(phi[cellP]), N = 1.0 / std::sqrt(phi[cellN]), f = w * P + (1.0 - w) * N;
        return mean * (2.0 * P * P * N * N / ((P + N) * f * f * f));
    }
};

/// Component by component.
inline Vec3 vanLeer(const Vec3& upwind2, const Vec3& face) {
    return {vanLeer(upwind2.x(), face.x()), vanLeer(upwind2.y(), face.y()), vanLeer(upwind2.z(), face.z())};
}
inline double times(double a, double b) {
    return a * b;
}
inline Vec3 times(const Vec3& a, const Vec3& b) {
    return a.cwiseProduct(b);
}

/// At a linked face, what is added to the value of the cell upwind, P or N: by Scheme::SecondOrder,
template <class T, class G>
T beyondUpwind(const Piece& p, std::size_t f, bool fromP, const std::vector<T>& phi, const std::vector<G>& grad) {
    const auto C = static_cast<std::size_t>(fromP ? p.P[f] : p.N[f]);
    return kRebuilt * along(grad[C], p.xf[f] - p.x[C]) + (1.0 - kRebuilt) * (straightBetween(p, f, phi, grad) - phi[C]);
}
/// and by Scheme::Limited.
template <class T, class G>
T limitedBeyondUpwind(const Piece& p, std::size_t f, bool fromP, const std::vector<T>& phi,
                      const std::vector<G>& grad) {
    const auto P = static_cast<std::size_t>(p.P[f]), N = static_cast<std::size_t>(p.N[f]);
    const T face = fromP ? T(phi[N] - phi[P]) : T(phi[P] - phi[N]);
    const T upwind2 = 2.0 * along(grad[fromP ? P : N], fromP ? p.d[f] : Vec3(-p.d[f]));
    return (fromP ? 1.0 - p.w[f] : p.w[f]) * times(vanLeer(upwind2, face), face);
}

/// and by a mix of the two, `limited` being the share of the second.
template <class T, class G>
T beyondUpwind(const Piece& p, std::size_t f, bool fromP, const std::vector<T>& phi, const std::vector<G>& grad,
               double limited) {
    if (!(limited > 0.0)) return beyondUpwind(p, f, fromP, phi, grad);
    if (!(limited < 1.0)) return limitedBeyondUpwind(p, f, fromP, phi, grad);
    return (1.0 - limited) * beyondUpwind(p, f, fromP, phi, grad) +
           limited * limitedBeyondUpwind(p, f, fromP, phi, grad);
}

/// Adds div(U phi) - div(gamma grad phi) over the linked faces to A phi = b, in the form that leaves out phi div(U).
/// First-order upwind and the normal part of diffusion stand in A; the rest is taken from phi and grad as they are
/// (deferred correction), so that the settled solution is second order. Boundary faces are the caller's.
///   rows:  sum_f [ F phi_f - gamma_f grad(phi)_f . S_f ],   F: volume flux from P to N [m3/s]
/// A's diagonal is added to, its other entries are set.
/// @tparam transposed  of a velocity: adds -div(gamma grad(U)^T) too, which does not vanish where gamma varies
/// @param gamma    diffusivity, own and ghost cells
/// @param profile  what acts between two cells, of the mean of their diffusivities
/// @param shock    of LimitedInShocks: 0 where the flow is smooth, 1 in shocks; own and ghost cells
template <Scheme scheme, bool transposed = false, class T, class G, class Profile = AsItIs>
void addTransport(const Piece& p, const std::vector<double>& F, const std::vector<double>& gamma,
                  const std::vector<T>& phi, const std::vector<G>& grad, CellMatrix& A, std::vector<T>& b,
                  const Profile& profile = {}, const std::vector<double>& shock = {}) {
    for (std::size_t f = 0; f < p.linked; ++f) {
        fetchNeighbourAhead(p, f, phi, grad, gamma, p.x, b, A.diag);
        const auto P = static_cast<std::size_t>(p.P[f]), N = static_cast<std::size_t>(p.N[f]);
        const double w = p.w[f], flux = F[f];
        const double gamma_f = profile(P, N, w, w * gamma[P] + (1.0 - w) * gamma[N]);
        const double g = gamma_f * p.gap[f];
        const double aP = -std::max(-flux, 0.0) - g, aN = -std::max(flux, 0.0) - g;

        T explicitPart;
        // Non-orthogonal rest of S: T = S - (|S|^2 / S.d) d, kept below the implicit part so that steep faces stay
        // stable.
        const Vec3 rest = p.S[f] - p.gap[f] * p.d[f];
        if constexpr (std::is_same_v<T, double>) {
            const double tangential = gamma_f * (w * along(grad[P], rest) + (1.0 - w) * along(grad[N], rest)),
                         cap = g * std::abs(phi[N] - phi[P]);
            explicitPart = std::clamp(tangential, -cap, cap);
        } else {
            const G stress = gamma_f * (w * grad[P] + (1.0 - w) * grad[N]);
            explicitPart = stress * rest;
            if constexpr (transposed) explicitPart += stress.transpose() * p.S[f];
        }
        if constexpr (scheme != Scheme::FirstOrder) {
            const bool fromP = flux >= 0.0;
            const double limited = scheme == Scheme::SecondOrder ? 0.0
                                   : scheme == Scheme::Limited   ? 1.0
                                                                 : std::max(shock[P], shock[N]);
            explicitPart -= flux * beyondUpwind(p, f, fromP, phi, grad, limited);
        }
        A.val[static_cast<std::size_t>(A.atP[f])] = aP;
        A.diag[P] -= aP;
        b[P] += explicitPart;
        if (f < p.inner) {
            A.val[static_cast<std::size_t>(A.atN[f])] = aN;
            A.diag[N] -= aN;
            b[N] -= explicitPart;
        }
    }
}

/// Adds the rest of the stress of a gas that is compressed, div(2/3 mu div(U)), to b: on every linked face
/// -2/3 mu_f div(U)_f S_f. @param viscosity, dilatation  dynamic, and div(U); own and ghost cells
inline void addCompressionStress(const Piece& p, const std::vector<double>& viscosity,
                                 const std::vector<double>& dilatation, std::vector<Vec3>& b) {
    for (std::size_t f = 0; f < p.linked; ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]), N = static_cast<std::size_t>(p.N[f]);
        const double w = p.w[f], mu = w * viscosity[P] + (1.0 - w) * viscosity[N];
        const Vec3 stress = -2.0 / 3.0 * mu * (w * dilatation[P] + (1.0 - w) * dilatation[N]) * p.S[f];
        b[P] += stress;
        if (f < p.inner) b[N] -= stress;
    }
}

/// Adds to A U = b what a shock needs beside the upwind flux, whose share fades where the air crosses a shock slowly: a
/// viscosity of `share` of the sound that passes a face, on faces in shocks alone.
///   rows:  sum_f [ e (U_P - U_N) ],   e = share shock_f rho a |S_f| / 2
/// @param shock  0 where the flow is smooth, 1 in shocks;  @param sound  rho a over the free stream's density [m/s];
/// own and ghost cells
inline void addShockViscosity(const Piece& p, double share, const std::vector<double>& shock,
                              const std::vector<double>& sound, CellMatrix& A) {
    for (std::size_t f = 0; f < p.linked; ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]), N = static_cast<std::size_t>(p.N[f]);
        const double e = 0.25 * share * std::max(shock[P], shock[N]) * p.area[f] * (sound[P] + sound[N]);
        if (!(e > 0.0)) continue;
        A.val[static_cast<std::size_t>(A.atP[f])] -= e;
        A.diag[P] += e;
        if (f >= p.inner) continue;
        A.val[static_cast<std::size_t>(A.atN[f])] -= e;
        A.diag[N] += e;
    }
}

/// Adds to A U = b a damping of velocities that alternate from cell to cell: what the linear rebuilds from both sides
/// of a face differ by, carried by a share of the speed there as far as the upwind flux does not carry it; nothing for
/// linear fields. Where layers of cells run along the flow little passes between them, the mean pressure of two
/// neighbours does not feel an alternation either, and without friction nothing else stops it. A boundary layer bends
/// by as much from cell to cell as an alternation: with friction it would lose its stress.
///   rows:  sum_f [ e ((U_P + grad(U)_P . r_P) - (U_N + grad(U)_N . r_N)) ],   e = max(share |U_f| |S_f| - |F|, 0) / 2,
///   r: from the cell to the face
/// @param F  volume flux from P to N [m3/s], as for addTransport
inline void addDamping(const Piece& p, double share, const std::vector<double>& F, const std::vector<Vec3>& U,
                       const std::vector<Mat3>& grad, CellMatrix& A, std::vector<Vec3>& b) {
    for (std::size_t f = 0; f < p.linked; ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]), N = static_cast<std::size_t>(p.N[f]);
        const double w = p.w[f],
                     e = 0.5 * std::max(0.0, share * p.area[f] * (w * U[P] + (1.0 - w) * U[N]).norm() - std::abs(F[f]));
        const Vec3 slopes = e * (grad[P] * (p.xf[f] - p.x[P]) - grad[N] * (p.xf[f] - p.x[N]));
        A.val[static_cast<std::size_t>(A.atP[f])] -= e;
        A.diag[P] += e;
        b[P] -= slopes;
        if (f >= p.inner) continue;
        A.val[static_cast<std::size_t>(A.atN[f])] -= e;
        A.diag[N] += e;
        b[N] += slopes;
    }
}

}  // namespace cvane::flow
