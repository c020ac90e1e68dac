#include "campaign/steps/model_stage.h"

#include <algorithm>

#include "campaign/store/model_source.h"
#include "shape/clip.h"
#include "shape/mirror.h"
#include "shape/projected_area.h"
#include "wing/measures.h"

namespace cvane::campaign {

shape::Surface placedModel(const Campaign& c) {
    return placedModel(sourceOf(c)->surface(), c.settings.model);
}

shape::Surface placedModel(const shape::Surface& imported, const ModelSettings& m) {
    shape::Surface s = shape::placed(imported, m.placement);
    for (std::size_t i = 0; i < std::min(s.parts.size(), m.parts.size()); ++i) s.parts[i] = m.parts[i];
    return s;
}

shape::Surface modelForGrid(const Campaign& c) {
    shape::Surface s = placedModel(c);
    for (auto& p : s.parts) p = {p.id(), p.inTheAir, {}};
    return s;
}

namespace {
double hiddenBelowOf(const shape::Surface& inTheAir, const shape::Surface& placed) {
    return std::max(0.0, inTheAir.bounds().low.z() - placed.bounds().low.z());
}
}  // namespace

// Of the model's size: facets of two halves need not be each other's image.
constexpr double kMirrorTolerance = 1e-3;

ModelMeasures measure(const shape::Surface& placed, bool half) {
    const shape::Surface all = shape::withoutHiddenParts(placed);
    // Of a whole surface that is run as a half model only the starboard half is in the tunnel.
    const shape::Surface s = half ? shape::beyondPlane(all, 1, 0.0) : all;
    const double twice = half ? 2.0 : 1.0;
    const double small = kMirrorTolerance * all.bounds().size().norm();
    const bool another = half && all.bounds().low.y() < -small && !shape::isMirrorImage(all, small);
    return {all.bounds(),
            twice * shape::projectedArea(s, 0),
            shape::projectedArea(s, 1),
            twice * shape::projectedArea(s, 2),
            hiddenBelowOf(all, placed),
            another};
}

ModelMeasures measure(const Campaign& c, const shape::Surface& placed) {
    auto m = measure(placed, c.settings.tunnel.halfModel);
    if (c.settings.model.aircraft) m.wing = wing::referenceOf(*c.settings.model.aircraft);
    return m;
}

namespace {
grid::Tunnel raised(const Settings& s, double hiddenBelow) {
    grid::Tunnel t = s.tunnel;
    t.rideHeight = s.model.rideHeight.value_or(t.rideHeight) + hiddenBelow;
    return t;
}
}  // namespace

grid::Tunnel tunnelFor(const Settings& s, const ModelMeasures& m) {
    return raised(s, m.hiddenBelow);
}

grid::Tunnel tunnelFor(const Settings& s, const shape::Surface& placed) {
    return raised(s, hiddenBelowOf(shape::withoutHiddenParts(placed), placed));
}

air::Reference resolveReference(const ReferenceSettings& r, const ModelMeasures& m, bool half) {
    air::Reference out;
    switch (r.areaFrom) {
        case AreaFrom::Frontal:
            out.area = m.frontal;
            break;
        case AreaFrom::Side:
            out.area = m.side;
            break;
        case AreaFrom::Planform:
            out.area = m.planform;
            break;
        case AreaFrom::Typed:
            out.area = r.typedArea;
            break;
        case AreaFrom::Wing:
            out.area = m.wing ? m.wing->area : m.planform;
            break;
    }
    const Vec3 size = m.bounds.size();
    out.length = r.length.value_or(size.x());
    out.span = r.span.value_or(half ? 2.0 * m.bounds.high.y() : size.y());
    Vec3 middle = m.bounds.centre();
    if (half) middle.y() = 0.0;
    if (r.areaFrom == AreaFrom::Wing && m.wing) {
        out.length = r.length.value_or(m.wing->length);
        out.span = r.span.value_or(m.wing->span);
        middle = m.wing->momentCentre;
    }
    out.momentCentre = r.momentCentre.value_or(middle);
    return out;
}

air::Reference ownReference(const ModelMeasures& m, bool half) {
    constexpr double kWing = 4.0;  // planform over frontal area
    const double span = half ? 2.0 * m.bounds.high.y() : m.bounds.size().y();
    ReferenceSettings own;
    own.areaFrom =
        m.planform > kWing * m.frontal && span > m.bounds.size().x() ? AreaFrom::Planform : AreaFrom::Frontal;
    return resolveReference(own, m, half);
}

}  // namespace cvane::campaign
