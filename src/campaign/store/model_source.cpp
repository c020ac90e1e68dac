#include "campaign/store/model_source.h"

#include "base/units.h"
#include "wing/source.h"

namespace cvane::campaign {

bool isAircraftFile(const std::filesystem::path& file) {
    return file.extension() == ".json";
}

std::unique_ptr<const shape::Source> sourceFrom(const std::filesystem::path& file, double unit) {
    if (isAircraftFile(file)) return std::make_unique<wing::AircraftFile>(file);
    return std::make_unique<shape::SurfaceFile>(file, unit);
}

std::unique_ptr<const shape::Source> sourceOf(const Campaign& c) {
    return sourceFrom(c.modelFile(), base::unitNamed(base::lengthUnits(), c.settings.model.unit).inSI);
}

}  // namespace cvane::campaign
