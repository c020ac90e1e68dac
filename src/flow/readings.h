#pragma once
#include <optional>
#include <utility>
#include <vector>

#include "flow/averages.h"
#include "flow/boundaries.h"
#include "flow/case.h"
#include "flow/flow.h"
#include "flow/forces.h"

namespace cvane::flow {

/// What is read off a flow. All functions but wallSamples are collective.
class Readings {
  public:
    Readings(const Flow& flow, const Case& c, const Boundaries& boundaries, const Devices& devices,
             const Averages& averages, double groundBegins, const Ranks& ranks)
        : flow_(flow),
          case_(c),
          boundaries_(boundaries),
          devices_(devices),
          averages_(averages),
          groundBegins_(groundBegins),
          ranks_(ranks) {}

    /// Loads by patch about the moment centre [N], [N m], as computed (a half model's are those of the half).
    std::vector<Load> loadsByPatch() const;
    /// The model's force found from outside [N] (of a half model that on the half): momentum through the tunnel's
    /// sides, ground and devices.
    Vec3 forceFromOutside() const;
    /// That less the balance's force, as coefficients of drag, lift and side force (moments are 0): what the flow still
    /// has to go.
    air::Coefficients outsideDifference() const;
    /// Coefficients of the whole model (a half model's loads are mirrored).
    air::Coefficients coefficients() const;
    std::vector<WallSample> wallSamples() const;
    /// Smallest and largest y+ on the model's walls.
    std::pair<double, double> yPlusRange() const;
    /// Displacement thickness [m] that the boundary layer of a ground at rest has where the model begins, from the
    /// friction that it has felt until there: the mean over the ground ahead of the model of (u_tau / V)^2 times its
    /// length is the momentum thickness, and 9/7 of that, the ratio of the one-seventh power, the displacement
    /// thickness. Nothing without turbulence, such a ground, or one ahead of the model.
    std::optional<double> groundDisplacement() const;
    /// Static pressure of the free stream over density [m2/s2]: that at the inlet of a closed tunnel, where what the
    /// walls and the model hold back has taken the outlet's below it; 0 in an open one.
    double referencePressure() const;
    /// A tenth of the time in which the wind passes the diameter of a disc as large as the model's frontal area [s].
    double wakeTimeStep() const;
    /// Net flux of mass through the boundary over the inflow.
    double massImbalance() const;
    /// Of compressible flow: the largest Mach number anywhere.
    double highestMach() const;
    /// Of compressible flow: total enthalpy that leaves less what comes in, over what comes in.
    double enthalpyImbalance() const;
    std::vector<DiscReading> discs() const { return devices_.readDiscs(flow_.state.U, case_.wind.velocity()); }
    std::vector<PorousReading> blocks() const { return devices_.readBlocks(flow_.state.U); }

  private:
    /// Calls visit(face) with this rank's faces of the model's walls.
    template <class Visit>
    void forEachModelFace(Visit&& visit) const {
        const Piece& p = flow_.piece;
        for (std::size_t f = p.linked; f < p.faces(); ++f)
            if (boundaries_.role(f).onModel) visit(f);
    }
    const Flow& flow_;
    const Case& case_;
    const Boundaries& boundaries_;
    const Devices& devices_;
    const Averages& averages_;
    double groundBegins_;
    const Ranks& ranks_;
};

/// Longest side of the box around the model's wall [m]; the reference length where there is no model. Collective.
double modelLength(const Piece& piece, const Boundaries& boundaries, const Case& c, const Ranks& ranks);

/// A half model's load as that of the whole model mirrored at y = 0.
Load wholeModel(const Load& half);

}  // namespace cvane::flow
