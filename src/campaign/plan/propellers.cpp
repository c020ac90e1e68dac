#include "campaign/plan/propellers.h"

#include <algorithm>

namespace cvane::campaign {

std::vector<flow::Disc> builtDiscs(const Settings& s) {
    std::vector<flow::Disc> out;
    if (!s.model.aircraft) return out;
    const auto& placement = s.model.placement;
    const Mat3 turn = shape::rotationMatrix(placement.rotation_deg);
    for (const auto& p : wing::propellersOf(*s.model.aircraft))
        out.push_back({p.name, turn * p.centre + placement.shift, turn * p.axis, 0.5 * p.hub, 0.5 * p.diameter,
                       p.thrust, 0.0, p.rpm});
    return out;
}

std::vector<flow::Disc> discsOf(const Settings& s) {
    auto out = s.devices.discs;
    for (auto& d : builtDiscs(s)) out.push_back(std::move(d));
    return out;
}

flow::Disc imageOf(flow::Disc d) {
    const auto against = [](double& v) { v = v == 0.0 ? 0.0 : -v; };
    d.name.clear();
    against(d.centre.y());
    against(d.axis.y());
    against(d.rpm);
    return d;
}

std::vector<flow::Disc> discsInTunnel(const Settings& s) {
    const auto all = discsOf(s);
    auto out = all;
    if (!s.tunnel.halfModel) return out;
    std::erase_if(out, [&](const flow::Disc& d) {
        return d.centre.y() < 0.0 && std::any_of(all.begin(), all.end(), [&](flow::Disc other) {
                   other.name.clear();
                   return other == imageOf(d);
               });
    });
    return out;
}

}  // namespace cvane::campaign
