#include "panels/layer.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "shape/edges.h"

namespace cvane::panels {
namespace {
constexpr int kMostSteps = 2000;
constexpr double kStagnant = 0.02;  // of the free stream: where lines begin

// Shear S(lambda) with tau = mu U S / theta, and H(lambda).
double thwaitesShear(double l) {
    return std::pow(std::max(l + 0.09, 0.0), 0.62);
}
double thwaitesShape(double l) {
    const double z = 0.25 - std::clamp(l, -0.09, 0.25);
    return 2.0 + 4.14 * z - 83.5 * z * z + 854.0 * z * z * z - 3337.0 * z * z * z * z + 4576.0 * z * z * z * z * z;
}
// H1 = (delta - delta*) / theta over H, and back.
double headOf(double h) {
    return h <= 1.6 ? 3.3 + 0.8234 * std::pow(std::max(h - 1.1, 1e-3), -1.287)
                    : 3.3 + 1.5501 * std::pow(h - 0.6778, -3.064);
}
double shapeOf(double h1) {
    if (h1 <= 3.3 + 1e-6) return 3.0;
    return h1 >= 5.3 ? 1.1 + 0.86 * std::pow(h1 - 3.3, -0.777) : 0.6778 + 1.1536 * std::pow(h1 - 3.3, -0.326);
}
constexpr double kSeparated = 2.6;
}  // namespace

LineLayer layerAlong(const std::vector<double>& s, const std::vector<double>& speed, double nu) {
    LineLayer out;
    if (s.size() < 2) return out;
    // theta^2 = 0.45 nu / U^6 integral of U^5 ds; at a stagnation point 0.075 nu / (dU/ds).
    double integral = 0.0, h1 = 0.0;
    for (std::size_t k = 1; k < s.size(); ++k) {
        const double ds = s[k] - s[k - 1], u0 = speed[k - 1], u1 = speed[k];
        if (ds <= 0.0 || u1 <= 0.0) continue;
        const double slope = (u1 - u0) / ds;
        if (!out.turbulent) {
            integral += 0.5 * ds * (std::pow(u0, 5.0) + std::pow(u1, 5.0));
            if (k == 1) integral = std::max(integral, std::pow(u1, 6.0) * 0.075 / 0.45 / std::max(slope, u1 / s[k]));
            out.theta = std::sqrt(0.45 * nu * integral / std::pow(u1, 6.0));
            const double lambda = out.theta * out.theta / nu * slope, reynolds = u1 * out.theta / nu;
            out.shape = thwaitesShape(lambda);
            out.cf = 2.0 * nu / (u1 * out.theta) * thwaitesShear(std::min(lambda, 0.25));
            const double along = u1 * s[k] / nu;
            const bool turns = reynolds > 1.174 * (1.0 + 22400.0 / along) * std::pow(along, 0.46);
            if (turns || lambda < -0.09) {
                out.turbulent = true;
                out.shape = 1.4;
                h1 = headOf(out.shape);
            }
            continue;
        }
        // d(theta)/ds = cf/2 - (2 + H) theta/U dU/ds; d(U theta H1)/ds = U 0.0306 (H1 - 3)^-0.6169, in small steps.
        const int steps = std::clamp(static_cast<int>(ds / (4.0 * out.theta + 1e-12)) + 1, 1, 50);
        const double d = ds / steps;
        for (int i = 0; i < steps; ++i) {
            const double u = u0 + slope * d * (i + 0.5), reynolds = std::max(u * out.theta / nu, 20.0);
            out.cf = 0.246 * std::pow(10.0, -0.678 * out.shape) * std::pow(reynolds, -0.268);
            const double grow = 0.5 * out.cf - (2.0 + out.shape) * out.theta / u * slope;
            const double entrained = 0.0306 * std::pow(std::max(h1 - 3.0, 0.05), -0.6169);
            const double next = std::max(out.theta + d * grow, 0.2 * out.theta);
            h1 = (out.theta * h1 * u + d * u * entrained) / (next * (u + 0.5 * slope * d));
            out.theta = next;
            out.shape = std::clamp(shapeOf(std::max(h1, 3.3)), 1.15, 3.0);
            if (out.shape > kSeparated) {
                out.separated = true;
                out.cf = 0.0;
                return out;
            }
        }
    }
    return out;
}

namespace {
// Panel beside each edge of a panel; -1: none.
std::vector<std::array<int, 3>> neighboursOf(const Panels& p) {
    std::vector<std::array<int, 3>> out(p.size(), {-1, -1, -1});
    for (const auto& e : shape::edgesOf(p.surface)) {
        if (e.uses.size() != 2) continue;
        for (const auto& [from, to] : {std::pair{0, 1}, std::pair{1, 0}}) {
            const auto i = static_cast<std::size_t>(e.uses[static_cast<std::size_t>(from)].facet);
            for (std::size_t k = 0; k < 3; ++k) {
                const auto a = p.surface.facets[i][k], b = p.surface.facets[i][(k + 1) % 3];
                if (std::min(a, b) == e.a && std::max(a, b) == e.b)
                    out[i][k] = e.uses[static_cast<std::size_t>(to)].facet;
            }
        }
    }
    return out;
}

struct Line {
    std::vector<double> s, speed;
};
// From a panel's middle against the flow to where it begins.
Line lineTo(const Panels& p, const PanelFlow& flow, const std::vector<std::array<int, 3>>& next, std::size_t from,
            double stagnant) {
    std::vector<double> back{0.0}, speed{flow.velocity[from].norm()};
    Vec3 place = p.middle[from];
    std::size_t panel = from;
    int came = -1;
    for (int step = 0; step < kMostSteps; ++step) {
        const Vec3& n = p.normal[panel];
        Vec3 way = -flow.velocity[panel];
        way -= way.dot(n) * n;
        const double size = way.norm();
        if (size < stagnant) break;
        way /= size;
        // The edge through which the line goes.
        double least = 1e300;
        int through = -1;
        for (int k = 0; k < 3; ++k) {
            if (k == came) continue;
            const Vec3 a = p.surface.corner(panel, k), b = p.surface.corner(panel, (k + 1) % 3);
            const Vec3 out = (b - a).cross(n);
            const double rate = way.dot(out);
            if (rate <= 1e-12 * out.norm()) continue;
            const double far = std::max(0.0, (a - place).dot(out) / rate);
            if (far < least) {
                least = far;
                through = k;
            }
        }
        if (through < 0) break;
        place += least * way;
        back.push_back(back.back() + least);
        const int to = next[panel][static_cast<std::size_t>(through)];
        // Flow does not come round a sharp edge with a layer that it had before.
        if (to < 0 || p.normal[static_cast<std::size_t>(to)].dot(n) < 0.5) {
            speed.push_back(flow.velocity[panel].norm());
            break;
        }
        speed.push_back(0.5 * (flow.velocity[panel].norm() + flow.velocity[static_cast<std::size_t>(to)].norm()));
        came = -1;
        for (int k = 0; k < 3; ++k)
            if (next[static_cast<std::size_t>(to)][static_cast<std::size_t>(k)] == static_cast<int>(panel)) came = k;
        panel = static_cast<std::size_t>(to);
    }
    Line out;
    for (std::size_t k = back.size(); k-- > 0;) {
        out.s.push_back(back.back() - back[k]);
        out.speed.push_back(speed[k]);
    }
    return out;
}
}  // namespace

PanelLayer layerOn(const Panels& p, const PanelFlow& flow, const air::FreeStream& wind, const Vec3& centre,
                   bool mirrored) {
    PanelLayer out;
    out.cf.assign(p.size(), 0.0);
    out.turbulent.assign(p.size(), 0);
    out.separated.assign(p.size(), 0);
    const auto next = neighboursOf(p);
    const double nu = wind.air.kinematicViscosity();
#pragma omp parallel for schedule(dynamic, 64)
    for (std::size_t i = 0; i < p.size(); ++i) {
        const auto line = lineTo(p, flow, next, i, kStagnant * wind.speed);
        const auto at = layerAlong(line.s, line.speed, nu);
        out.cf[i] = at.cf * std::pow(flow.velocity[i].norm() / wind.speed, 2);
        out.turbulent[i] = at.turbulent;
        out.separated[i] = at.separated;
    }
    std::vector<Vec3> force(p.size(), Vec3::Zero());
    double area = 0.0;
    for (std::size_t i = 0; i < p.size(); ++i) {
        area += p.area[i];
        out.separatedArea += out.separated[i] ? p.area[i] : 0.0;
        const double size = flow.velocity[i].norm();
        if (size > 0.0) force[i] = wind.dynamicPressure() * out.cf[i] * p.area[i] / size * flow.velocity[i];
    }
    out.separatedArea /= std::max(area, 1e-300);
    static_cast<PanelLoads&>(out) = loadsOf(p, force, centre, mirrored);
    return out;
}

}  // namespace cvane::panels
