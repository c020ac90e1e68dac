#include "wing/source.h"

#include "wing/aircraft_json.h"
#include "wing/skin.h"

namespace cvane::wing {
namespace {
// Raised whenever the same numbers give another surface: of one part, and of several that may run into each other.
constexpr int kSkinVersion = 1, kJoinedVersion = 2;
}  // namespace

std::string AircraftSource::sum() const {
    auto j = toJson(aircraft_);
    j["skin"] = aircraft_.surfaces.size() + aircraft_.bodies.size() > 1 ? kJoinedVersion : kSkinVersion;
    for (const char* name : {"name", "mass_kg", "centre_of_gravity_m", "propellers"}) j.erase(name);
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
