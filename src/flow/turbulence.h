#pragma once
#include <algorithm>
#include <array>
#include <memory>
#include <vector>

#include "flow/boundaries.h"
#include "flow/gradient.h"
#include "flow/one_equation_law.h"
#include "flow/settings.h"
#include "flow/sparse.h"
#include "flow/state.h"
#include "flow/time_levels.h"
#include "flow/transport.h"

namespace cvane::flow {

/// Turbulence of the free stream.
struct FreeTurbulence {
    double k;      ///< [m2/s2]
    double omega;  ///< [1/s]; epsilon = 0.09 k omega, eddy viscosity k / omega
};
/// From intensity, 1e-5 at least, and length: k = 1.5 (intensity V)^2, omega = sqrt(k) / (0.09^(1/4) length). Without a
/// length, omega = 5 V / L, L the model's longest side: low enough not to feed the boundary layer, high enough to hold
/// (P. R. Spalart, C. L. Rumsey, AIAA J. 45, 2007).
FreeTurbulence freeTurbulenceOf(const FlowSettings& settings, double speed, double modelLength);

/// What all models are built on.
struct TurbulenceGround {
    const Piece& piece;
    const Gradient& gradient;
    const Gradient& velocityGradient;
    const std::vector<Vec3>& velocityAtBoundary;
    CellMatrix& matrix;            ///< to work in
    std::vector<double> distance;  ///< own cells, to the nearest wall [m]
    double nu;                     ///< of the free stream [m2/s]
    const Boundaries& boundaries;
    FreeTurbulence free;
    const TimeLevels& time;                ///< of all equations
    const std::vector<double>& viscosity;  ///< Flow::viscosity

    /// Viscosity of a cell [m2/s]: dynamic over the free stream's density, and kinematic.
    double dynamicIn(std::size_t c) const { return viscosity.empty() ? nu : viscosity[c]; }
    double kinematicIn(const State& s, std::size_t c) const {
        return viscosity.empty() ? nu : viscosity[c] / s.density[c];
    }
};

/// A model of the eddy viscosity with one or two transported variables, State::first and State::second.
class TurbulenceModel {
  public:
    virtual ~TurbulenceModel() = default;
    /// The variables and the eddy viscosity of the free stream.
    virtual std::array<double, 3> freeStream() const = 0;
    /// Powers of the speed with which the variables scale at fixed shape and length.
    virtual std::array<double, 2> powersOfSpeed() const = 0;
    /// Collective. One relaxed step of the variables, then the eddy viscosity. @return scaled residuals
    virtual std::array<double, 2> advance(State& s, const WallState& walls, const std::vector<Mat3>& gradU,
                                          const Ranks& ranks) = 0;
    /// Friction velocity by the law of the wall that the model itself gives. [m/s]
    virtual double frictionVelocity(double U, double y, double nu, double roughness) const;
    /// d u+ / d y+ of that law at u+ and y+; ksPlus: height of the wall's grains in wall units.
    virtual double slopeOfLaw(double uPlus, double yPlus, double ksPlus) const;
    /// Viscosity between cells for the momentum equations where a mean is not what the model means, for the state as it
    /// is; nothing: the mean. Asked for before every advance, which may use it too.
    virtual const SeriesViscosity* viscosityBetweenCells(const State&) { return nullptr; }
    /// Names for files, in the open standard's words; empty: not used.
    virtual std::array<const char*, 2> names() const = 0;
};
/// Nothing for laminar and inviscid flow.
std::unique_ptr<TurbulenceModel> makeTurbulence(Model model, TurbulenceGround ground);

/// TurbulenceModel::names of a model that need not be made; both empty for laminar and inviscid flow.
std::array<const char*, 2> namesOfVariables(Model model);

/// S^2 = 2 S_ij S_ij of a velocity gradient.
inline double strainSquared(const Mat3& G) {
    return 0.5 * (G + G.transpose()).squaredNorm();
}

/// The same of what makes turbulence: where the air is compressible its dilatation, which is large in shocks, does not.
inline double shearSquared(const Mat3& G, const State& s) {
    return s.compressible ? std::max(0.0, strainSquared(G) - 2.0 / 3.0 * G.trace() * G.trace()) : strainSquared(G);
}

/// Mean over a cell's wall faces of what the wall law says; cells without walls have area 0.
struct WallCells {
    std::vector<double> area;
    std::vector<double> production;  ///< of k [m2/s3]
    std::vector<double> uTau;        ///< [m/s]
    std::vector<double> y;           ///< of the cell's centre, with the shift of a rough wall [m]
    WallCells(const TurbulenceGround& ground, const State& s, const WallState& walls);
    bool has(std::size_t c) const { return area[c] > 0.0; }
};

/// One relaxed, implicit step of a transported variable that stays above `floor`.
class TurbulenceStep {
  public:
    explicit TurbulenceStep(const TurbulenceGround& ground) : piece_(ground.piece), A_(ground.matrix) {}

    /// Collective. @param gamma  diffusivity times density, own and ghosts;  @param inflow  value of the free stream
    /// @param which    the variable, for its earlier steps of time
    /// @param row      void(c, diag, b): adds the cell's source, per density
    /// @param fixed    value to hold in a cell, or a negative number
    /// @param profile  see addTransport
    template <class Row, class Fixed, class Profile>
    double advance(const TurbulenceGround& g, const Ranks& ranks, const State& s, const std::vector<double>& gamma,
                   double inflow, double floor, const std::vector<Vec3>& grad, std::vector<double>& phi,
                   std::vector<double> State::*which, Row&& row, Fixed&& fixed, const Profile& profile);

  private:
    static constexpr double kRelaxation = 0.9;
    const Piece& piece_;
    CellMatrix& A_;
};

template <class Row, class Fixed, class Profile>
double TurbulenceStep::advance(const TurbulenceGround& g, const Ranks& ranks, const State& s,
                               const std::vector<double>& gamma, double inflow, double floor,
                               const std::vector<Vec3>& grad, std::vector<double>& phi,
                               std::vector<double> State::*which, Row&& row, Fixed&& fixed, const Profile& profile) {
    const Piece& p = piece_;
    const auto n = static_cast<std::size_t>(p.cells);
    std::vector<double> b(p.stored(), 0.0);
    A_.clearDiagonal();
    addTransport<Scheme::Limited>(p, s.flux, gamma, phi, grad, A_, b, profile);
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]);
        const double c = g.boundaries.at(f).inflow(s.flux[f], gamma[P] * p.gap[f]);
        A_.diag[P] += c;
        b[P] += c * inflow;
    }
    double scale = 0.0;
    for (std::size_t c = 0; c < n; ++c) {
        double diag = 0.0, source = 0.0;
        row(c, diag, source);
        const double density = s.densityIn(c);
        A_.diag[c] += density * diag;
        b[c] += density * source;
        if (const double value = fixed(c); value >= 0.0) {
            // The row is turned into phi = value; neighbours keep seeing it.
            for (auto e = A_.rowStart[c]; e < A_.rowStart[c + 1]; ++e) A_.val[static_cast<std::size_t>(e)] = 0.0;
            A_.diag[c] = p.V[c];
            b[c] = p.V[c] * value;
            phi[c] = value;
            continue;
        }
        if (g.time.inTime()) {
            A_.diag[c] += density * p.V[c] * g.time.weight();
            b[c] += density * p.V[c] * g.time.fromBefore(which, c);
        }
        // A negative source is moved to the diagonal, so that the variable cannot pass through zero.
        if (b[c] < 0.0) {
            A_.diag[c] -= b[c] / phi[c];
            b[c] = 0.0;
        }
        const double held = (1.0 - kRelaxation) / kRelaxation * A_.diag[c];
        b[c] += held * phi[c];
        A_.diag[c] += held;
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
}

/// Of own cells: half their height along the way from the wall, over their distance from it. Collective.
std::vector<double> halfHeightOverDistance(const TurbulenceGround& ground);

/// Gradient of a cell variable that does not change towards the boundary. Collective.
std::vector<Vec3> gradientOf(const TurbulenceGround& ground, const std::vector<double>& phi);

}  // namespace cvane::flow
