#include "campaign/steps/axles.h"

#include <algorithm>

#include "base/errors.h"
#include "campaign/steps/model_stage.h"
#include "grid/tunnel.h"
#include "shape/axle.h"

namespace cvane::campaign {

std::optional<readout::Axles> axlesOf(const Settings& s, const shape::Surface& placed,
                                      const air::Reference& reference) {
    std::vector<double> places;
    for (const auto& w : s.devices.wheels) {
        if (w.centre) {
            places.push_back(w.centre->x());
            continue;
        }
        const auto part =
            std::find_if(placed.parts.begin(), placed.parts.end(), [&](const auto& p) { return p.name == w.part; });
        if (part == placed.parts.end()) continue;
        try {
            places.push_back(shape::axleOf(placed, static_cast<std::size_t>(part - placed.parts.begin())).centre.x());
        } catch (const base::InputError&) {
            // A part that is no wheel has no axle; the check of the run says so.
        }
    }
    std::sort(places.begin(), places.end());
    const auto front = s.reference.frontAxle ? s.reference.frontAxle
                       : places.empty()      ? std::nullopt
                                             : std::optional(places.front());
    const auto rear = s.reference.rearAxle ? s.reference.rearAxle
                      : places.empty()     ? std::nullopt
                                           : std::optional(places.back());
    if (!front || !rear) return std::nullopt;
    double height = reference.momentCentre.z();
    if (s.tunnel.floor != grid::Floor::None)
        height = grid::tunnelBox(tunnelFor(s, placed), shape::withoutHiddenParts(placed).bounds()).low.z();
    return readout::Axles{*front, *rear, height};
}

}  // namespace cvane::campaign
