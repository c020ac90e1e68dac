#include "wing/source.h"

#include "wing/aircraft_json.h"
#include "wing/skin.h"

namespace cvane::wing {

std::string AircraftFile::sum() const {
    auto j = toJson(readAircraft(file_));
    j["skin"] = kSkinVersion;
    // Neither names of the whole nor masses shape it.
    for (const char* name : {"name", "mass_kg", "centre_of_gravity_m"}) j.erase(name);
    return shape::sumOf(j);
}

shape::Surface AircraftFile::surface() const {
    return skinOf(readAircraft(file_));
}

}  // namespace cvane::wing
