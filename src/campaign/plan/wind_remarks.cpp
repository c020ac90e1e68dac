#include "campaign/plan/wind_remarks.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "air/gas.h"
#include "campaign/steps/model_stage.h"
#include "grid/tunnel.h"

namespace cvane::campaign {
namespace {
/// Beyond it the gas is no longer one of constant heats, and nothing here has been held against measurements.
constexpr double kFastestMach = 5.0;

/// Share of a duct that a sonic throat may have where the stream before it has this Mach number: A* / A. Source: H. W.
/// Liepmann, A. Roshko, Elements of Gasdynamics, ch. 5.
double sonicThroat(double M, double g) {
    return M * std::pow((1.0 + 0.5 * (g - 1.0) * M * M) / (0.5 * (g + 1.0)), -0.5 * (g + 1.0) / (g - 1.0));
}
}  // namespace

void WindRemarks::look(const Point& p, const air::FreeStream& wind) {
    const Settings& s = campaign_.settings;
    const double M = wind.mach();
    if (s.flow.compressible == flow::Compressible::Always && wind.air.isLiquid && !std::exchange(tooFast_, true))
        remarks_.push_back(
            {true, "A liquid has one density: it cannot be computed as compressible. Set flow.compressible to never."});
    if (!isCompressible(s, wind)) {
        fastest_ = std::max(fastest_, M);
        return;
    }
    if (M > kFastestMach && !std::exchange(tooFast_, true))
        remarks_.push_back(
            {true, fmt::format("{}: Mach {:.3g} is beyond {:g}, where the gas is no longer one of constant "
                               "heats. Lower the speed.",
                               p.name(), M, kFastestMach)});
    if (s.tunnel.closed) lookAtClosedTunnel(p, wind);
}

void WindRemarks::lookAtClosedTunnel(const Point& p, const air::FreeStream& wind) {
    const grid::Tunnel tunnel = tunnelFor(campaign_.settings, model_);
    const Box box = grid::tunnelBox(tunnel, model_.bounds);
    const double M = wind.mach(), frontal = tunnel.halfModel ? 0.5 * model_.frontal : model_.frontal,
                 left = 1.0 - grid::blockage(box, frontal), throat = sonicThroat(M, wind.air.ratioOfHeats());
    if (left < throat && !std::exchange(chokes_, true))
        remarks_.push_back(
            {true, fmt::format("{}: the closed tunnel chokes: at Mach {:.3g} {:.1f} % of its section must "
                               "stay open, and the model leaves {:.1f}. Widen the tunnel, or open it.",
                               p.name(), M, 100.0 * throat, 100.0 * left)});
    if (M <= 1.0) return;
    // The bow wave's Mach line from the nose to the nearest wall and back to the axis.
    const Vec3 middle = 0.5 * (model_.bounds.low + model_.bounds.high);
    const double wall = std::min({box.high.y() - middle.y(), box.high.z() - middle.z(), middle.z() - box.low.z()}),
                 back = 2.0 * wall * std::sqrt(M * M - 1.0);
    if (back < model_.bounds.size().x() && !std::exchange(reflects_, true))
        remarks_.push_back({false, fmt::format("{}: at Mach {:.3g} the nose's wave comes back from the closed tunnel's "
                                               "walls {:.3g} m behind the nose, onto the model. Widen the tunnel.",
                                               p.name(), M, back)});
}

void WindRemarks::tell(std::vector<Remark>& out) const {
    out.insert(out.end(), remarks_.begin(), remarks_.end());
    const Settings& s = campaign_.settings;
    if (fastest_ > kIncompressible)
        out.push_back(
            {false, fmt::format("Mach {:.2f} is beyond {:g}: the air is computed as incompressible, so expect "
                                "errors of the order of {:.0f} %.",
                                fastest_, kIncompressible, 50.0 * fastest_ * fastest_)});
    if (s.air.gas == "air") return;
    AirSettings air = s.air;
    air.gas = "air";
    const air::Air here = airOf(s.air), there = airOf(air);
    out.push_back({false, fmt::format("The tunnel is filled with {}: at one speed q is {:.3g} times and the Reynolds "
                                      "number {:.3g} times that in air.",
                                      s.air.gas, here.density / there.density,
                                      there.kinematicViscosity() / here.kinematicViscosity())});
}

}  // namespace cvane::campaign
