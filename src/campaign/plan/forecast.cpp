#include "campaign/plan/forecast.h"

#include <algorithm>
#include <cmath>

#include "base/median.h"
#include "grid/plan.h"

namespace cvane::campaign {
namespace {
// docs/validation.md: cars and wings on 250,000 cells have a band of a tenth in the middle, and take some hundred
// iterations of about a microsecond a cell on two cores, the coarse grids among them.
constexpr double kUsualBand = 0.10, kUsualCells = 250e3, kUsualIterations = 120.0, kUsualSeconds = 1.2e-6;
constexpr double kLargestBand = 0.5;
}  // namespace

Forecast forecastFor(double cells, const std::vector<PointReport>& reports) {
    std::vector<double> seconds, iterations, bands;
    for (const auto& r : reports) {
        if (!r.result || r.result->provisional() || r.result->iterations < 1 || r.result->cells < 1) continue;
        const auto& x = *r.result;
        seconds.push_back(x.seconds / (static_cast<double>(x.iterations) * x.cells));
        iterations.push_back(x.iterations);
        // Of the cells alone: what the iteration leaves open does not follow them.
        if (const auto g = x.gridBand(); g && std::abs(x.coefficients.CD) > 0.0)
            bands.push_back(g->CD / std::abs(x.coefficients.CD) * std::pow(x.cells, 2.0 / 3.0));
    }
    Forecast f;
    f.memory_GB = 1e-9 * grid::kBytesOfCell * cells;
    f.byOwn = !seconds.empty() && !bands.empty();
    f.pointSeconds = cells * (seconds.empty() ? kUsualSeconds : base::medianOf(seconds)) *
                     (iterations.empty() ? kUsualIterations : base::medianOf(iterations));
    f.bandOfDrag =
        std::min(kLargestBand, (bands.empty() ? kUsualBand * std::pow(kUsualCells, 2.0 / 3.0) : base::medianOf(bands)) /
                                   std::pow(cells, 2.0 / 3.0));
    return f;
}

}  // namespace cvane::campaign
