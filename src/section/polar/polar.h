#pragma once
#include <functional>
#include <memory>
#include <vector>

#include "base/progress.h"
#include "section/coupled/point.h"

namespace cvane::section {

/// What a polar is computed for.
struct PolarCase {
    enum class Kind {
        FixedReynolds,  ///< Re stays
        FixedLift       ///< Re sqrt(cl) stays: a wing that carries its weight at any speed
    };
    enum class Along { Alpha, Lift };
    SectionCase flow;  ///< its Reynolds number is Re, or Re sqrt(cl)
    Kind kind = Kind::FixedReynolds;
    Along along = Along::Alpha;
    std::vector<double> values;  ///< [rad], or lift coefficients
    bool operator==(const PolarCase&) const = default;
};

struct PolarPoint {
    double asked = 0.0;  ///< value of the sweep
    PointFigures figures;
    std::shared_ptr<const FlowState> state;  ///< of a converged viscous point
};

/// Told of every point as it comes, not in the order of the values. False stops.
using OnPoint = std::function<bool(const PolarPoint&)>;

/// Solves the points from the one nearest to 2 degrees (or a lift of 0.4) outwards in both directions, each from its
/// neighbour; one that does not converge is tried by half steps, from a new start, and from the points beyond it on the
/// way back. A point that never converges is in the result with its last residual.
/// @return in the order of the values. Throws InputError: a case beyond its range (checkCase), Cancelled.
std::vector<PolarPoint> computePolar(const PanelFlow& flow, const PolarCase& c, const OnPoint& onPoint = {});

/// Throws InputError: Reynolds number outside 1e3 .. 1e9, Mach number outside 0 .. 0.7, n outside 0.5 .. 20, a trip
/// outside 0 .. 1, angles beyond 30 degrees, lifts beyond 5, no values or more than 2,000.
void checkCase(const PolarCase& c);

/// Lift slope [1/rad], angle of zero lift [rad], greatest lift, least drag, best ratio, read from a polar's converged
/// points; cubic through the points near an extreme.
struct PolarFigures {
    double slope = 0.0, zeroLift = 0.0;
    double clMax = 0.0, clMaxAt = 0.0;  ///< and its angle [rad]
    double cdMin = 0.0, cdMinAt = 0.0;  ///< and its lift
    double bestRatio = 0.0, bestRatioAt = 0.0;
    double momentAtZeroLift = 0.0;
    bool stalls = false;  ///< the greatest lift is inside of the polar
};
std::optional<PolarFigures> figuresOfPolar(const std::vector<PolarPoint>& points);

}  // namespace cvane::section
