#include "readout/grid_band.h"

#include <algorithm>
#include <cmath>

namespace cvane::readout {
namespace {
constexpr double kLeastOrder = 0.8, kMostOrder = 2.3;  // seen on grids that a value may be carried on from
}  // namespace

GridBand gridBand(double fine, double coarse) {
    return {3.0 * std::abs(fine - coarse), {}, {}};
}

GridBand gridBand(double fine, double coarse, double ratio) {
    return {3.0 * std::abs(fine - coarse) / (ratio * ratio - 1.0), {}, {}};
}

GridBand gridBand(double fine, double coarse, double coarsest, double ratio, double further) {
    const double near = fine - coarse, far = coarse - coarsest;
    // Of an error C h^2, the coarser difference is C (h3^2 - h2^2), and C h1^2 is left on the finest.
    const double left = std::abs(far) / ((further * further - 1.0) * ratio * ratio);
    const GridBand withoutOrder{std::max(gridBand(fine, coarse, ratio).band, left), {}, {}};
    if (!(near * far > 0.0)) return withoutOrder;
    const auto farOverNear = [&](double p) {
        return std::pow(ratio, p) * (std::pow(further, p) - 1.0) / (std::pow(ratio, p) - 1.0);
    };
    // It rises with p, from the ratio of the logarithms at p = 0.
    const double seen = far / near;
    if (seen <= farOverNear(1e-6)) return withoutOrder;
    double low = 1e-6, high = 30.0;
    for (int i = 0; i < 80; ++i) {
        const double middle = 0.5 * (low + high);
        (farOverNear(middle) < seen ? low : high) = middle;
    }
    const double p = std::clamp(low, 1.0, 2.0);
    const double rest = near / (std::pow(ratio, p) - 1.0);
    // An order that no second-order method has says that the grids are still too coarse to be carried on to size zero.
    const bool carriesOn = low > kLeastOrder && low < kMostOrder;
    return {1.25 * std::abs(rest), low, carriesOn ? std::optional(fine + rest) : std::nullopt};
}

}  // namespace cvane::readout
