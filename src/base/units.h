#pragma once
#include <span>
#include <string_view>

namespace cvane::base {

/// A unit the user may choose; the core computes in SI only.
struct Unit {
    std::string_view symbol;
    double inSI;  ///< value of one unit in SI
};

std::span<const Unit> lengthUnits();  ///< mm, cm, m, in, ft
std::span<const Unit> speedUnits();   ///< m/s, km/h, kt, mph, ft/s
std::span<const Unit> forceUnits();   ///< N, lbf
std::span<const Unit> areaUnits();    ///< m2, ft2

/// The unit with this symbol. Throws InputError that lists the known ones.
Unit unitNamed(std::span<const Unit> units, std::string_view symbol);

inline constexpr double degree = 3.14159265358979323846 / 180.0;

}  // namespace cvane::base
