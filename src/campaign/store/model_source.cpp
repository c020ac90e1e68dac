#include "campaign/store/model_source.h"

#include "base/errors.h"
#include "base/units.h"
#include "solid/solid_file.h"
#include "vehicle/outline_json.h"
#include "wing/source.h"

namespace cvane::campaign {

std::unique_ptr<const shape::Source> sourceOf(const Campaign& c) {
    const ModelSettings& m = c.settings.model;
    if (m.aircraft) return std::make_unique<wing::AircraftSource>(*m.aircraft);
    if (m.outline) return std::make_unique<vehicle::OutlineSource>(*m.outline);
    if (solid::isSolidFile(m.file)) return std::make_unique<solid::SolidSource>(c.modelFile(), m.facetTolerance);
    return std::make_unique<shape::SurfaceFile>(c.modelFile(), base::unitNamed(base::lengthUnits(), m.unit).inSI);
}

std::string modelSum(const Campaign& c) {
    try {
        return sourceOf(c)->sum();
    } catch (const base::InputError&) {
        return "gone";
    }
}

}  // namespace cvane::campaign
