#pragma once
#include <array>
#include <vector>

#include "flow/gradient.h"
#include "flow/roles.h"
#include "flow/sparse.h"
#include "flow/state.h"

namespace cvane::flow {

/// The k-omega shear-stress-transport model with ambient sustaining terms and a wall treatment for any y+.
/// Sources: F. R. Menter, M. Kuntz, R. Langtry, Turbulence, Heat and Mass Transfer 4 (2003); P. R. Spalart, C. L. Rumsey,
/// AIAA J. 45 (2007), ambient terms. At walls omega is the root of the squares of its viscous and logarithmic values, and
/// the shear follows Spalding's law (wall_law.h).
class Sst {
  public:
    struct Ambient {
        double k, omega;
    };
    Sst(const Piece& piece, const Gradient& gradient, std::vector<double> distance, double nu, Ambient ambient,
        const std::vector<PatchRole>& roles);

    /// Collective. One relaxed step of k and omega, then the eddy viscosity. @return {residual k, residual omega}, scaled.
    std::array<double, 2> advance(State& s, const WallState& walls, const std::vector<Mat3>& gradU, const Ranks& ranks);
    void updateEddyViscosity(State& s, const std::vector<Mat3>& gradU) const;

  private:
    const Piece& piece_;
    const Gradient& gradient_;
    std::vector<double> distance_;
    double nu_;
    Ambient ambient_;
    const std::vector<PatchRole>& roles_;
    CellMatrix A_;
};

}  // namespace cvane::flow
