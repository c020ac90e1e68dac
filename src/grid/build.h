#pragma once
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "base/progress.h"
#include "grid/grid.h"
#include "grid/tunnel.h"
#include "shape/surface.h"

namespace cvane::grid {

/// A place that shall have small cells.
struct FinerPlace {
    enum class Shape { Box, Ball, Cylinder };
    Shape shape = Shape::Box;
    Vec3 from = Vec3::Zero();  ///< box: a corner; ball: its middle; cylinder: the middle of one end [m]
    Vec3 to = Vec3::Zero();    ///< box: the opposite corner; cylinder: the middle of the other end [m]
    double radius = 0.0;       ///< ball and cylinder [m]
    double cell = 0.0;         ///< largest cell inside [m]
    bool operator==(const FinerPlace&) const = default;
    /// May hold more than what lies inside: a box around a place counts when it comes within half its diagonal.
    bool meets(const Box& box) const;
    double volume() const;  ///< [m3]
    Box bounds() const;
};

/// Longer cells beside finer ones are so oblique that the wall would have to let go of the model.
inline constexpr double kMostStretch = 3.0;

constexpr double kNarrowestGap = 4e-3;  ///< of the model's longest side: narrower ones count as seams

/// Where the flow on a first grid asks for smaller cells: the cells of that grid which hold one of the places are
/// halved once, the first ones first, until the budget is used up.
struct Marks {
    int firstBudget = 0;       ///< of the first grid; its other settings are those of the second
    std::vector<Vec3> places;  ///< [m]
};

/// What the user chooses about the grid; SI.
struct GridSettings {
    int cellBudget = 200000;
    int layers = 0;               ///< cells between the wall and the outer cells; 0: as many as the growth asks for
    double layerGrowth = 1.25;    ///< most that a layer is higher than the one below it, where `layers` is 0
    double firstHeight = 0.0;     ///< of the cell on the wall [m]; 0: a twentieth of the cell size on the model
    int curvatureLevels = 2;      ///< how many levels finer where the model turns sharply
    double turnAngle_deg = 20.0;  ///< turn within one cell above which it is split
    int bufferCells = 3;          ///< cells of one size before the next coarser one
    /// How many levels finer where the air between walls is less than five cells wide. Below 0: one, and as many as it
    /// takes to open gaps of kNarrowestGap of the model's longest side or more with four cells across, as far as half
    /// of the budget allows.
    int gapLevels = -1;
    double wakeLength = 0.6;         ///< refined region behind the model, in body lengths; 0: none
    Vec3 wakeAlong = Vec3::UnitX();  ///< unit direction of that region
    double groundLayer = 0.0;  ///< thickness of the boundary layer on the ground at the model [m]: cells there are no
                               ///< larger, ahead of the model and under it; 0: none
    /// Cells are longer along x, y, z by these factors, 1 to kMostStretch; 0: as the surface turns (stretchFor).
    Vec3 stretch = Vec3::Zero();
    double sharpAngle_deg = 35.0;  ///< edges sharper than this are kept
    double sealWidth = 0.0;        ///< leaks up to this width are closed [m]; 0: 3 % of the model's longest side
    std::vector<FinerPlace> finerPlaces;
    std::map<std::string, int> finerParts;  ///< levels finer (positive) on the parts of these names
    std::shared_ptr<const Marks> marks;     ///< null: none
    double fewer = 1.0;  ///< times fewer cells than the finest grid of its family, which has as many layers
    bool operator==(const GridSettings&) const = default;
};

/// Grid around the parts in the air of a placed surface, in the tunnel, near the asked number of cells.
/// Local: runs on the calling thread. Progress from 0 to 1; false cancels, nothing is left behind.
/// Throws InputError: a budget that is too small to hold the model or cannot fit in memory, settings out of range.
Grid build(const shape::Surface& placed, const Tunnel& tunnel, const GridSettings& settings,
           const base::Progress& progress);

}  // namespace cvane::grid
