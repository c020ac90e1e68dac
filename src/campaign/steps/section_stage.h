#pragma once
#include "campaign/store/section_store.h"

namespace cvane::campaign {

/// Told of each point of each polar as it comes; false stops.
using OnSectionPoint = std::function<bool(const PolarAsked& polar, const section::PolarPoint& point)>;

/// Computes the polars that are asked for and not stored yet, on all cores, and stores each as it is done.
/// Throws InputError: a section that cannot be read, a case beyond its range; Cancelled.
void computeSections(const Campaign& campaign, const OnSectionPoint& onPoint);

}  // namespace cvane::campaign
