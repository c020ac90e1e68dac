#include "wing/source.h"

#include "wing/aircraft_json.h"
#include "wing/skin.h"

namespace cvane::wing {
namespace {
constexpr int kSkinVersion = 1;  // raised whenever the same numbers give another surface
}

std::string AircraftSource::sum() const {
    auto j = toJson(aircraft_);
    j["skin"] = kSkinVersion;
    for (const char* name : {"name", "mass_kg", "centre_of_gravity_m"}) j.erase(name);
    for (auto& s : j["surfaces"]) {
        s.erase("rows");
        s.erase("row_spacing");
        for (auto& t : s["stations"]) {
            t.erase("strips");
            t.erase("spacing");
        }
    }
    return shape::sumOf(j);
}

shape::Surface AircraftSource::surface() const {
    return skinOf(aircraft_);
}

}  // namespace cvane::wing
