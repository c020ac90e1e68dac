#include "panels/suitable.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "shape/clip.h"
#include "shape/edges.h"
#include "shape/health.h"
#include "shape/seams.h"
#include "shape/unite.h"

namespace cvane::panels {
namespace {
constexpr double kSeam = 1e-6;   // of the model's size: points of open edges that are one
constexpr double kWidest = 0.1;  // and holes that are closed

std::string placeOf(const Vec3& p) {
    return fmt::format("({:.4g}, {:.4g}, {:.4g}) m", p.x(), p.y(), p.z());
}

// With the mirror image of what lies at y >= 0.
shape::Surface wholeOf(const shape::Surface& model) {
    auto half = shape::beyondPlane(model, 1, 0.0);
    const double near = 1e-9 * model.bounds().size().norm();
    for (auto& p : half.points)
        if (std::abs(p.y()) < near) p.y() = 0.0;
    shape::Surface s = half;
    const auto first = static_cast<std::int32_t>(s.points.size());
    for (const auto& p : half.points) s.points.emplace_back(p.x(), -p.y(), p.z());
    for (std::size_t f = 0; f < half.facets.size(); ++f) {
        const auto& t = half.facets[f];
        s.facets.push_back({t[0] + first, t[2] + first, t[1] + first});
        s.partOf.push_back(half.partOf[f]);
    }
    // What lay in the plane lies there twice now.
    std::vector<shape::Facet> facets;
    std::vector<std::int32_t> partOf;
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        bool inPlane = true;
        for (int k = 0; k < 3; ++k) inPlane = inPlane && s.corner(f, k).y() == 0.0;
        if (inPlane) continue;
        facets.push_back(s.facets[f]);
        partOf.push_back(s.partOf[f]);
    }
    s.facets = std::move(facets);
    s.partOf = std::move(partOf);
    for (auto& p : s.points) p.y() += 0.0;
    shape::weld(s);
    return s;
}
}  // namespace

Suitable suitableFor(const shape::Surface& model, bool halfModel) {
    Suitable out;
    auto s = shape::withoutHiddenParts(model);
    if (s.facets.empty())
        throw base::InputError("no part of it is in the air.", "model", "Take a part back into the air.");
    shape::weld(s);
    if (halfModel) s = wholeOf(s);
    const double size = s.bounds().size().norm();
    s = shape::joinedWithin(s, kSeam * size).surface;
    shape::orientFacets(s);
    const auto holes = shape::closeHoles(s, kSeam * size, kWidest * size, false);
    if (!holes.empty())
        out.remarks.push_back(fmt::format("{} closed, the widest {:.3g} m at {}.",
                                          holes.size() == 1 ? "A hole was" : fmt::format("{} holes were", holes.size()),
                                          holes.front().width, placeOf(holes.front().place)));
    s = shape::joinedWithin(s, kSeam * size).surface;
    shape::orientFacets(s);
    const auto health = shape::checkHealth(s);
    if (health.openEdges.count > 0)
        throw base::InputError(
            fmt::format("the surface is open along {} edges, first at {}, and panels need a closed one.",
                        health.openEdges.count, placeOf(health.openEdges.places.front())),
            "model", "Close it, give a sheet a thickness, or run it in the field, which seals what is narrow.");
    if (health.nonManifoldEdges.count > 0 && health.overlaps.count == 0)
        throw base::InputError(
            fmt::format("three facets or more meet in an edge at {}.", placeOf(health.nonManifoldEdges.places.front())),
            "model", "Take the inner wall out, or run it in the field.");
    auto pieces = s;
    shape::splitByConnection(pieces);
    if (pieces.parts.size() > 1 || health.overlaps.count > 0) {
        auto one = shape::united(pieces);
        if (!one)
            throw base::InputError(
                fmt::format("its parts run through each other{} and no closed skin comes of cutting them.",
                            health.overlaps.count > 0 ? " at " + placeOf(health.overlaps.places.front()) : ""),
                "model", "Join them into one body, or run it in the field.");
        if (health.overlaps.count > 0)
            out.remarks.push_back(
                fmt::format("Parts that run through each other were cut along {} crossings.", health.overlaps.count));
        // Each piece is of the part that it was of.
        std::vector<std::int32_t> partOfPiece(pieces.parts.size(), 0);
        for (std::size_t f = 0; f < pieces.facets.size(); ++f)
            partOfPiece[static_cast<std::size_t>(pieces.partOf[f])] = s.partOf[f];
        for (auto& p : one->partOf) p = partOfPiece[static_cast<std::size_t>(p)];
        one->parts = s.parts;
        s = std::move(*one);
        shape::weld(s);
    }
    if (s.volume() < 1e-9 * std::pow(size, 3))
        throw base::InputError("it encloses no air to speak of: a sheet without thickness.", "model",
                               "Give it a thickness.");
    out.surface = std::move(s);
    return out;
}

}  // namespace cvane::panels
