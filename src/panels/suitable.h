#pragma once
#include <string>
#include <vector>

#include "shape/surface.h"

namespace cvane::panels {

/// A model as panels need it, and what was done to it.
struct Suitable {
    shape::Surface surface;            ///< one closed skin, facets facing the air, without hidden parts
    std::vector<std::string> remarks;  ///< a sentence each: holes that were closed, parts that were cut along crossings
};

/// @param halfModel  of a model of which one half counts: what lies at y > 0, and its mirror image
/// Throws InputError that names the place: sheets without thickness, holes too wide to be meant otherwise, edges of
/// more than two facets, parts that cross so that no closed skin comes of them.
Suitable suitableFor(const shape::Surface& model, bool halfModel);

}  // namespace cvane::panels
