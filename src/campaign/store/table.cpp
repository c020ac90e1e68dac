#include "campaign/store/table.h"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>
#include <map>
#include <tuple>

namespace cvane::campaign {

void sortByAngle(std::vector<PointReport>& reports) {
    std::stable_sort(reports.begin(), reports.end(), [](const auto& a, const auto& b) {
        const auto order = [](const Point& p) {
            return std::tuple(p.configuration, p.setUp, p.method, p.condition.speed, p.condition.beta_deg,
                              p.condition.alpha_deg);
        };
        return order(a.point) < order(b.point);
    });
}

std::string textTable(const std::vector<PointReport>& reports) {
    std::string t = fmt::format("{:>9} {:>7} {:>7}  {:<11} {:>9} {:>9} {:>9} {:>9} {:>8} {:>8} {:>6}\n", "speed m/s",
                                "alpha", "beta", "state", "CL", "CD", "CY", "Cm", "+-CL", "+-CD", "iter");
    const Point* before = nullptr;
    for (const auto& r : reports) {
        // Builds and methods are named where there are several.
        const Point &first = reports.front().point, &last = reports.back().point;
        const auto another = [&](const Point& p) {
            return p.configuration != r.point.configuration || p.setUp != r.point.setUp || p.method != r.point.method;
        };
        const bool builds = first.configuration != last.configuration || first.setUp != last.setUp,
                   methods = std::any_of(reports.begin(), reports.end(),
                                         [&](const auto&x) { return x.point.method != first.method; });
        if ((builds || methods) && (!before || another(*before))) {
            if (builds) t += fmt::format("{} in {}", shownName(r.point.configuration), shownName(r.point.setUp));
            if (methods) t += fmt::format("{}{}", builds ? ", " : "", nameOf(r.point.method).shown);
            t += ":\n";
        }
        before = &r.point;
        fmt::format_to(std::back_inserter(t), "{:>9.2f} {:>7.2f} {:>7.2f}  {:<11}", r.point.condition.speed,
                       r.point.condition.alpha_deg, r.point.condition.beta_deg, nameOf(r.state));
        if (r.result) {
            const auto& c = r.result->coefficients;
            fmt::format_to(std::back_inserter(t), "{}{:>9.5f} {:>9.5f} {:>9.5f} {:>9.5f} {:>8.5f} {:>8.5f}{} {:>5}",
                           r.provisional() ? kProvisional : " ", c.CL, c.CD, c.CY, c.Cm, r.result->trust().CL,
                           r.result->trust().CD, r.result->gridsOfBand() > 0 ? " " : "*", r.result->iterations);
        }
        t += "\n";
    }
    if (std::any_of(reports.begin(), reports.end(),
                    [](const auto& r) { return r.result && r.result->gridsOfBand() == 0; }))
        t += "* +- without the grid's part: there was no coarser grid to compare with, or the flow swings on it.\n";
    if (std::any_of(reports.begin(), reports.end(), [](const auto& r) { return r.provisional(); }))
        t += fmt::format("{} provisional: the point has not come to the end that is asked for.\n", kProvisional);
    for (const auto& r : reports)
        if (r.provisional() && !r.message.empty()) t += fmt::format("{}: {}\n", r.point.name(), r.message);
    for (const auto& r : reports)
        if (r.result)
            for (const auto& f : r.result->findings) t += fmt::format("{}: {}\n", r.point.name(), f.what);
    return t;
}

std::string csvTable(const std::vector<PointReport>& listed) {
    // As a spreadsheet's reader looks for them, not in the order of running.
    auto reports = listed;
    std::map<std::pair<std::string, std::string>, std::size_t> builds;  // in the order in which they come
    for (const auto& r : reports) builds.try_emplace({r.point.configuration, r.point.setUp}, builds.size());
    std::stable_sort(reports.begin(), reports.end(), [&](const auto& a, const auto& b) {
        const auto order = [&](const Point& p) {
            return std::tuple(builds.at({p.configuration, p.setUp}), p.method, p.condition.speed, p.condition.beta_deg,
                              p.condition.alpha_deg);
        };
        return order(a.point) < order(b.point);
    });
    std::string t =
        "speed_m_s,alpha_deg,beta_deg,state,CL,CD,CY,Cl,Cm,Cn,CL_iteration_band,CD_iteration_band,CL_grid_band,CD_grid_"
        "band,L_over_D,drag_N,lift_N,side_N,pressure_share_of_drag,reynolds,mach,q_Pa,iterations,cells,seconds,"
        "configuration,set_up,provisional,method\n";
    for (const auto& r : reports) {
        fmt::format_to(std::back_inserter(t), "{:g},{:g},{:g},{}", r.point.condition.speed, r.point.condition.alpha_deg,
                       r.point.condition.beta_deg, nameOf(r.state));
        if (r.result) {
            const auto& x = *r.result;
            const auto& c = x.coefficients;
            const auto g = x.gridBand();
            const double qS = x.wind.dynamicPressure() * x.reference.area;
            fmt::format_to(std::back_inserter(t),
                           ",{:.6f},{:.6f},{:.6f},{:.6f},{:.6f},{:.6f},{:.6f},{:.6f},{},{},{:.4f},{:.6g},{:.6g},{:.6g},"
                           "{:.4f},{:.6g},{:.5f},{:.6g},{},{},{:.1f}",
                           c.CL, c.CD, c.CY, c.Cl, c.Cm, c.Cn, x.band.CL, x.band.CD,
                           g ? fmt::format("{:.6f}", g->CL) : "", g ? fmt::format("{:.6f}", g->CD) : "",
                           c.CD != 0.0 ? c.CL / c.CD : 0.0, c.CD * qS, c.CL * qS, c.CY * qS, x.pressureShareOfDrag,
                           x.wind.reynolds(x.reference.length), x.wind.mach(), x.wind.dynamicPressure(), x.iterations,
                           x.cells, x.seconds);
        } else {
            t += ",,,,,,,,,,,,,,,,,,,,,";
        }
        t += fmt::format(",{},{},{},{}\n", shownName(r.point.configuration), shownName(r.point.setUp),
                         r.provisional() ? "yes" : "no", nameOf(r.point.method).id);
    }
    return t;
}

nlohmann::json jsonTable(const std::vector<PointReport>& reports) {
    auto out = nlohmann::json::array();
    for (const auto& r : reports)
        out.push_back({{"name", r.point.name()},
                       {"point",
                        {{"speed_m_s", r.point.condition.speed},
                         {"alpha_deg", r.point.condition.alpha_deg},
                         {"beta_deg", r.point.condition.beta_deg}}},
                       {"configuration", shownName(r.point.configuration)},
                       {"set_up", shownName(r.point.setUp)},
                       {"method", nameOf(r.point.method).id},
                       {"state", nameOf(r.state)},
                       {"provisional", r.provisional()},
                       {"message", r.message},
                       {"result", r.result ? readout::toJson(*r.result) : nlohmann::json(nullptr)}});
    return out;
}

}  // namespace cvane::campaign
