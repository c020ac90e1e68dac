#pragma once
#include "campaign/steps/section_field.h"
#include "campaign/store/section_store.h"

namespace cvane::campaign {

/// Told of each point of each polar as it comes; false stops.
using OnSectionPoint = std::function<bool(const PolarAsked& polar, const section::PolarPoint& point)>;

/// Computes the polars that are asked for and not stored yet, on all cores, and stores each as it is done; what a stop
/// leaves of a polar is stored too, and the polar computed again when asked for.
/// Throws InputError: a section that cannot be read, a case beyond its range; Cancelled.
void computeSections(const Campaign& campaign, const OnSectionPoint& onPoint);

/// On the way to a point in the field.
struct FieldIteration {
    double alpha = 0.0;  ///< [rad]
    int iteration = 0;   ///< 0: on the grid with a quarter of the cells
    double cl = 0.0, cd = 0.0;
};
using OnFieldIteration = std::function<bool(const FieldAsked&, const FieldIteration&)>;
using OnFieldPoint = std::function<void(const FieldAsked&, const SectionFieldPoint&)>;

/// Solves in the field what the settings ask for and is not stored as settled, one after the other, and stores each
/// point as it is done. @param keys  of those that are wanted; none: all
/// Throws InputError as solveSectionField; Cancelled: onIteration returned false.
void computeSectionFields(const Campaign& campaign, const std::vector<std::string>& keys,
                          const OnFieldIteration& onIteration = {}, const OnFieldPoint& onPoint = {});

}  // namespace cvane::campaign
