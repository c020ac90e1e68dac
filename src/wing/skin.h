#pragma once
#include "shape/surface.h"
#include "wing/aircraft.h"

namespace cvane::wing {

/// The closed surface of an aircraft: a part for each lifting surface and body. Halves that meet in the mirror plane
/// are one shell. Facets lie within 2e-4 chords of the sections between whose like places straight lines run. Parts
/// that run into each other are cut along their crossing and become one skin without what lies inside (shape::united);
/// where that finds no closed skin they stay closed by themselves, and the grid takes what they share for solid.
shape::Surface skinOf(const Aircraft& aircraft);

}  // namespace cvane::wing
