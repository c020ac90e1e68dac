#pragma once
#include <span>
#include <string>
#include <vector>

#include "campaign/store/section_store.h"

namespace cvane::campaign {

/// One polar as tables have it.
struct PolarRows {
    const ShownOutline* of;
    bool field = false;  ///< solved in the field; else by panels
    std::vector<section::PolarPoint> points;
};

/// A table of comma-separated text under a name.
struct NamedTable {
    std::string name, csv;
    std::size_t wordColumns = 0;  ///< first columns that hold words, a name of figures among them
};

/// A section under a name that says what has been changed of it: "2412, thickness 10 %, flap 10 deg".
std::string nameWithChanges(const SectionEntry& entry, double flapTurn_deg);

/// All points of polars, a row each, with the section's thickness and camber as they are (its flap at rest) and its
/// flap's angle.
NamedTable polarTable(const Campaign& campaign, std::span<const PolarRows> polars);
/// Lift slope, zero-lift angle, greatest lift, least drag, best ratio and zero-lift moment of each polar.
NamedTable polarFiguresTable(const Campaign& campaign, std::span<const PolarRows> polars);
/// Pressure and layer along a section at one angle.
NamedTable pressureTable(const section::PointFigures& at, const section::Distribution& along);
/// What the columns of these tables mean.
NamedTable columnsExplained();

}  // namespace cvane::campaign
