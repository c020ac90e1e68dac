#include "panels/panel_flow.h"

#include <fmt/format.h>

#include <cmath>

#include "base/errors.h"
#include "panels/gmres.h"
#include "shape/triangle.h"

namespace cvane::panels {
namespace {
constexpr double kTolerance = 1e-6;
constexpr int kMost = 400;
constexpr double kFastest = 3.0;   // speed on the surface over that of the wind
constexpr double kNear = 0.02;     // sizes of the model: of edges that were named by a place
constexpr double kOpening = 0.25;  // at 0.3 boxes of panels made half of what is left on a sphere of 8,000

// The inverse of what panels of one leaf make at each other, which holds both sides of a thin wing.
class LeafInverse {
  public:
    LeafInverse(const Influence& influence, const Wakes& wakes) : tree_(influence.tree()), leaves_(tree_.leaves()) {
        inverse_.resize(leaves_.size());
#pragma omp parallel for schedule(dynamic, 4)
        for (std::size_t l = 0; l < leaves_.size(); ++l) {
            Eigen::MatrixXd block = influence.leafBlock(l);
            wakes.addTo(block, panelsOf(l));
            inverse_[l].compute(0.5 * Eigen::MatrixXd::Identity(block.rows(), block.cols()) - block);
        }
    }
    Eigen::VectorXd operator()(const Eigen::VectorXd& x) const {
        Eigen::VectorXd out(x.size());
#pragma omp parallel for schedule(static)
        for (std::size_t l = 0; l < leaves_.size(); ++l) {
            const auto panels = panelsOf(l);
            Eigen::VectorXd part(static_cast<Eigen::Index>(panels.size()));
            for (std::size_t k = 0; k < panels.size(); ++k)
                part[static_cast<Eigen::Index>(k)] = x[static_cast<Eigen::Index>(panels[k])];
            part = inverse_[l].solve(part).eval();
            for (std::size_t k = 0; k < panels.size(); ++k)
                out[static_cast<Eigen::Index>(panels[k])] = part[static_cast<Eigen::Index>(k)];
        }
        return out;
    }

  private:
    std::vector<std::size_t> panelsOf(std::size_t l) const {
        const auto& node = tree_.nodes()[leaves_[l]];
        const auto from = tree_.order().begin() + static_cast<std::ptrdiff_t>(node.first);
        return {from, from + static_cast<std::ptrdiff_t>(node.count)};
    }
    const PanelTree& tree_;
    std::vector<std::size_t> leaves_;
    std::vector<Eigen::PartialPivLU<Eigen::MatrixXd>> inverse_;
};

// That take the wind off the surface, by the normals of the bent one: those of flat panels err by their size to the
// first power. What is left of their sum, which has to be none for a body to be closed, is taken off evenly.
Eigen::VectorXd sourcesOf(const Panels& panels, const BentPanels& bent, const Vec3& wind) {
    Eigen::VectorXd out(static_cast<Eigen::Index>(panels.size()));
    double sum = 0.0, flat = 0.0, area = 0.0;
    for (std::size_t i = 0; i < panels.size(); ++i) {
        out[static_cast<Eigen::Index>(i)] = wind.dot(bent.normal[i]);
        sum += panels.area[i] * wind.dot(bent.normal[i]);
        flat += panels.area[i] * wind.dot(panels.normal[i]);
        area += panels.area[i];
    }
    return out.array() - (sum - flat) / area;
}

// Of a pressure without compression (T. von Karman, J. Aeronaut. Sci. 8(9), 1941).
double karmanTsien(double cp, double mach) {
    const double beta = std::sqrt(1.0 - mach * mach);
    return cp / (beta + mach * mach / (1.0 + beta) * 0.5 * cp);
}

void check(const Panels& panels, const air::FreeStream& wind, const Around& around) {
    if (panels.size() == 0)
        throw base::InputError("there is no surface to put panels on.", "panels", "Bring a closed model.");
    const Vec3 v = wind.dragAxis();
    if (around.mirrors.inY && std::abs(v.y()) > 1e-9)
        throw base::InputError("a half model's flow is its own mirror image, but the wind has sideslip.", "panels",
                               "Take the sideslip out, or bring the whole model.");
    if (around.mirrors.ground && std::abs(v.z()) > 1e-9)
        throw base::InputError("the wind blows through the ground.", "panels",
                               "Turn the model instead of the wind, or take the ground out.");
    if (around.compressible && wind.mach() >= 1.0)
        throw base::InputError(fmt::format("panels end at Mach 1, but the wind has Mach {:.2f}.", wind.mach()),
                               "panels", "Run it in the field.");
}

void addLoads(PanelFlow& out, const Panels& panels, const BentPanels& bent, const air::FreeStream& wind,
              const Vec3& centre, const Mirrors& mirrors) {
    const double q = wind.dynamicPressure();
    std::vector<Vec3> force;
    for (std::size_t i = 0; i < panels.size(); ++i) force.push_back(-q * out.cp[i] * bent.framed(i));
    static_cast<PanelLoads&>(out) = loadsOf(panels, force, centre, mirrors.inY);
    if (mirrors.inY) {
        out.inducedDrag *= 2.0;
        out.farForce = Vec3(2.0 * out.farForce.x(), 0.0, 2.0 * out.farForce.z());
    }
}
}  // namespace

PanelFlow flowPast(const Panels& panels, const air::FreeStream& wind, const Vec3& centre, const Around& around,
                   const base::Progress& progress) {
    check(panels, wind, around);
    const Vec3 v = wind.velocity();
    const auto n = static_cast<Eigen::Index>(panels.size());
    const BentPanels bent(panels);
    SurfaceFit fit(bent);
    PanelFlow out;
    out.wakeDirection = wind.dragAxis();
    if (around.wakes) out.edges = trailingEdges(panels, out.wakeDirection, around.wakeTurn);
    const double near = kNear * panels.surface.bounds().size().norm();
    std::erase_if(out.edges, [&](const WakeEdge& e) {
        for (const auto& place : around.without)
            if ((shape::closestPointOnTriangle(place, e.a, e.b, e.b) - place).norm() < near) return true;
        // In the mirror plane lies nothing that could carry lift.
        return around.mirrors.inY && std::abs(e.a.y()) + std::abs(e.b.y()) < 1e-9 * (e.a - e.b).norm();
    });
    out.crossed = fit.part(wakesBetween(panels, out.edges, out.wakeDirection));
    const Influence influence(panels, bent, around.mirrors, kOpening, [&](double share, std::string_view doing) {
        return !progress || progress(0.1 + 0.4 * share, doing);
    });
    const Wakes wakes(panels, bent, fit, out.edges, out.wakeDirection, around.mirrors);
    // 1/2 phi - D phi - W jump(phi) = S (V . n)
    const Eigen::VectorXd sources = sourcesOf(panels, bent, v);
    base::report(progress, 0.5, "solving for the potential");
    const LeafInverse inverse(influence, wakes);
    bool cancelled = false;
    const auto solved = solveByGmres(
        [&](const Eigen::VectorXd& x) -> Eigen::VectorXd {
            return 0.5 * x - influence.ofDoublets(x, fit.gradients(x.data())) - wakes.of(wakes.jumps(x));
        },
        [&](const Eigen::VectorXd& x) { return inverse(x); },
        influence.ofSources(sources, fit.gradients(sources.data())), kTolerance, kMost,
        [&](int, double residual) {
            const double share = std::log(residual) / std::log(kTolerance);
            cancelled = progress && !progress(0.5 + 0.5 * std::clamp(share, 0.0, 1.0), "solving for the potential");
            return !cancelled;
        });
    if (cancelled) throw base::Cancelled();
    out.iterations = solved.iterations;
    out.residual = solved.residual;
    out.source.assign(sources.data(), sources.data() + n);
    out.potential.assign(solved.x.data(), solved.x.data() + n);
    const Eigen::VectorXd jumps = wakes.jumps(solved.x);
    out.jump.assign(jumps.data(), jumps.data() + jumps.size());
    const auto far = wakes.farBehind(jumps, wind);
    out.inducedDrag = far.drag;
    out.farForce = far.force;
    for (std::size_t i = 0; i < panels.size(); ++i) {
        const Vec3& m = bent.normal[i];
        Vec3 along = v - v.dot(m) * m + fit.gradient(i, out.potential.data());
        // Round a sharp edge the flow of no friction has no bound; what stands on the ground has no flow at all.
        if (along.norm() > kFastest * wind.speed) along *= kFastest * wind.speed / along.norm();
        if (around.mirrors.ground && panels.middle[i].z() - *around.mirrors.ground < std::sqrt(panels.area[i]))
            along.setZero();
        out.velocity.push_back(along);
        const double cp = 1.0 - along.squaredNorm() / v.squaredNorm();
        out.cp.push_back(around.compressible ? karmanTsien(cp, wind.mach()) : cp);
    }
    addLoads(out, panels, bent, wind, centre, around.mirrors);
    return out;
}

std::vector<Vec3> velocitiesOff(const Panels& panels, const PanelFlow& flow, const air::FreeStream& wind,
                                const Mirrors& mirrors, const std::vector<Vec3>& places) {
    const Vec3 v = wind.velocity();
    const auto views = mirrors.views();
    std::vector<Vec3> out(places.size());
    const double length = wakeLength(panels);
#pragma omp parallel for schedule(dynamic, 4)
    for (std::size_t k = 0; k < places.size(); ++k) {
        Vec3 sum = v;
        for (const auto& view : views) {
            const Vec3 place = view(places[k]);
            Vec3 here = Vec3::Zero();
            for (std::size_t i = 0; i < panels.size(); ++i) {
                const auto u = velocitiesAt(place, panels.triangle(i), 0.0);
                here += flow.source[i] * u.source + flow.potential[i] * u.doublet;
            }
            for (std::size_t w = 0; w < flow.edges.size(); ++w)
                for (const auto& t : wakeSheet(flow.edges[w], flow.wakeDirection, length))
                    here += flow.jump[w] * velocitiesAt(place, t, 0.0).doublet;
            sum += view(here) - view(Vec3::Zero());
        }
        out[k] = sum;
    }
    return out;
}

}  // namespace cvane::panels
