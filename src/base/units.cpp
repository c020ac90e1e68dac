#include "base/units.h"

#include <fmt/format.h>

#include <array>
#include <string>

#include "base/errors.h"

namespace cvane::base {
namespace {
// Exact by definition: international inch 25.4 mm, nautical mile 1852 m, avoirdupois pound 0.45359237 kg, g 9.80665
// m/s2.
constexpr std::array<Unit, 5> kLength{{{"mm", 1e-3}, {"cm", 1e-2}, {"m", 1.0}, {"in", 0.0254}, {"ft", 0.3048}}};
constexpr std::array<Unit, 5> kSpeed{
    {{"m/s", 1.0}, {"km/h", 1.0 / 3.6}, {"kt", 1852.0 / 3600.0}, {"mph", 0.44704}, {"ft/s", 0.3048}}};
constexpr std::array<Unit, 2> kForce{{{"N", 1.0}, {"lbf", 0.45359237 * 9.80665}}};
constexpr std::array<Unit, 2> kArea{{{"m2", 1.0}, {"ft2", 0.3048 * 0.3048}}};
}  // namespace

std::span<const Unit> lengthUnits() {
    return kLength;
}
std::span<const Unit> speedUnits() {
    return kSpeed;
}
std::span<const Unit> forceUnits() {
    return kForce;
}
std::span<const Unit> areaUnits() {
    return kArea;
}

Unit unitNamed(std::span<const Unit> units, std::string_view symbol) {
    std::string known;
    for (const Unit& u : units) {
        if (u.symbol == symbol) return u;
        known += (known.empty() ? "" : ", ") + std::string(u.symbol);
    }
    throw InputError(fmt::format("the unit \"{}\" is not known.", symbol), "", "Use one of: " + known + ".");
}

}  // namespace cvane::base
