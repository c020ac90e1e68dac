#pragma once
#include <functional>
#include <string>
#include <vector>

#include "field/flow_field.h"
#include "field/locator.h"

namespace cvane::field {

enum class LineEnd { Wall, Side, Length, Rest };
std::string nameOf(LineEnd end);

/// A line along the velocity through one place.
struct Streamline {
    std::vector<Vec3> places;   ///< [m], from its upstream end on
    std::vector<Spot> spots;    ///< where to read quantities
    std::vector<double> times;  ///< [s], 0 at the place that it was asked through
    LineEnd upstream = LineEnd::Length, downstream = LineEnd::Length;
};

struct LineSettings {
    double tolerance = 1e-4;  ///< error of a step, in sizes of the cell
    double mostLength = 0.0;  ///< [m] each way; 0: thirty times the tunnel's longest side
    int mostSteps = 20000;    ///< each way
    bool up = true, down = true;
};

/// Lines through these places, by the embedded Runge-Kutta pair of J. R. Dormand and P. J. Prince, J. Comput. Appl.
/// Math. 6, 1980, along the velocity that is linear in the tetrahedra of a mesh. Places that are not in the air have no
/// line: theirs is empty.
/// @param wanted  false ends the work; what is there by then is returned
std::vector<Streamline> streamlines(const FlowField& flow, const std::vector<Vec3>& through,
                                    const LineSettings& settings = {}, const std::function<bool()>& wanted = {});

/// Places for lines to pass through.
std::vector<Vec3> rakeLine(const Vec3& from, const Vec3& to, int count);
/// @param normal  of the ring's plane
std::vector<Vec3> rakeRing(const Vec3& centre, const Vec3& normal, double radius, int count);
/// count x count places in the parallelogram of two sides.
std::vector<Vec3> rakeGrid(const Vec3& corner, const Vec3& along, const Vec3& across, int count);

}  // namespace cvane::field
