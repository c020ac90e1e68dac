#pragma once
#include "flow/checkpoint.h"
#include "flow/cloud.h"
#include "flow/continuity.h"
#include "flow/energy.h"
#include "flow/gradients.h"

namespace cvane::flow {

/// How a flow begins. All functions are collective.
class Starts {
  public:
    Starts(Flow& flow, const Case& c, const Boundaries& boundaries, const FlowGradients& gradients,
           Continuity& continuity, const TurbulenceModel* turbulence, const Ranks& ranks)
        : flow_(flow),
          case_(c),
          boundaries_(boundaries),
          gradients_(gradients),
          continuity_(continuity),
          turbulence_(turbulence),
          ranks_(ranks) {}

    /// Potential flow of the free stream around the model, with the pressure that belongs to it.
    void fromPotentialFlow();
    /// The settled flow of another wind on the same grid; scaled to this speed and turned by adding the potential flow
    /// of the difference between the two winds. Of this and other checkpoints rank 0 alone has the fields. Throws
    /// InputError on every rank: it belongs to another grid.
    void fromNeighbour(const Checkpoint& settled, const air::FreeStream& itsWind);
    /// Two settled flows of this speed whose winds lie in a line with this one: the nearer one, carried on by the way
    /// from the second to it as far as this wind lies on that way; velocity, pressure and fluxes by differences,
    /// turbulence by ratios.
    void fromNeighbours(const Checkpoint& nearer, const air::FreeStream& itsWind, const Checkpoint& second,
                        const air::FreeStream& secondWind);
    /// The same wind's flow on a coarser grid, of which each rank has its part, carried over from the nearest of its
    /// cells along their slopes; what it then lacks in continuity is taken out by a potential.
    void fromCoarser(const FlowCloud& coarse);
    /// Behind fromNeighbour: changes the flow as the same start has changed on a coarser grid, whose own error the two
    /// ends of that change share. Velocity and pressure by differences, turbulence by ratios.
    void followCoarser(const FlowChange& change);

  private:
    void fromUniformWind();
    double densityAt(std::size_t f) const;  ///< of a linked face, over the free stream's
    void addWind(const Vec3& dU);
    Flow& flow_;
    const Case& case_;
    const Boundaries& boundaries_;
    const FlowGradients& gradients_;
    Continuity& continuity_;
    const TurbulenceModel* turbulence_;
    const Ranks& ranks_;
};

}  // namespace cvane::flow
