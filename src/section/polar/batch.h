#pragma once
#include <memory>

#include "section/polar/polar.h"

namespace cvane::section {

/// One polar of many: which section (an index of the caller's), and what for.
struct BatchJob {
    std::size_t section = 0;
    PolarCase what;
};

/// Told of every point as it comes, one at a time; false stops.
using OnBatchPoint = std::function<bool(std::size_t job, const PolarPoint& point)>;

/// Solves polars on all cores, one core a polar. @param sections panels by the jobs' index
/// @return per job, as computePolar. Throws InputError (before anything is computed), Cancelled.
std::vector<std::vector<PolarPoint>> computeBatch(const std::vector<std::shared_ptr<const PanelFlow>>& sections,
                                                  const std::vector<BatchJob>& jobs, const OnBatchPoint& onPoint = {},
                                                  unsigned cores = 0);

}  // namespace cvane::section
