#pragma once
#include <algorithm>
#include <cmath>

#include "grid/build.h"

namespace cvane::grid {

/// From which values a setting is taken. Ends are in it unless `aboveLow`.
struct Range {
    double low, high;
    enum class Zero { AsOthers, Also, Never } zero = Zero::AsOthers;
    bool aboveLow = false;
    constexpr bool holds(double v) const {
        if (v == 0.0 && zero != Zero::AsOthers) return zero == Zero::Also;
        return (aboveLow ? v > low : v >= low) && v <= high;
    }
};

constexpr int kMostLayers = 40;

/// What the builder takes and what can be set are one: these.
inline constexpr Range kCellBudgets{2000, 1e9}, kLayers{0, kMostLayers}, kLayerGrowths{1.05, 3}, kFirstHeights{0, 1000},
    kCurvatureLevels{0, 6}, kTurnAngles_deg{2, 90}, kBufferCells{1, 12}, kGapLevels{-1, 6}, kWakeLengths{0, 100},
    kStretches{1, kMostStretch, Range::Zero::Also}, kSharpAngles_deg{5, 180}, kPartLevels{0, 6}, kSealWidths{0, 1e5},
    kWakeAngles_deg{-55, 55},  // both at once still lead downstream
    kExtents{0, 1000, Range::Zero::AsOthers, true},
    kCuttingExtents{-1, 1000, Range::Zero::Never, true};  // [body lengths]

/// Of the cells of a whole those of its half, as few as a grid may have at least.
inline int halfOfBudget(int cells) {
    return std::max(cells / 2, static_cast<int>(kCellBudgets.low));
}

}  // namespace cvane::grid
