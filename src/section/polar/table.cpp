#include "section/polar/table.h"

#include <fmt/format.h>

#include <cmath>

#include "base/errors.h"
#include "base/units.h"

namespace cvane::section {
using base::degree;
using nlohmann::json;

namespace {
json stretches(const std::vector<Stretch>& all) {
    json out = json::array();
    for (const auto& s : all) out.push_back({s.from, s.to});
    return out;
}
std::vector<Stretch> stretchesFrom(const json& j) {
    std::vector<Stretch> out;
    for (const auto& s : j) out.push_back({s.at(0).get<double>(), s.at(1).get<double>()});
    return out;
}
}  // namespace

json jsonOf(const PointFigures& f) {
    json j = {{"alpha_deg", f.alpha / degree},
              {"cl", f.cl},
              {"cm", f.cm},
              {"mach", f.mach},
              {"converged", f.converged},
              {"viscous", f.viscous},
              {"lowest_cp", f.lowestCp},
              {"lowest_cp_x", f.lowestCpAt},
              {"highest_mach", f.highestMach}};
    if (!f.viscous) return j;
    j.update({{"reynolds", f.reynolds},
              {"n_critical", f.nCritical},
              {"cd", f.cd},
              {"cd_friction", f.cdFriction},
              {"cd_pressure", f.cd - f.cdFriction},
              {"transition_upper", f.transition[0]},
              {"transition_lower", f.transition[1]},
              {"tripped_upper", f.tripped[0]},
              {"tripped_lower", f.tripped[1]},
              {"backflow_upper", stretches(f.backflow[0])},
              {"backflow_lower", stretches(f.backflow[1])},
              {"iterations", f.iterations},
              {"residual", std::isfinite(f.residual) ? json(f.residual) : json(nullptr)}});
    return j;
}

PointFigures figuresFromJson(const json& j) {
    try {
        PointFigures f;
        f.alpha = j.at("alpha_deg").get<double>() * degree;
        f.cl = j.at("cl"), f.cm = j.at("cm"), f.mach = j.at("mach");
        f.converged = j.at("converged"), f.viscous = j.at("viscous");
        f.lowestCp = j.at("lowest_cp"), f.lowestCpAt = j.at("lowest_cp_x"), f.highestMach = j.at("highest_mach");
        if (!f.viscous) return f;
        f.reynolds = j.at("reynolds"), f.nCritical = j.at("n_critical");
        f.cd = j.at("cd"), f.cdFriction = j.at("cd_friction");
        f.transition = {j.at("transition_upper"), j.at("transition_lower")};
        f.tripped = {j.at("tripped_upper"), j.at("tripped_lower")};
        f.backflow = {stretchesFrom(j.at("backflow_upper")), stretchesFrom(j.at("backflow_lower"))};
        f.iterations = j.at("iterations");
        f.residual = j.at("residual").is_number() ? j.at("residual").get<double>() : std::nan("");
        return f;
    } catch (const json::exception&) {
        throw base::InputError("a point of a polar lacks a field.", "polar", "Compute it again.");
    }
}

json jsonOf(const Distribution& d) {
    const auto rows = [](const std::vector<LayerSample>& all) {
        json out = json::array();
        for (const LayerSample& p : all)
            out.push_back({{"x", p.x},
                           {"z", p.z},
                           {"s", p.s},
                           {"cp", p.Cp},
                           {"edge_speed", p.speed},
                           {"displacement_thickness", p.deltaStar},
                           {"momentum_thickness", p.theta},
                           {"shape_factor", p.H},
                           {"cf", p.cf},
                           {"amplification", p.amplification},
                           {"stress", p.stress},
                           {"turbulent", p.turbulent}});
        return out;
    };
    return {{"upper", rows(d.upper)}, {"lower", rows(d.lower)}, {"wake", rows(d.wake)}};
}

json jsonOf(const Figures& f) {
    return {{"thickness", f.thickness},
            {"thickness_x", f.thicknessAt},
            {"camber", f.camber},
            {"camber_x", f.camberAt},
            {"nose_radius", f.noseRadius},
            {"trailing_edge_gap", f.gap},
            {"trailing_edge_angle_deg", f.trailingAngle / degree}};
}

std::string csvHead() {
    return "Reynolds,Mach,n,alpha [deg],cl,cd,cd friction,cm,cl/cd,transition upper x/c,transition lower x/c,"
           "separation upper x/c,separation lower x/c,lowest Cp,converged,residual\n";
}

json shownJson(const PointFigures& f) {
    json j = jsonOf(f);
    if (f.converged) return j;
    // What an iteration that came to no end has left is no figure of the section.
    for (const char* name : {"cl", "cm", "cd", "cd_friction", "cd_pressure", "transition_upper", "transition_lower",
                             "backflow_upper", "backflow_lower", "lowest_cp", "lowest_cp_x", "highest_mach"})
        if (j.contains(name)) j[name] = nullptr;
    return j;
}

std::string csvRow(const PointFigures& f, bool unsettledToo) {
    const auto separation = [&](Side side) {
        const auto at = f.separation(side);
        return at ? fmt::format("{:.4f}", *at) : std::string();
    };
    if (!f.viscous)
        return fmt::format(",{:g},,{:.4f},{:.5f},,,{:.5f},,,,,,{:.4f},yes,\n", f.mach, f.alpha / degree, f.cl, f.cm,
                           f.lowestCp);
    if (!f.converged && !unsettledToo)
        return fmt::format("{:.0f},{:g},{:g},{:.4f},,,,,,,,,,,no,{:.2e}\n", f.reynolds, f.mach, f.nCritical,
                           f.alpha / degree, f.residual);
    return fmt::format(
        "{:.0f},{:g},{:g},{:.4f},{:.5f},{:.6f},{:.6f},{:.5f},{:.2f},{:.4f},{:.4f},{},{},{:.4f},{},{:.2e}\n", f.reynolds,
        f.mach, f.nCritical, f.alpha / degree, f.cl, f.cd, f.cdFriction, f.cm, f.cd > 0.0 ? f.cl / f.cd : 0.0,
        f.transition[0], f.transition[1], separation(Side::Upper), separation(Side::Lower), f.lowestCp,
        f.converged ? "yes" : "no", f.residual);
}

std::string csvOf(const Distribution& d) {
    std::string out = "side,x/c,z/c,s/c,Cp,edge speed/V,delta*/c,theta/c,H,cf,n,shear stress coefficient,turbulent\n";
    const auto add = [&](const char* side, const std::vector<LayerSample>& all) {
        for (const LayerSample& p : all)
            out += fmt::format("{},{:.6f},{:.6f},{:.6f},{:.5f},{:.5f},{:.4e},{:.4e},{:.4f},{:.4e},{:.3f},{:.4e},{}\n",
                               side, p.x, p.z, p.s, p.Cp, p.speed, p.deltaStar, p.theta, p.H, p.cf, p.amplification,
                               p.stress, p.turbulent ? "yes" : "no");
    };
    add("upper", d.upper);
    add("lower", d.lower);
    add("wake", d.wake);
    return out;
}

}  // namespace cvane::section
