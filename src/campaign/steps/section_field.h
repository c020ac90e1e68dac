#pragma once
#include <functional>
#include <vector>

#include "campaign/store/section_fields.h"
#include "grid/grid.h"
#include "section/outline/contour.h"

namespace cvane::campaign {

/// Told now and then: alpha [rad], iteration, cl, cd. False stops.
using OnField = std::function<bool(double alpha, int iteration, double cl, double cd)>;

/// Solves the angles on one grid, outwards from the smallest, each from its neighbour; on this process alone.
/// @return in the order of the angles. Throws InputError: a case beyond its range, an outline about which no grid is
/// made; Cancelled. `onPoint` is told of each as it is done.
std::vector<SectionFieldPoint> solveSectionField(const section::Contour& unitChord, const SectionField& what,
                                                 const std::vector<double>& alphas, const OnField& onField = {},
                                                 const std::function<void(const SectionFieldPoint&)>& onPoint = {});

/// The grid that it is solved on: one cell across, the chord from 0 to 1. Throws InputError: an outline about which no
/// grid is made.
grid::Grid sectionGrid(const section::Contour& unitChord, const SectionField& what);

}  // namespace cvane::campaign
