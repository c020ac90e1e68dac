#include "flow/sst.h"

#include <cmath>

#include "flow/transport.h"
#include "flow/wall_law.h"

namespace cvane::flow {
namespace {
// Menter, Kuntz and Langtry 2003, table of constants; set 1 near walls, set 2 away from them.
constexpr double betaStar = 0.09, a1 = 0.31, kappa = 0.41;
constexpr double sigmaK1 = 0.85, sigmaW1 = 0.5, beta1 = 0.075, gamma1 = 5.0 / 9.0;
constexpr double sigmaK2 = 1.0, sigmaW2 = 0.856, beta2 = 0.0828, gamma2 = 0.44;
constexpr double relaxation = 0.75;

double strainSquared(const Mat3& G) { return 0.5 * (G + G.transpose()).squaredNorm(); }  // S^2 = 2 S_ij S_ij
}  // namespace

Sst::Sst(const Piece& piece, const Gradient& gradient, std::vector<double> distance, double nu, Ambient ambient, const std::vector<PatchRole>& roles)
    : piece_(piece), gradient_(gradient), distance_(std::move(distance)), nu_(nu), ambient_(ambient), roles_(roles), A_(piece) {}

void Sst::updateEddyViscosity(State& s, const std::vector<Mat3>& gradU) const {
    for (std::size_t c = 0; c < static_cast<std::size_t>(piece_.cells); ++c) {
        const double y = distance_[c];
        const double arg2 = std::max(2.0 * std::sqrt(s.k[c]) / (betaStar * s.omega[c] * y), 500.0 * nu_ / (y * y * s.omega[c]));
        const double F2 = std::tanh(arg2 * arg2);
        s.nuT[c] = a1 * s.k[c] / std::max(a1 * s.omega[c], std::sqrt(strainSquared(gradU[c])) * F2);
    }
    piece_.halo.exchange(s.nuT);
}

std::array<double, 2> Sst::advance(State& s, const WallState& walls, const std::vector<Mat3>& gradU, const Ranks& ranks) {
    const Piece& p = piece_;
    const auto n = static_cast<std::size_t>(p.cells);
    const std::size_t nb = p.faces() - p.linked;
    std::vector<double> kAt(nb), wAt(nb);
    for (std::size_t i = 0; i < nb; ++i) {
        const auto c = static_cast<std::size_t>(p.P[p.linked + i]);
        kAt[i] = s.k[c];
        wAt[i] = s.omega[c];
    }
    std::vector<Vec3> gradK, gradW;
    gradient_(s.k, kAt, gradK);
    gradient_(s.omega, wAt, gradW);

    std::vector<double> F1(p.stored()), cross(n), production(n);
    for (std::size_t c = 0; c < n; ++c) {
        const double y = distance_[c], k = s.k[c], w = s.omega[c];
        cross[c] = 2.0 * sigmaW2 / w * gradK[c].dot(gradW[c]);
        const double CD = std::max(cross[c], 1e-10);
        const double arg = std::min(std::max(std::sqrt(k) / (betaStar * w * y), 500.0 * nu_ / (y * y * w)), 4.0 * sigmaW2 * k / (CD * y * y));
        F1[c] = std::tanh(arg * arg * arg * arg);
        production[c] = strainSquared(gradU[c]);
    }
    p.halo.exchange(F1);
    std::vector<double> Pk(n);
    for (std::size_t c = 0; c < n; ++c) Pk[c] = std::min(s.nuT[c] * production[c], 10.0 * betaStar * s.k[c] * s.omega[c]);

    // Cells on walls: production and omega come from the wall law, averaged over the cell's wall faces.
    std::vector<double> wallArea(n, 0.0), wallP(n, 0.0), wallW(n, 0.0);
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        if (roles_[static_cast<std::size_t>(p.patchOf[f - p.linked])].role != Role::Wall || !(p.area[f] > 0.0)) continue;
        const auto c = static_cast<std::size_t>(p.P[f]);
        const double y = p.area[f] / p.gap[f], u = walls.uTau[f - p.linked], A = p.area[f];
        const double yPlus = u * y / nu_;
        const double slope = yPlus > 0.0 ? wallLawSlope(std::min(walls.nuWall[f - p.linked] > 0.0 ? yPlus * nu_ / walls.nuWall[f - p.linked] : yPlus, 100.0)) : 1.0;
        const double viscous = 6.0 * nu_ / (beta1 * y * y), log = u / (std::sqrt(betaStar) * kappa * y);
        wallArea[c] += A;
        wallP[c] += A * u * u * u * u / nu_ * slope * (1.0 - slope);
        wallW[c] += A * std::hypot(viscous, log);
    }

    const auto solve = [&](std::vector<double>& phi, const std::vector<Vec3>& grad, double ambientValue, double floor, double sigma1, double sigma2, auto&& source, bool fixWalls) {
        std::vector<double> gamma(p.stored()), b(p.stored(), 0.0);
        for (std::size_t c = 0; c < p.stored(); ++c) gamma[c] = nu_ + (F1[c] * sigma1 + (1.0 - F1[c]) * sigma2) * s.nuT[c];
        A_.clear();
        addTransport<Scheme::Limited>(p, s.flux, gamma, phi, grad, A_, b);
        for (std::size_t f = p.linked; f < p.faces(); ++f) {
            const Role role = roles_[static_cast<std::size_t>(p.patchOf[f - p.linked])].role;
            if (role != Role::Inflow && role != Role::Outflow) continue;
            const auto P = static_cast<std::size_t>(p.P[f]);
            const double c = std::max(-s.flux[f], 0.0) + (role == Role::Inflow ? gamma[P] * p.gap[f] : 0.0);
            A_.diag[P] += c;
            b[P] += c * ambientValue;
        }
        double scale = 0.0;
        for (std::size_t c = 0; c < n; ++c) {
            source(c, A_.diag[c], b[c]);
            if (fixWalls && wallArea[c] > 0.0) {
                // The row is turned into phi = value; neighbours keep seeing it.
                const double value = wallW[c] / wallArea[c];
                for (auto e = A_.rowStart[c]; e < A_.rowStart[c + 1]; ++e) A_.val[static_cast<std::size_t>(e)] = 0.0;
                A_.diag[c] = p.V[c];
                b[c] = p.V[c] * value;
                phi[c] = value;
                continue;
            }
            // A negative source is moved to the diagonal, so that k and omega cannot pass through zero.
            if (b[c] < 0.0) {
                A_.diag[c] -= b[c] / phi[c];
                b[c] = 0.0;
            }
            b[c] += (1.0 - relaxation) / relaxation * A_.diag[c] * phi[c];
            A_.diag[c] /= relaxation;
            scale += A_.diag[c] * std::abs(phi[c]);
        }
        p.halo.exchange(phi);
        double r[2] = {residual(A_, b, phi), scale};
        ranks.sum(std::span<double>(r, 2));
        for (int sweep = 0; sweep < 2; ++sweep) {
            gaussSeidel(A_, b, phi, sweep % 2 == 0);
            p.halo.exchange(phi);
        }
        for (std::size_t c = 0; c < p.stored(); ++c) phi[c] = std::max(phi[c], floor);
        return r[1] > 0.0 ? r[0] / r[1] : 0.0;
    };

    const double rw = solve(s.omega, gradW, ambient_.omega, 1e-2 * ambient_.omega, sigmaW1, sigmaW2, [&](std::size_t c, double& diag, double& b) {
        const double F = F1[c], beta = F * beta1 + (1.0 - F) * beta2, gamma = F * gamma1 + (1.0 - F) * gamma2;
        // gamma P / nuT, with the same limit as in the k equation
        const double P = std::min(production[c], 10.0 * betaStar * s.omega[c] * s.k[c] / std::max(s.nuT[c], 1e-30));
        const double X = (1.0 - F) * cross[c];
        b += p.V[c] * (gamma * P + beta * ambient_.omega * ambient_.omega + std::max(X, 0.0));
        diag += p.V[c] * (beta * s.omega[c] + std::max(-X, 0.0) / s.omega[c]);
    }, true);
    const double rk = solve(s.k, gradK, ambient_.k, 1e-8 * ambient_.k, sigmaK1, sigmaK2, [&](std::size_t c, double& diag, double& b) {
        const double P = wallArea[c] > 0.0 ? wallP[c] / wallArea[c] : Pk[c];
        b += p.V[c] * (P + betaStar * ambient_.k * ambient_.omega);
        diag += p.V[c] * betaStar * s.omega[c];
    }, false);
    updateEddyViscosity(s, gradU);
    return {rk, rw};
}

}  // namespace cvane::flow
