#pragma once
#include <vector>

#include "flow/boundaries.h"
#include "flow/flow.h"
#include "flow/gradient.h"
#include "flow/multigrid.h"
#include "flow/sparse.h"
#include "flow/time_levels.h"

namespace cvane::flow {

/// What makes fluxes close in every cell: the pressure correction of an iteration, and the potential that takes a
/// start's divergence out. Both are equations with the same neighbours and share a multigrid.
class Continuity {
  public:
    /// Collective.
    Continuity(const Flow& flow, const Case& c, const Boundaries& boundaries, CellMatrix& matrix, const Ranks& ranks);

    /// Collective. Fluxes of the velocities as they are (momentum-weighted), and what each own cell then has too much
    /// [m3/s]; the matrix gets the correction's coefficients. In compressible air the pressure also carries density
    /// along with the flow (I. Demirdzic, Z. Lilek, M. Peric, Int. J. Numer. Methods Fluids 16, 1993): the matrix is
    /// then not symmetric.
    std::vector<double> assemble(Flow& flow, const TimeLevels& time);
    /// Collective. Assembles and corrects pressure, fluxes and velocities until the equation is solved to `reduction`,
    /// within so many cycles. @return what the cells had too much before, over the wind's flux through all cells
    double correct(Flow& flow, const TimeLevels& time, double reduction, int mostCycles);
    /// Collective. U and fluxes lose the gradient of the potential that makes the fluxes close.
    void takeOutDivergence(Flow& flow, const Gradient& ofPressure);
    /// Of a linked face, from its flux of mass [m3/s].
    double volumeFlux(const Flow& flow, std::size_t f) const {
        return flow.gas ? flow.state.flux[f] / density_[f] : flow.state.flux[f];
    }
    int iterations() const { return iterations_; }  ///< of the last correction

  private:
    /// What belongs to the gas: its own cells' change of mass with pressure and in time.
    void addStorage(const Flow& flow, const TimeLevels& time, std::vector<double>& b);
    void fillWithLaplacian(const Piece& piece);  ///< matrix_: without what boundary faces add
    void takeCorrection(Flow& flow, const std::vector<double>& correction) const;

    const Boundaries& boundaries_;
    CellMatrix& matrix_;
    const Ranks& ranks_;
    double windSpeed_;
    bool pressureFree_;              ///< nothing fixes the pressure's level
    std::vector<BoundaryFlux> law_;  ///< of boundary faces, as assembled last
    std::vector<double> density_;    ///< of compressible flow, of linked faces, as assembled last
    std::unique_ptr<Multigrid> multigrid_;
    int iterations_ = 0;
};

}  // namespace cvane::flow
