#pragma once
#include <algorithm>
#include <tuple>

#include "base/vec3.h"
#include "grid/tunnel_sides.h"

namespace cvane::grid {

enum class Floor { None, Fixed, Moving };  ///< free air; ground at rest; ground moving with the air
/// Where the boundary layer of a ground at rest begins; ahead of that the air slips along it, as behind a suction slot
/// or over a raised board.
enum class LayerFrom { Inlet, Ahead, Model };

/// The box of air around the model, in body lengths (longest side of the placed model).
struct Tunnel {
    /// Negative to the sides, above or below: that wall cuts the model, as at a strut or at a wing from wall to wall.
    /// It lets the air slip by; the balance holds the part in the air.
    double upstream = 5.0, downstream = 10.0, sideways = 5.0, above = 5.0, below = 5.0;
    Floor floor = Floor::None;
    double rideHeight = 0.0;  ///< lowest point of the model above the ground [m], used when there is a floor
    bool halfModel = false;   ///< the starboard half y >= 0 only, mirrored at y = 0
    bool mirrored = false;    ///< a whole model that is its own mirror image: so is its grid
    bool closed = false;      ///< walls on all four sides that the air slips along; the wind then blows along x only
    LayerFrom groundLayer = LayerFrom::Inlet;
    double groundLayerAhead = 1.0;  ///< body lengths ahead of the model, with LayerFrom::Ahead
    /// How far ahead of the model the ground's layer begins, in body lengths.
    double groundLayerRun() const {
        return groundLayer == LayerFrom::Inlet   ? upstream
               : groundLayer == LayerFrom::Ahead ? std::min(groundLayerAhead, upstream)
                                                 : 0.0;
    }
    /// Whether this side, a TunnelSide, cuts the model.
    bool cutsModelAt(int side) const {
        return side == kLowY || side == kHighY ? sideways < 0.0
               : side == kBelow                ? floor == Floor::None && below < 0.0
                                               : side == kAbove && above < 0.0;
    }
    /// Apart from what follows from the model and the wind (halfModel, mirrored).
    bool operator==(const Tunnel& o) const {
        const auto all = [](const Tunnel& t) {
            return std::tie(t.upstream, t.downstream, t.sideways, t.above, t.below, t.floor, t.rideHeight, t.closed,
                            t.groundLayer, t.groundLayerAhead);
        };
        return all(*this) == all(o);
    }
};

/// The part of a placed model's bounds that is in the air: of a half model what lies at y > 0, so that a whole surface
/// and its starboard half are put into the same tunnel. [m]
Box modelInTunnel(const Tunnel& tunnel, Box model);

/// The tunnel's box for a placed model [m]. With a floor its lower side is the ground, rideHeight under the model's
/// lowest point; for a half model its port side is y = 0. Throws InputError: extents that are not positive numbers, a
/// half model with nothing at y > 0, a model outside the box.
Box tunnelBox(const Tunnel& tunnel, const Box& model);

/// Model frontal area over the tunnel's cross-section.
double blockage(const Box& tunnel, double frontalArea);

}  // namespace cvane::grid
