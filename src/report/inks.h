#pragma once
#include <cstddef>
#include <cstdint>
#include <iterator>

namespace cvane::report {

/// Curves on a light ground, as 0xRRGGBB, in their order: the same in the window and on paper.
inline constexpr std::uint32_t kCurveInks[] = {0xb04914, 0x2f5d7c, 0x5f801d, 0x7a3b69,
                                               0xa37812, 0x262b33, 0x36837a, 0xa03a3a};
/// Of any number of curves: the colours come again.
constexpr std::uint32_t curveInk(std::size_t i) {
    return kCurveInks[i % std::size(kCurveInks)];
}

/// Text, what stands back behind it, and lines of a grid or frame.
inline constexpr std::uint32_t kInk = 0x262b33, kFaintInk = 0x696456, kLineInk = 0xd9d3c4;

}  // namespace cvane::report
