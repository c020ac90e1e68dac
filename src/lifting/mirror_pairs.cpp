#include "lifting/mirror_pairs.h"

#include <algorithm>
#include <cmath>

namespace cvane::lifting {
namespace {
bool isImage(const wing::Patch& a, const wing::Patch& b) {
    if (a.rows != b.rows || a.strips != b.strips) return false;
    const double small = 1e-12 * (a.node(0, 0) - a.node(a.rows, a.strips)).norm();
    for (int i = 0; i <= a.rows; ++i)
        for (int j = 0; j <= a.strips; ++j) {
            const Vec3 &p = a.node(i, j), &q = b.node(i, a.strips - j);
            if ((Vec3(p.x(), -p.y(), p.z()) - q).norm() > small) return false;
        }
    return true;
}
bool liesInPlane(const wing::Patch& p) {
    const double small = 1e-12 * (p.node(0, 0) - p.node(p.rows, p.strips)).norm();
    return std::all_of(p.nodes.begin(), p.nodes.end(), [&](const Vec3& n) { return std::abs(n.y()) <= small; });
}
// A row of bound filaments: across and along the wind by turns, ending with one along it.
std::size_t filamentsOfRow(const wing::Patch& p) {
    return 2 * static_cast<std::size_t>(p.strips) + 1;
}
}  // namespace

std::optional<MirrorPairs> mirrorPairs(const wing::Lattice& lattice) {
    MirrorPairs out;
    std::vector<std::size_t> first;
    for (const auto& p : lattice.patches) {
        first.push_back(out.filament.size());
        for (std::size_t k = 0; k < static_cast<std::size_t>(p.rows) * filamentsOfRow(p); ++k)
            out.filament.push_back(first.back() + k);
    }
    for (std::size_t a = 0; a < lattice.patches.size(); ++a) {
        const auto& p = lattice.patches[a];
        if (!p.port)
            for (std::size_t k = 0; k < static_cast<std::size_t>(p.rows) * filamentsOfRow(p); ++k)
                out.own.push_back(first[a] + k);
        if (liesInPlane(p)) {
            for (int i = 0; i < p.rows; ++i)
                for (int j = 0; j < p.strips; ++j) out.middle.push_back(p.panel(i, j));
            continue;
        }
        const auto image = std::find_if(lattice.patches.begin(), lattice.patches.end(), [&](const wing::Patch& q) {
            return q.port != p.port && q.surface == p.surface && isImage(p, q);
        });
        if (image == lattice.patches.end()) return std::nullopt;
        const std::size_t b = static_cast<std::size_t>(image - lattice.patches.begin());
        // From inboard to outboard here is from outboard to inboard there.
        for (std::size_t i = 0; i < static_cast<std::size_t>(p.rows); ++i)
            for (std::size_t k = 0; k < filamentsOfRow(p); ++k)
                out.filament[first[a] + i * filamentsOfRow(p) + k] = first[b] + (i + 1) * filamentsOfRow(p) - 1 - k;
        if (p.port) continue;
        for (int i = 0; i < p.rows; ++i)
            for (int j = 0; j < p.strips; ++j) {
                out.starboard.push_back(p.panel(i, j));
                out.port.push_back(image->panel(i, p.strips - 1 - j));
            }
    }
    return out;
}

}  // namespace cvane::lifting
