#pragma once
#include <nlohmann/json.hpp>

#include "lifting/runs.h"

namespace cvane::lifting {

/// A strip's place in its surface's load, from the tip inwards.
struct SpanLoad {
    const StripRow* strip = nullptr;
    double loading = 0.0;  ///< cl c / reference length
    double shear = 0.0;    ///< at its inner rib, across the surface towards its upper side [N]
    double bending = 0.0;  ///< there [N m]
};
/// Of one angle, surface by surface and half by half in the lattice's order.
std::vector<SpanLoad> spanLoads(const Row& row, const air::Reference& reference);

/// A line an angle, and a line a strip of each angle; heads name units.
std::string csvOf(const wing::Aircraft& aircraft, const Outcome& outcome);
std::string stripsCsvOf(const wing::Aircraft& aircraft, const Outcome& outcome);

/// For people: reference values, a line an angle, what follows from them, remarks.
std::string textOf(const wing::Aircraft& aircraft, const Asked& asked, const Outcome& outcome);
/// For programs; fields in docs/files.md.
nlohmann::json jsonOf(const wing::Aircraft& aircraft, const Asked& asked, const Outcome& outcome);

/// What flying needs and gives, of a mass at one angle in level flight.
struct Flight {
    double drag = 0.0, power = 0.0;  ///< [N], [W]
    double sink = 0.0;               ///< in a glide [m/s]
};
Flight flightOf(const Row& row, const air::Reference& reference);
/// Least speed in level flight, from the greatest lift; nothing where that or the mass is not known [m/s].
std::optional<double> stallSpeed(const Outcome& outcome, double mass, const air::Air& air);

}  // namespace cvane::lifting
