#pragma once
#include "campaign/store/campaign.h"

namespace cvane::campaign {

/// The campaign's model as it stands in the wind: read, scaled, parts named and hidden as set, turned and shifted.
/// Throws InputError (file missing or damaged).
shape::Surface placedModel(const Campaign& campaign);
/// The same from a surface that was read before (SI, not placed).
shape::Surface placedModel(const shape::Surface& imported, const ModelSettings& settings);

/// The placed model with its parts under the names that they came with: grids, runs and patches keep those when a part
/// is renamed.
shape::Surface modelForGrid(const Campaign& campaign);

/// What the placed model measures. Of a half model what lies at y > 0 counts, and its mirror image; the bounds are
/// those of the surface as it is.
struct ModelMeasures {
    Box bounds;
    double frontal = 0, side = 0, planform = 0;  ///< projected areas [m2]
    double hiddenBelow = 0;          ///< how far hidden parts reach below the lowest point of those in the air [m]
    bool leavesAnotherHalf = false;  ///< a half model whose other half is there and is not its mirror image
    std::optional<air::Reference> wing = {};  ///< of an aircraft from numbers
};
ModelMeasures measure(const shape::Surface& placed, bool halfModel);
/// The same of the campaign's model, with what its numbers say.
ModelMeasures measure(const Campaign& campaign, const shape::Surface& placed);

/// The tunnel as the model's parts in the air are put into it: with the configuration's own ride height where it has
/// one, and higher by what hidden parts reach below them, so that the body stays where it is when parts are hidden.
grid::Tunnel tunnelFor(const Settings& settings, const ModelMeasures& measures);
grid::Tunnel tunnelFor(const Settings& settings, const shape::Surface& placed);

/// Reference values: typed ones where set, else from the measures: area as chosen, length along the wind, span across
/// it, moment centre in the middle of the bounding box (on the mirror plane for a half model).
air::Reference resolveReference(const ReferenceSettings& settings, const ModelMeasures& measures, bool halfModel);

/// What runs are judged on: the model's own frontal area, or its planform where it is a wing (more than four times as
/// large from above as from ahead, and wider than long), its length and span, about the middle of its box. It does not
/// follow from what is typed, so that a wrong reference decides no verdict.
air::Reference ownReference(const ModelMeasures& measures, bool halfModel);

}  // namespace cvane::campaign
