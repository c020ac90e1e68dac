#pragma once
#include <optional>
#include <string>
#include <vector>

#include "readout/result.h"

namespace cvane::readout {

/// A straight line through points, each weighted by how well it is known, with standard errors.
struct Fit {
    double slope = 0.0, slopeError = 0.0;
    double atZero = 0.0, atZeroError = 0.0;  ///< y at x = 0
    std::optional<double> zero, zeroError;   ///< x at y = 0; nothing of a level line
    int points = 0;
};
/// @param sigma  of each y; zeros: all alike, the errors then follow from the scatter alone. Errors are no less than
/// the scatter about the line says.
/// Throws InputError: fewer than two different x.
Fit fitLine(const std::vector<double>& x, const std::vector<double>& y, const std::vector<double>& sigma);

/// What points over an angle say together.
struct Derivative {
    std::string id, name, unit;
    double value = 0.0, error = 0.0;
};

/// Slopes with the points that they rest on.
struct Slopes {
    struct LeftOut {
        std::size_t at;  ///< among the results
        std::string why;
    };
    std::vector<Derivative> values;
    std::vector<std::size_t> used;  ///< among the results, by their angle
    std::vector<LeftOut> leftOut;
};

/// Slopes of all coefficients over alpha (or beta), with lift: zero-lift angle, moment without lift and the place about
/// which the moment does not change (aerodynamic centre, of a whole model the neutral point) on the present reference.
/// They rest on settled points, and on those of them around zero lift (side force) up to a kink: where the curve's
/// slope from one point to the next differs by a quarter or more from that of the points before, and the value from
/// their line by more than the bands.
/// @param results  of one speed, one configuration and set-up, and one angle of the other kind
/// Throws InputError as fitLine(), and for results whose speeds or other angles differ.
Slopes slopesOf(const std::vector<Result>& results, bool overAlpha);

}  // namespace cvane::readout
