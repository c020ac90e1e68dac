#pragma once
#include <array>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "air/free_stream.h"
#include "flow/checkpoint.h"
#include "flow/devices.h"
#include "flow/forces.h"
#include "flow/gradient.h"
#include "flow/limiter.h"
#include "flow/multigrid.h"
#include "flow/relaxation_control.h"
#include "flow/roles.h"
#include "flow/settings.h"
#include "flow/state.h"
#include "flow/turbulence.h"
#include "flow/wall_gradient.h"

namespace cvane::flow {

/// What one iteration left over; each is scaled to be of order one at the start.
struct Residuals {
    double momentum = 0, mass = 0, first = 0, second = 0;  ///< first, second: of the turbulence model's variables
    double worst() const { return std::max({momentum, mass, first, second}); }
};

/// What surrounds the flow: which air blows through which tunnel on what reference.
struct Case {
    air::FreeStream wind;
    grid::Tunnel tunnel;
    air::Reference reference;
    FlowSettings settings;
    /// Where the boundary layer of a ground begins: ahead of it the air slips along [m, x in the model frame]. None: at
    /// the inlet.
    std::optional<double> groundLayerFrom;
    std::vector<MovingPart> moving;
    std::vector<RoughPart> rough;
    std::vector<Disc> discs;
    std::vector<PorousBlock> blocks;
    /// For verification: velocity on every boundary face in place of walls, wind and outlets, and a force per mass on
    /// the air [m/s2], both as functions of the place.
    std::function<Vec3(const Vec3&)> givenVelocity, givenForce;
    /// Of plane flow about a section: the wind on the far side is that of a vortex there too, whose circulation is that
    /// of the lift (setCirculation); without it a far side 15 chords away takes some per cent of the lift.
    std::optional<Vec3> vortexAt;
};

/// A flow on another grid as points that can be read anywhere: cell centres with values and slopes.
struct FlowCloud {
    std::vector<Vec3> x, U;
    std::vector<double> p, first, second, nuT;
    std::vector<Mat3> gradU;
    std::vector<Vec3> gradP;
};

/// What one start became on a grid: the same cells in the same order.
struct FlowChange {
    FlowCloud from, to;
};

/// Steady incompressible flow by a pressure-correction iteration (SIMPLEC) on collocated cells. Equations and sources:
/// docs/theory.md. All public functions are collective: every rank calls them in the same order.
class Solver {
  public:
    Solver(Piece piece, const Case& c, const Ranks& ranks);
    /// Cuts this rank's piece out of a grid that all ranks have.
    Solver(const grid::Grid& grid, const grid::Geometry& geometry, const Case& c, const Ranks& ranks);

    /// Potential flow of the free stream around the model, with the pressure that belongs to it.
    void startFromPotentialFlow();
    /// The settled flow of another wind on the same grid; scaled to this speed and turned by adding the potential flow
    /// of the difference between the two winds. Of this and other checkpoints rank 0 alone has the fields.
    void startFromNeighbour(const Checkpoint& settled, const air::FreeStream& itsWind);
    /// Two settled flows of this speed whose winds lie in a line with this one: the nearer one, carried on by the way
    /// from the second to it as far as this wind lies on that way; velocity, pressure and fluxes by differences,
    /// turbulence by ratios.
    void startFromNeighbours(const Checkpoint& nearer, const air::FreeStream& itsWind, const Checkpoint& second,
                             const air::FreeStream& secondWind);
    /// The same wind's flow on a coarser grid, carried over from the nearest of its cells along their slopes; what it
    /// then lacks in continuity is taken out by a potential.
    void startFromCoarser(const FlowCloud& coarse);
    /// Behind startFromNeighbour: changes the flow as the same start has changed on a coarser grid, whose own error the
    /// two ends of that change share. Velocity and pressure by differences, turbulence by ratios.
    void followCoarser(const FlowChange& change);
    /// Collective: the whole flow on every rank.
    FlowCloud cloud() const;
    /// Goes on exactly where a checkpoint of this very case was taken.
    void resume(const Checkpoint& checkpoint);
    Checkpoint checkpoint() const;

    /// Goes back to a state of this solver.
    void restore(const State& state);
    RelaxationControl& relaxation() { return relaxation_; }
    /// Forgets the means; adds the state to them; takes them as the state, to read out what a swinging flow is like on
    /// average.
    void startMean();
    void addToMean();
    void takeMean();

    /// A step of time that all cells share: how a wake that will not come to rest moves. 0: each cell takes its own, by
    /// relaxation. Second order in time (TimeLevels); a step is iterated until its residual has fallen to a tenth,
    /// three times at most.
    void setTimeStep(double seconds) { time_.set(seconds); }
    /// Longest side of the box around the model's wall [m]; the reference length where there is no model. Collective.
    double modelLength() const;
    /// A tenth of the time in which the wind passes the diameter of a disc as large as the model's frontal area
    /// [s]. Collective.
    double wakeTimeStep() const;
    double timeStep() const { return time_.step(); }
    /// Circulation [m2/s] of the far side's vortex from now on; half the speed times chord times cl.
    void setCirculation(double circulation) { circulation_ = circulation; }

    /// One iteration, or one step of time: iterations until the momentum residual has fallen to `share` of the first,
    /// `most` of them at most.
    Residuals iterate(double share = 0.1, int most = 3);
    /// Solves for the pressure once more, to rounding where an iteration stops at a few per cent: what flows into the
    /// tunnel leaves it.
    void closeContinuity();

    /// Loads by patch about the moment centre [N], [N m], as computed (a half model's are those of the half).
    std::vector<Load> loadsByPatch() const;
    /// The model's force found from outside [N] (of a half model that on the half): momentum through the tunnel's
    /// sides, ground and devices. Collective.
    Vec3 forceFromOutside() const;
    /// That less the balance's force, as coefficients of drag, lift and side force (moments are 0): what the flow still
    /// has to go. Collective.
    air::Coefficients outsideDifference() const;
    /// Coefficients of the whole model (a half model's loads are mirrored).
    air::Coefficients coefficients() const;
    /// Displacement thickness [m] that the boundary layer of a ground at rest has where the model begins, from the
    /// friction that it has felt until there: the mean over the ground ahead of the model of (u_tau / V)^2 times its
    /// length is the momentum thickness, and 9/7 of that, the ratio of the one-seventh power, the displacement
    /// thickness. Nothing without such a ground, or without one ahead of the model. Collective.
    std::optional<double> groundDisplacement() const;
    /// Static pressure of the free stream over density [m2/s2]: that at the inlet of a closed tunnel, where what the
    /// walls and the model hold back has taken the outlet's below it; 0 in an open one. Collective.
    double referencePressure() const;
    std::vector<WallSample> wallSamples() const;
    const State& state() const { return s_; }
    const Piece& piece() const { return p_; }
    const std::vector<PatchRole>& roles() const { return roles_; }
    const std::vector<Mat3>& velocityGradient() const { return gradU_; }
    /// Net volume flux through the boundary over the inflow.
    double massImbalance() const;
    /// Nothing in laminar and inviscid flow.
    const TurbulenceModel* turbulence() const { return turbulence_.get(); }
    /// Smallest and largest y+ on the model's walls.
    std::pair<double, double> yPlusRange() const;
    std::vector<DiscReading> readDiscs() const { return devices_.readDiscs(s_.U, case_.wind.velocity()); }
    std::vector<PorousReading> readBlocks() const { return devices_.readBlocks(s_.U); }
    int pressureIterations() const { return pressureIterations_; }

  private:
    void addWind(const Vec3& dU);
    void takeOutDivergence();
    void fillWithLaplacian();  ///< matrix_: without what boundary faces add
    Vec3 inflowAt(std::size_t f) const {
        if (case_.givenVelocity) return case_.givenVelocity(p_.xf[f]);
        if (!case_.vortexAt) return case_.wind.velocity();
        // Clockwise in x, z, which lifts: speed circulation / (2 pi r).
        const Vec3 d = p_.xf[f] - *case_.vortexAt;
        const double r2 = d.x() * d.x() + d.z() * d.z();
        return case_.wind.velocity() + circulation_ / (6.283185307179586 * r2) * Vec3(d.z(), 0.0, -d.x());
    }
    /// Flux through an open side [m3/s]: the wind's, and as much of a speed p / V as the pressure there makes. To a
    /// wave along the side, whose pressure p and speed p / V through it belong together, the side is as good as not
    /// there.
    double openFlux(std::size_t f) const {
        return case_.wind.velocity().dot(p_.S[f]) + openness(f) * s_.p[static_cast<std::size_t>(p_.P[f])];
    }
    double openness(std::size_t f) const {
        return p_.area[f] / case_.wind.speed;
    }  ///< its slope with the pressure [m s]
    void updateBoundaryValues();
    void updateWalls();
    void updateVelocityGradient();
    void updateGradients();
    void updatePressureForce();
    Residuals iterateOnce();
    /// The velocity at a linked face, rebuilt from both sides.
    Vec3 betweenCells(std::size_t f) const {
        const auto P = static_cast<std::size_t>(p_.P[f]), N = static_cast<std::size_t>(p_.N[f]);
        return p_.w[f] * (s_.U[P] + gradU_[P] * (p_.xf[f] - p_.x[P])) +
               (1.0 - p_.w[f]) * (s_.U[N] + gradU_[N] * (p_.xf[f] - p_.x[N]));
    }
    /// See TimeLevels::excess.
    std::vector<double> excessFluxes() const;
    double solveMomentum();
    double correctPressure(double reduction, int mostSweeps);
    /// Air slides along the model there.
    bool slidesOnModel(std::size_t f) const { return roleAt(f) == Role::Slip && patchRole(f).onModel; }
    Role roleAt(std::size_t f) const { return patchRole(f).role; }
    const PatchRole& patchRole(std::size_t f) const { return roles_[p_.patch(f)]; }

    Case case_;
    const Ranks& ranks_;
    Piece p_;
    std::vector<PatchRole> roles_;
    State s_;
    WallState walls_;
    std::vector<Vec3> Ub_;
    std::vector<double> pb_, zero_;
    std::vector<Mat3> gradU_;
    std::vector<WallGradient> meanAtWalls_;
    std::vector<Vec3> gradP_;
    std::vector<Vec3> pressureForce_;   ///< sum p_f S_f / V, own and ghosts: what the momentum balance feels
    CellMatrix matrix_;                 ///< of the equation that is being solved
    std::vector<double> through_;       ///< V^(2/3), a cell's section [m2]
    std::vector<double> D_, Dcorrect_;  ///< V / a_P and the SIMPLEC coefficient, own and ghosts
    std::unique_ptr<Gradient> gradientU_, gradientP_;
    GradientLimiter limitU_, limitP_;
    std::vector<char> velocityKnown_, pressureKnown_;  ///< boundary faces whose value is given
    std::unique_ptr<Multigrid> multigrid_;
    std::unique_ptr<TurbulenceModel> turbulence_;
    RelaxationControl relaxation_;
    std::vector<double> meanSum_;    ///< rows of own cells
    std::vector<double> meanLoads_;  ///< sums of the loads by patch
    bool showsMean_ = false;         ///< the state is a mean; loads are the means of loads, not the loads of the mean
    double meanCount_ = 0.0;
    Devices devices_;
    double nu_ = 0;
    double groundBegins_ = 0;    ///< where the boundary layer of a ground at rest does [m, x]
    bool pressureFree_ = false;  ///< no outlet fixes the pressure
    int pressureIterations_ = 0;
    TimeLevels time_;
    double circulation_ = 0.0;  ///< [m2/s]
};

/// A half model's load as that of the whole model mirrored at y = 0.
Load wholeModel(const Load& half);

}  // namespace cvane::flow
