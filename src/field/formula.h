#pragma once
#include <string>
#include <vector>

namespace cvane::field {

class FlowField;

/// A formula of a flow's quantities, by muparser: + - * / ^, comparisons, ? :, sqrt, abs, sin, exp, ln, min, max and
/// the like; names are those of quantities, of places x, y, z [m], and of the free stream: V_wind [m/s], q_wind [Pa],
/// rho [kg/m3], nu [m2/s], alpha and beta [rad].
/// @return one value a cell
/// Throws InputError: cannot be read, names something that there is not, or has no finite value in some cell.
std::vector<double> evaluateFormula(const FlowField& flow, const std::string& text);

/// What is wrong with a formula, in a sentence; empty: nothing. Cheap: for while it is typed.
std::string troubleWithFormula(const FlowField& flow, const std::string& text);

}  // namespace cvane::field
