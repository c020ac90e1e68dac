#include "panels/suitable.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "panels/mirrored.h"
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
