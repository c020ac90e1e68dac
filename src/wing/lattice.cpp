#include "wing/lattice.h"

#include <algorithm>
#include <cmath>

#include "wing/layout.h"

namespace cvane::wing {
namespace {
constexpr double kSame = 1e-9;  // [m]

// Fins on the mirror plane.
bool standsInMirror(const LiftingSurface& s) {
    return !s.mirrored && std::abs(s.place.y()) < kSame && std::abs(std::abs(s.roll_deg) - 90.0) < 1e-9 &&
           std::all_of(s.stations.begin(), s.stations.end(), [](const Station& t) { return t.dihedral_deg == 0.0; });
}
bool isCambered(const Aircraft& a, const LiftingSurface& s) {
    return s.incidence_deg != 0.0 ||
           std::any_of(s.controls.begin(), s.controls.end(), [](const Control& c) { return c.angle_deg != 0.0; }) ||
           std::any_of(s.stations.begin(), s.stations.end(), [&](const Station& t) {
               if (t.twist_deg != 0.0) return true;
               const Profile p(outlineOf(a, t.section));
               return std::abs(p.mean(0.5).y()) > 1e-6 || std::abs(p.mean(0.25).y()) > 1e-6;
           });
}

// Its root meets neither its image nor the mirror plane.
bool hasFreeRoot(const LiftingSurface& s) {
    return !s.mirrored || std::abs(s.place.y()) > kSame;
}

// Where along each strip the middle lies in the step by which edges follow each other, by a cubic through the four
// edges about it: in its breadth for equal strips, nearer to the tip where they grow narrower towards it. Vortices at
// the edges and points there integrate a circulation that ends like a root as well as any. Source of the idea: H.
// Multhopp, Luftfahrtforschung 15, 1938.
std::vector<double> middlesOf(const std::vector<double>& edges, bool mirroredRoot) {
    const std::size_t n = edges.size() - 1;
    std::vector<double> out;
    const auto edge = [&](std::ptrdiff_t k) {
        const auto last = static_cast<std::ptrdiff_t>(n);
        if (k >= 0 && k <= last) return edges[static_cast<std::size_t>(k)];
        if (n == 1) return k < 0 ? 2.0 * edges[0] - edges[1] : 2.0 * edges[1] - edges[0];
        if (k < 0)
            return mirroredRoot ? 2.0 * edges[0] - edges[1]
                                : edges[0] - 2.0 * (edges[1] - edges[0]) + (edges[2] - edges[1]);
        return edges[n] + 2.0 * (edges[n] - edges[n - 1]) - (edges[n - 1] - edges[n - 2]);
    };
    for (std::size_t j = 0; j < n; ++j) {
        const auto k = static_cast<std::ptrdiff_t>(j);
        const double at = (9.0 * (edge(k) + edge(k + 1)) - edge(k - 1) - edge(k + 2)) / 16.0;
        out.push_back(std::clamp((at - edges[j]) / (edges[j + 1] - edges[j]), 0.25, 0.75));
    }
    return out;
}

Vec3 mirrored(const Vec3& p) {
    return {p.x(), -p.y() + 0.0, p.z()};
}

/// Adds one half, or the whole of a surface that is not mirrored.
void add(Lattice& out, const Aircraft& a, std::size_t index, bool port) {
    const LiftingSurface& s = a.surfaces[index];
    const Layout layout(a, s, port);
    const auto rows = rowEdges(s), edges = stripEdges(s, layout.breaks());
    const auto middles = middlesOf(edges, !hasFreeRoot(s));
    const auto put = [&](const Vec3& p) { return port ? mirrored(p) : p; };
    std::size_t from = 0;
    for (std::size_t b = 0; b + 1 < layout.breaks().size(); ++b) {
        const double until = layout.breaks()[b + 1], middle = 0.5 * (layout.breaks()[b] + until);
        std::size_t to = from;
        while (to + 1 < edges.size() && edges[to] < until - kSame) ++to;
        Patch patch;
        patch.surface = index, patch.port = port;
        patch.rows = static_cast<int>(rows.size()) - 1, patch.strips = static_cast<int>(to - from);
        patch.firstStrip = out.strips.size(), patch.firstPanel = out.panels;
        out.panels += static_cast<std::size_t>(patch.rows) * static_cast<std::size_t>(patch.strips);
        // Ribs from inboard to outboard; on the port half the other way, so that normals point up there as well.
        const auto rib = [&](int j) {
            return edges[port ? to - static_cast<std::size_t>(j) : from + static_cast<std::size_t>(j)];
        };
        for (const double x : rows)
            for (int j = 0; j <= patch.strips; ++j)
                patch.nodes.push_back(put(layout.at(Layout::Line::Mean, rib(j), x, middle)));
        const std::size_t panel = layout.panelAt(middle);
        const Station &t = s.stations[panel], &u = s.stations[panel + 1];
        const Control* control = layout.controlAt(middle);
        for (int j = 0; j < patch.strips; ++j) {
            Strip strip;
            strip.surface = index, strip.port = port;
            const double p = rib(j), q = rib(j + 1);
            strip.along = 0.5 * (p + q);
            strip.width = std::abs(q - p);
            const double share =
                middles[port ? to - 1 - static_cast<std::size_t>(j) : from + static_cast<std::size_t>(j)];
            strip.middle = port ? 1.0 - share : share;
            strip.chord = layout.chord(strip.along);
            strip.quarter = put(layout.quarter(strip.along));
            const Vec3 leading = layout.at(Layout::Line::Mean, strip.along, 0.0, middle);
            strip.chordwise = put(Vec3(layout.quarter(strip.along) - leading)).normalized();
            const Vec3 along = patch.node(0, j + 1) - patch.node(0, j);
            const Vec3 across = Vec3(0.0, along.y(), along.z()).normalized();
            strip.across = port ? Vec3(-across) : across;
            strip.inner = t.section, strip.outer = u.section;
            strip.share = (strip.along - t.along) / (u.along - t.along);
            if (control) strip.control = static_cast<std::size_t>(control - s.controls.data());
            out.strips.push_back(strip);
        }
        out.patches.push_back(std::move(patch));
        from = to;
    }
}
}  // namespace

bool isSymmetric(const Aircraft& a) {
    if (std::any_of(a.propellers.begin(), a.propellers.end(), [](const Propeller& p) {
            return !p.mirrored && (p.centre.y() != 0.0 || p.axis.y() != 0.0 || p.rpm != 0.0);
        }))
        return false;
    return std::all_of(a.surfaces.begin(), a.surfaces.end(), [&](const LiftingSurface& s) {
        if (!s.mirrored) return standsInMirror(s) && !isCambered(a, s);
        return std::none_of(s.controls.begin(), s.controls.end(),
                            [](const Control& c) { return c.against && c.angle_deg != 0.0; });
    });
}

Lattice latticeOf(const Aircraft& a, bool starboardOnly) {
    Lattice out;
    for (std::size_t k = 0; k < a.surfaces.size(); ++k) {
        if (starboardOnly && standsInMirror(a.surfaces[k])) continue;
        if (a.surfaces[k].mirrored && !starboardOnly) add(out, a, k, true);
        add(out, a, k, false);
    }
    return out;
}

}  // namespace cvane::wing
