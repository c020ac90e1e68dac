#pragma once
#include <vector>

#include "flow/boundaries.h"
#include "flow/devices.h"
#include "flow/flow.h"
#include "flow/gradient.h"
#include "flow/sparse.h"
#include "flow/time_levels.h"

namespace cvane::flow {

/// The equation of total enthalpy of compressible flow, walls adiabatic, and what follows from it: the density. Without
/// friction the enthalpy of a steady flow is the free stream's everywhere.
///   sum_f [ H_f F - (g_f grad(h) + tau_f U_f) . S_f ] = 0,   g = mu / Pr + rho nuT / PrT
/// Source of the closure: D. C. Wilcox, Turbulence Modeling for CFD, ch. 5; PrT 0.9.
class EnergyEquation {
  public:
    EnergyEquation(const Boundaries& boundaries, CellMatrix& matrix, const Gradient& gradient, const Devices& devices,
                   const Ranks& ranks)
        : boundaries_(boundaries), matrix_(matrix), gradient_(gradient), devices_(devices), ranks_(ranks) {}

    /// Collective. One relaxed step of the enthalpy, then the density. @return the residual over the free stream's
    /// total enthalpy
    double advance(Flow& flow, const TimeLevels& time);
    /// Local: the density of own and ghost cells for pressure, velocity and enthalpy as they are.
    static void updateDensity(Flow& flow);

  private:
    void addFriction(const Flow& flow, std::vector<double>& b) const;
    const Boundaries& boundaries_;
    CellMatrix& matrix_;
    const Gradient& gradient_;
    const Devices& devices_;
    const Ranks& ranks_;
};

}  // namespace cvane::flow
