#include "campaign/store/model_source.h"

#include "base/units.h"

namespace cvane::campaign {

std::unique_ptr<const shape::Source> sourceOf(const Campaign& c) {
    return std::make_unique<shape::SurfaceFile>(c.modelFile(),
                                                base::unitNamed(base::lengthUnits(), c.settings.model.unit).inSI);
}

}  // namespace cvane::campaign
