#pragma once
#include <memory>
#include <vector>

#include "flow/averages.h"
#include "flow/case.h"
#include "flow/continuity.h"
#include "flow/energy.h"
#include "flow/gradients.h"
#include "flow/iterated.h"
#include "flow/momentum.h"
#include "flow/readings.h"
#include "flow/starts.h"

namespace cvane::flow {

/// Steady flow by a pressure-correction iteration (SIMPLEC) on collocated cells, incompressible or of an ideal gas
/// (Case::compressible), and the same flow in steps of time, of second order (TimeLevels). Equations and sources:
/// docs/theory.md. It owns the parts and knows their order; what each does stands with it. All public functions are
/// collective.
class Solver : public Iterated {
  public:
    Solver(Piece piece, const Case& c, const Ranks& ranks);
    /// Cuts this rank's piece out of a grid that all ranks have.
    Solver(const grid::Grid& grid, const grid::Geometry& geometry, const Case& c, const Ranks& ranks);

    Starts start();
    Readings read() const;
    /// This rank's part of the flow, for a start on a finer grid.
    FlowCloud cloud() const { return cloudOf(flow_); }

    Residuals iterate() override { return iterate(0.1, 3); }
    /// One iteration, or one step of time: iterations until the momentum residual has fallen to `share` of the first,
    /// `most` of them at most.
    Residuals iterate(double share, int most);
    /// Solves for the pressure once more, to rounding where an iteration stops at a few per cent: what flows into the
    /// tunnel leaves it.
    void complete() override;
    /// What momentum leaves over in each own cell for the state as it is [m/s2], without relaxation: see
    /// MomentumEquation::residual. The state stays.
    std::vector<Vec3> momentumResidual();

    air::Coefficients coefficients() const override { return read().coefficients(); }
    air::Coefficients outsideDifference() const override { return read().outsideDifference(); }

    void keepState() override { kept_ = flow_.state; }
    double goBackWithCaution() override;
    /// Goes back to a state of this solver.
    void restore(const State& state);
    /// A step is iterated until its residual has fallen to a tenth, three times at most.
    void setTimeStep(double seconds) override { time_.set(seconds); }
    double timeStep() const { return time_.step(); }
    double wakeTimeStep() const override { return read().wakeTimeStep(); }
    /// Circulation [m2/s] of the far side's vortex from now on (Case::vortexAt); half the speed times chord times cl.
    void setCirculation(double circulation) { boundaries_.wind().setCirculation(circulation); }

    void startMean() override { averages_.clear(); }
    void addToMean() override;
    void takeMean() override;

    Checkpoint checkpoint() const override;
    void save(const Checkpoint& head, const std::filesystem::path& file) const override;
    void resume(const Checkpoint& saved) override;

    RelaxationControl& relaxation() { return relaxation_; }
    const Flow& flow() const { return flow_; }
    const State& state() const { return flow_.state; }
    const Piece& piece() const { return flow_.piece; }
    const std::vector<PatchRole>& roles() const { return boundaries_.roles(); }
    /// Nothing in laminar and inviscid flow.
    const TurbulenceModel* turbulence() const { return turbulence_.get(); }
    int pressureIterations() const { return continuity_.iterations(); }

  private:
    /// A piece whose ground has been parted where its boundary layer begins.
    struct Parted {
        Parted(Piece piece, const Case& c);
        Flow flow;
        std::optional<std::size_t> ahead;
    };
    Solver(Parted parted, const Case& c, const Ranks& ranks);
    void makeTurbulenceModel();
    Residuals iterateOnce();

    Case case_;
    const Ranks& ranks_;
    Flow flow_;
    double groundBegins_;
    Boundaries boundaries_;
    Devices devices_;
    CellMatrix matrix_;  ///< of the equation that is being solved
    FlowGradients gradients_;
    MomentumEquation momentum_;
    Continuity continuity_;
    EnergyEquation energy_;
    RelaxationControl relaxation_;
    TimeLevels time_;
    Averages averages_;
    std::unique_ptr<TurbulenceModel> turbulence_;
    State kept_;
};

}  // namespace cvane::flow
