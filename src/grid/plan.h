#pragma once
#include <memory>

#include "base/progress.h"
#include "grid/draft.h"
#include "grid/sealed_model.h"
#include "grid/tunnel.h"
#include "shape/surface.h"

namespace cvane::grid {

/// What a grid is made from: settings that were checked and resolved, and the model's parts in the air, sealed.
struct Preparation {
    /// Throws InputError: settings out of their range, more cells than memory holds, a model that is no surface, a
    /// tunnel that cannot be.
    Preparation(const shape::Surface& placed, const Tunnel& tunnel, const GridSettings& asked);
    /// Which cells the grid will have. Throws as draftNearBudget.
    Draft draft(const Tunnel& tunnel, const base::Progress& progress);

    struct What {
        GridSettings settings;
        shape::Surface surface;  ///< the parts in the air, their facets looking outward
        Box box, model;          ///< of the tunnel, and of the model in it [m]
        double seam = 0.0;       ///< gaps up to this width are none [m]
    } what;
    std::unique_ptr<SealedModel> solid;
};

/// Whether a grid is that of a half and its image.
inline bool isMirrored(const Tunnel& tunnel) {
    return tunnel.mirrored && !tunnel.halfModel;
}
/// The tunnel and the settings of that half.
Tunnel halfOf(Tunnel tunnel);
GridSettings halfOf(GridSettings settings);

/// Bytes a cell, of the builder and of a whole run's ranks together, whichever is more.
inline constexpr double kBytesOfCell = 2.0e3;

/// A grid in a few numbers before it is made; a quarter or so of the time that making it takes.
struct Plan {
    std::size_t cells = 0;
    double surfaceCell = 0.0, firstHeight = 0.0;  ///< [m]
    int fewestLayers = 0, mostLayers = 0;         ///< of the columns on the wall
};
/// Throws InputError as above; base::Cancelled.
Plan planOf(const shape::Surface& placed, const Tunnel& tunnel, const GridSettings& settings,
            const base::Progress& progress);

}  // namespace cvane::grid
