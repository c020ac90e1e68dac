#include "campaign/plan/preflight.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "air/plate_layer.h"
#include "base/errors.h"
#include "base/units.h"
#include "campaign/plan/points.h"
#include "campaign/steps/grid_stage.h"
#include "flow/roles.h"
#include "shape/import.h"

namespace cvane::campaign {

std::vector<Remark> preflight(const Campaign& c, const ModelMeasures& m) {
    std::vector<Remark> out;
    const Settings& s = c.settings;
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
    mendedAt(Remark::Place::Model);
    attempt([&] {
        const Box box = grid::tunnelBox(s.tunnel, m.bounds);
        const double b = grid::blockage(box, s.tunnel.halfModel ? 0.5 * m.frontal : m.frontal);
        if (b > 0.03)
            out.push_back({false, fmt::format("The model blocks {:.1f} % of the tunnel; above 3 % the walls change the "
                                              "forces. Widen the tunnel.",
                                              100.0 * b)});
        if (s.tunnel.halfModel && m.bounds.low.y() < -1e-3 * m.bounds.size().norm())
            out.push_back({false, "Part of the model lies at y < 0 and is left out of the half model."});
        if (s.tunnel.halfModel && m.bounds.low.y() > 0.02 * m.bounds.size().norm())
            out.push_back({false, fmt::format("The half model starts {:.3g} m off the mirror plane, so air flows "
                                              "through that gap. Shift it to y = 0.",
                                              m.bounds.low.y())});
    });
    if (s.tunnel.floor != grid::Floor::None && m.hiddenBelow > 1e-3 * m.bounds.size().norm())
        out.push_back({false, fmt::format("Hidden parts reach {:.3g} m below those in the air. The ride height counts "
                                          "from the lowest point in the air, so "
                                          "the model has come down to the ground by as much; with a ride height of "
                                          "{:.4g} m it stays where it was.",
                                          m.hiddenBelow, s.tunnel.rideHeight + m.hiddenBelow)});
    attempt([&] {
        if (s.tunnel.floor != grid::Floor::Fixed || !flow::isTurbulent(s.flow.model)) return;
        const double displacement = air::kDisplacementShare * groundLayerOf(s, m.bounds.size().x());
        if (displacement > 0.2 * std::max(s.tunnel.rideHeight, 0.0) && s.tunnel.rideHeight > 0.0)
            out.push_back(
                {false,
                 fmt::format(
                     "The boundary layer of the ground displaces the air by about {:.2g} m where the model begins, "
                     "{:.0f} % of the gap under it. Let it begin nearer to the model, or let the ground move.",
                     displacement, 100.0 * displacement / s.tunnel.rideHeight)});
    });
    mendedAt(Remark::Place::Tunnel);
    attempt([&] {
        if (const auto trouble = troubleWithGaps(c); !trouble.sentence.empty())
            out.push_back({true,
                           trouble.sentence,
                           {{fmt::format("Open with {} cells", trouble.budget),
                             fmt::format("grid.cell_budget={}", trouble.budget)},
                            {"Leave filled", "grid.leave_gaps_filled=true"}}});
        if (const double off = shareOfWallOff(c); off > grid::kMostFar)
            out.push_back(
                {false,
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
    for (const auto& d : s.devices.discs) {
        if (!(d.outer > d.inner) || !(d.inner >= 0.0))
            out.push_back(
                {true,
                 fmt::format("The disc \"{}\" has radii that make no ring. Type an outer radius above the inner one.",
                             d.name)});
        if (d.thrust == 0.0 && !(d.power > 0.0))
            out.push_back(
                {false, fmt::format("The disc \"{}\" has neither thrust nor power, so it does nothing.", d.name)});
    }
    for (const auto& b : s.devices.blocks)
        if (!((b.to - b.from).cwiseAbs().minCoeff() > 0.0))
            out.push_back(
                {true, fmt::format("The porous block \"{}\" has corners that make no box. Type two opposite corners.",
                                   b.name)});
    mendedAt(Remark::Place::Tunnel);
    attempt([&] {
        double fastest = 0.0;
        for (const Condition& p : conditionsOf(s.schedule)) {
            const auto wind = windOf(s, p);
            if (s.tunnel.floor != grid::Floor::None && std::abs(p.alpha_deg) > 1e-9) {
                out.push_back(
                    {true,
                     "Alpha other than 0 would blow through the ground. Set alpha to 0, and pitch the model instead."});
                break;
            }
            if (s.tunnel.halfModel && std::abs(p.beta_deg) > 1e-9) {
                out.push_back({true, "A half model cannot have sideslip. Set beta to 0, or use the full model."});
                break;
            }
            if (s.tunnel.closed && std::hypot(p.alpha_deg, p.beta_deg) > 1e-9) {
                out.push_back({true,
                               "The wind of a closed tunnel blows along its axis. Set alpha and beta to 0 and turn the "
                               "model, or open the sides."});
                break;
            }
            fastest = std::max(fastest, wind.mach());
        }
        if (fastest > 0.3)
            out.push_back({false, fmt::format("Mach {:.2f} is beyond 0.3: the air is computed as incompressible, so "
                                              "expect errors of the order of {:.0f} %.",
                                              fastest, 50.0 * fastest * fastest)});
    });
    mendedAt(Remark::Place::Schedule);
    return out;
}

}  // namespace cvane::campaign
