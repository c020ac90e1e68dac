#pragma once
#include <vector>

#include "flow/boundaries.h"
#include "flow/case.h"
#include "flow/flow.h"
#include "flow/relaxation_control.h"
#include "flow/sparse.h"
#include "flow/time_levels.h"
#include "flow/turbulence.h"

namespace cvane::flow {

/// The momentum equation of the state as it is: assembled without relaxation, so that its plain residual can be asked
/// for, then relaxed and swept.
class MomentumEquation {
  public:
    MomentumEquation(const Case& c, const Boundaries& boundaries, Devices& devices, CellMatrix& matrix,
                     const Ranks& ranks);
    void use(TurbulenceModel* turbulence) { turbulence_ = turbulence; }

    /// Collective. Fills matrix and right side for U, without pressure, relaxation and steps of time.
    void assemble(const Flow& flow);
    /// Collective, behind assemble. What the equation leaves over in each own cell, a force over density and volume
    /// [m/s2]: 0 in a flow that is solved exactly. Nothing changes.
    std::vector<Vec3> residual(const Flow& flow) const;
    /// Collective, behind assemble. Takes pressure, relaxation and the step of time in, finds D and Dcorrect, and
    /// sweeps twice over U. @return the residual over the wind's flux through all cells
    double advance(Flow& flow, const RelaxationControl& relaxation, const TimeLevels& time);

  private:
    void addTransportTerms(const Flow& flow);
    void addBoundaries(const Flow& flow);
    double relax(Flow& flow, const RelaxationControl& relaxation, const TimeLevels& time);

    const Case& case_;
    const Boundaries& boundaries_;
    Devices& devices_;
    TurbulenceModel* turbulence_ = nullptr;
    CellMatrix& matrix_;
    const Ranks& ranks_;
    std::vector<Vec3> b_;
    std::vector<double> outside_;  ///< part of the diagonal that belongs to no neighbour
};

}  // namespace cvane::flow
