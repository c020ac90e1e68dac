#include "campaign/plan/preflight.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "air/plate_layer.h"
#include "base/errors.h"
#include "base/units.h"
#include "campaign/plan/points.h"
#include "campaign/plan/propellers.h"
#include "campaign/plan/wind_remarks.h"
#include "campaign/steps/grid_stage.h"
#include "campaign/steps/hold.h"
#include "flow/roles.h"
#include "flow/turbulence.h"
#include "shape/import.h"

namespace cvane::campaign {

namespace {
constexpr double kLeastReynolds = 1.0;
constexpr double kThinnest = 1e-4;     ///< second longest side over the longest
constexpr double kAnotherBody = 0.25;  ///< share of the wall's points off the model from which the grid is no use
constexpr double kMostEddy = 1e4;      ///< viscosity of the free stream's eddies over that of the air
}  // namespace

namespace {
// Every point of this configuration in this set-up, those of groups, single ones and of held lifts among them.
void checkConditions(const Campaign& c, const ModelMeasures& m, std::vector<Remark>& out) {
    const Settings& s = c.settings;
    const double length = m.bounds.size().maxCoeff();
    bool windSaid = false, slowSaid = false, thickSaid = false;
    WindRemarks ofGas(c, m);
    for (const Point& p : pointsOf(s)) {
        if (p.configuration != c.configuration() || p.setUp != c.setUp()) continue;
        const auto wind = windOf(s, p.condition);
        const auto why = whyNotInTunnel(s.tunnel, isAngle(p.condition.alpha_deg), isAngle(p.condition.beta_deg));
        if (!why.empty() && !std::exchange(windSaid, true)) out.push_back({true, fmt::format("{}: {}", p.name(), why)});
        const double reynolds = wind.reynolds(length);
        if (reynolds < kLeastReynolds && !std::exchange(slowSaid, true))
            out.push_back(
                {true, fmt::format("{}: the Reynolds number on the model's longest side is {:.2g}; below {:g} "
                                   "the air creeps, which is not solved here. Raise the speed, or check the "
                                   "model's unit.",
                                   p.name(), reynolds, kLeastReynolds)});
        const auto free = flow::freeTurbulenceOf(s.flow, wind.speed, length);
        const double ratio = free.k / free.omega / wind.air.kinematicViscosity();
        if (flow::isTurbulent(s.flow.model) && ratio > kMostEddy && !std::exchange(thickSaid, true))
            out.push_back(
                {true, fmt::format("{}: turbulence of that intensity and length makes the wind {:.2g} times as "
                                   "viscous as air; more than {:g} times is no wind any more. Shorten the "
                                   "turbulence length, or lower its intensity.",
                                   p.name(), ratio, kMostEddy)});
        ofGas.look(p, wind);
    }
    ofGas.tell(out);
    for (const HeldLift& h : s.schedule.held) {
        if (!h.on || h.configuration != c.configuration() || h.setUp != c.setUp()) continue;
        const bool pitches = h.follows == HeldLift::Follows::Alpha || isAngle(h.from.alpha_deg);
        if (const auto why = whyNotInTunnel(s.tunnel, pitches, isAngle(h.from.beta_deg)); !why.empty())
            out.push_back({true, fmt::format("The held lift \"{}\": {}", wordsOf(h), why)});
    }
}
}  // namespace

std::vector<Remark> preflight(const Campaign& c, const ModelMeasures& m) {
    std::vector<Remark> out;
    const Settings& s = c.settings;
    const grid::Tunnel tunnel = tunnelFor(s, m);
    std::size_t placed = 0;
    const auto mendedAt = [&](Remark::Place place) {  // those of the lines before
        for (; placed < out.size(); ++placed) out[placed].place = place;
    };
    const auto attempt = [&](auto&& what) {
        try {
            what();
        } catch (const base::InputError& e) {
            out.push_back({true, e.what()});
        }
    };
    attempt([&] {
        const auto text = shape::sizeRemark(m.bounds, base::unitNamed(base::lengthUnits(), s.model.unit).inSI);
        if (!text.empty()) out.push_back({false, text});
    });
    attempt([&] {
        auto size = m.bounds.size();
        std::sort(size.data(), size.data() + 3);
        if (size[1] < kThinnest * size[2])
            out.push_back(
                {true, fmt::format("The model is a needle, {:.3g} m long and {:.2g} m thick: no grid can hold "
                                   "it. Check its unit and its parts.",
                                   size[2], size[1])});
    });
    mendedAt(Remark::Place::Model);
    attempt([&] {
        const Box box = grid::tunnelBox(tunnel, m.bounds);
        const double b = grid::blockage(box, s.tunnel.halfModel ? 0.5 * m.frontal : m.frontal);
        if (b > 0.03)
            out.push_back({false, fmt::format("The model blocks {:.1f} % of the tunnel; above 3 % the walls change the "
                                              "forces. Widen the tunnel.",
                                              100.0 * b)});
        if (m.leavesAnotherHalf)
            out.push_back(
                {false,
                 "What lies at y < 0 is not the mirror image of the rest and is left out of the half model: the "
                 "numbers are those of the starboard half and its image."});
        if (s.tunnel.halfModel && m.bounds.low.y() > 0.02 * m.bounds.size().norm())
            out.push_back({false, fmt::format("The half model starts {:.3g} m off the mirror plane, so air flows "
                                              "through that gap. Shift it to y = 0.",
                                              m.bounds.low.y())});
    });
    attempt([&] {
        if (s.tunnel.floor != grid::Floor::Fixed || !flow::isTurbulent(s.flow.model)) return;
        const double displacement = air::kDisplacementShare * groundLayerOf(s, m.bounds.size().x());
        if (displacement > 0.2 * std::max(tunnel.rideHeight, 0.0) && tunnel.rideHeight > 0.0)
            out.push_back(
                {false,
                 fmt::format(
                     "The boundary layer of the ground displaces the air by about {:.2g} m where the model begins, "
                     "{:.0f} % of the gap under it. Let it begin nearer to the model, or let the ground move.",
                     displacement, 100.0 * displacement / tunnel.rideHeight)});
    });
    mendedAt(Remark::Place::Tunnel);
    if (s.gapsLeftFilled && s.gapsLeftFilled->size() % 3 != 0)
        out.push_back(
            {true, "The places of gaps that stay filled are no whole number of places. Give x, y, z of each."});
    attempt([&] {
        if (const auto trouble = troubleWithGaps(c); !trouble.sentence.empty())
            out.push_back({true,
                           trouble.sentence,
                           {{fmt::format("Open with {} cells", trouble.budget),
                             fmt::format("grid.cell_budget={}", trouble.budget)},
                            {"Leave filled", trouble.leave}}});
        if (const double off = shareOfWallOff(c); off > grid::kMostFar)
            out.push_back(
                {off > kAnotherBody,
                 fmt::format("{:.2g} % of the wall's points stand off the model by more than a cell: there the grid is "
                             "another body than the model. Raise the budget, or make the cells there finer.",
                             100.0 * off)});
    });
    attempt([&] {
        const grid::FinerPlace* largest = nullptr;
        double cells = 0.0, most = 0.0;
        for (const auto& p : s.grid.finerPlaces) {
            const double here = p.volume() / std::pow(p.cell, 3);
            cells += here;
            if (here > most) {
                most = here;
                largest = &p;
            }
        }
        if (largest && cells > 0.5 * s.grid.cellBudget)
            out.push_back({false, fmt::format("The finer places alone ask for about {:.0f} cells of a budget of {}, so "
                                              "the model's own cells get coarse. The largest is at ({:.3g} {:.3g} "
                                              "{:.3g}): make it smaller, its cells larger, or raise the budget.",
                                              cells, s.grid.cellBudget, largest->from.x(), largest->from.y(),
                                              largest->from.z())});
    });
    mendedAt(Remark::Place::Grid);
    attempt([&] {
        if (s.tunnel.cutsModelAt(3) || s.tunnel.cutsModelAt(4) || s.tunnel.cutsModelAt(5))
            out.push_back({false,
                           "A wall of the tunnel cuts the model. Reference area, length and span are those of the "
                           "whole model unless you type them."});
    });
    mendedAt(Remark::Place::Tunnel);
    attempt([&] {
        const auto r = resolveReference(s.reference, m, s.tunnel.halfModel);
        if (!(r.area > 0.0) || !(r.length > 0.0) || !(r.span > 0.0))
            out.push_back(
                {true, "A reference value is zero. Type the area, length and span, or let them be computed."});
        else if (r.area > 4.0 * std::max({m.frontal, m.side, m.planform}) || r.area < 0.05 * m.frontal)
            out.push_back({false, fmt::format("The reference area {:.4g} m2 is far from the model's own areas (frontal "
                                              "{:.4g}, planform {:.4g}). Check its unit.",
                                              r.area, m.frontal, m.planform)});
    });
    mendedAt(Remark::Place::Model);
    // One that is hidden, as in a configuration without wheels, stands still and is no mistake.
    const auto isPart = [&](const std::string& name) {
        return std::any_of(s.model.parts.begin(), s.model.parts.end(), [&](const auto& p) { return p.name == name; });
    };
    for (const Wheel& w : s.devices.wheels)
        if (!isPart(w.part))
            out.push_back({true, fmt::format("The wheel \"{}\" is no part of the model. Take it out.", w.part)});
    for (const auto& r : s.devices.roughParts)
        if (!isPart(r.part))
            out.push_back({true, fmt::format("The rough part \"{}\" is no part of the model. Take it out.", r.part)});
    for (const auto& d : discsOf(s)) {
        if (!(d.outer > d.inner) || !(d.inner >= 0.0))
            out.push_back(
                {true,
                 fmt::format("The disc \"{}\" has radii that make no ring. Type an outer radius above the inner one.",
                             d.name)});
        if (d.thrust == 0.0 && !(d.power > 0.0))
            out.push_back(
                {false, fmt::format("The disc \"{}\" has neither thrust nor power, so it does nothing.", d.name)});
    }
    attempt([&] {
        const Box box = grid::tunnelBox(tunnel, m.bounds);
        for (const auto& d : discsInTunnel(s))
            if (!box.contains(d.centre))
                out.push_back({true, fmt::format("The disc \"{}\" at ({:.4g} {:.4g} {:.4g}) m is outside the tunnel. "
                                                 "Type a place inside it, or widen the tunnel.",
                                                 d.name, d.centre.x(), d.centre.y(), d.centre.z())});
        for (const auto& b : s.devices.blocks)
            if (!box.contains(0.5 * (b.from + b.to)))
                out.push_back({true, fmt::format("The porous block \"{}\" is outside the tunnel. Type corners inside "
                                                 "it, or widen the tunnel.",
                                                 b.name)});
    });
    for (const auto& b : s.devices.blocks)
        if (!((b.to - b.from).cwiseAbs().minCoeff() > 0.0))
            out.push_back(
                {true, fmt::format("The porous block \"{}\" has corners that make no box. Type two opposite corners.",
                                   b.name)});
    mendedAt(Remark::Place::Tunnel);
    attempt([&] { checkConditions(c, m, out); });
    mendedAt(Remark::Place::Schedule);
    return out;
}

}  // namespace cvane::campaign
