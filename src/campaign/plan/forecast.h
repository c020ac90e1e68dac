#pragma once
#include <optional>
#include <vector>

#include "campaign/store/point_report.h"

namespace cvane::campaign {

/// What a number of cells costs and brings, before there is a grid of so many.
struct Forecast {
    double memory_GB = 0.0;     ///< of a whole run, all ranks together
    double pointSeconds = 0.0;  ///< of one point
    double bandOfDrag = 0.0;    ///< of CD: 0.05 is 5 %
    bool byOwn = false;         ///< pointSeconds and bandOfDrag rest on points of this campaign
};

/// By the points that have results: their median time for a cell and an iteration, their median iterations, and their
/// median band, which follows the square of the cells' size. Without any: by figures of docs/validation.md on two
/// cores.
Forecast forecastFor(double cells, const std::vector<PointReport>& reports);

}  // namespace cvane::campaign
