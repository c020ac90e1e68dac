#pragma once
#include <string>

#include "base/vec3.h"
#include "bench/models.h"
#include "grid/build.h"
#include "shape/import.h"

namespace cvane::bench {

/// A body in its tunnel, with the settings that suit it.
struct Setup {
    shape::Surface surface;
    grid::Tunnel tunnel;
    grid::GridSettings settings;
};

inline const char* const kSetups[] = {"sphere", "cube",  "tilted",    "cylinder", "wing",    "larkspur", "brindle",
                                      "clean",  "dirty", "stretched", "slot",     "slotted", "lowbox",   "strut"};
/// The first so many may be turned any way; the others stand in walls or are about gaps.
constexpr std::size_t kTurnable = std::size(kSetups) - 3;

/// @param demoFolder  where the demo campaigns lie
inline Setup setupOf(const std::string& name, const std::string& demoFolder) {
    Setup s;
    if (name == "sphere") s.surface = sphere(0.5, 200);
    if (name == "cube") s.surface = cube(1.0);
    if (name == "tilted") {
        s.surface = cube(1.0);
        const Mat3 turn = (Eigen::AngleAxisd(0.5, Vec3::UnitX()) * Eigen::AngleAxisd(0.7, Vec3::UnitY()) *
                           Eigen::AngleAxisd(0.3, Vec3::UnitZ()))
                              .toRotationMatrix();
        for (Vec3& p : s.surface.points) p = turn * p;
    }
    if (name == "cylinder") s.surface = cylinder(0.5, 2.0, 180);
    if (name == "wing") {
        s.surface = rectangularHalfWing(0.12, 3.0, 80, 60);
        s.tunnel.halfModel = true;
        s.settings.firstHeight = 2e-3;
        s.settings.wakeLength = 0.0;
    }
    if (name == "larkspur") {
        s.surface = shape::readSurface(demoFolder + "/larkspur.cvane/models/larkspur.stl", 1e-3);
        s.tunnel = {3.0, 6.0, 3.0, 3.0, 5.0, grid::Floor::Moving, -0.004, false};
        s.settings.firstHeight = 2.3e-3;
    }
    if (name == "brindle") {
        s.surface = shape::readSurface(demoFolder + "/models/brindle.stl", 1e-3);
        s.tunnel.halfModel = true;
        s.settings.firstHeight = 1e-3;
        s.settings.curvatureLevels = 1;
    }
    if (name == "stretched") {
        s = setupOf("wing", demoFolder);
        s.settings.stretch = {1.0, 2.0, 1.0};
    }
    if (name == "strut") {
        // An upright strut through the tunnel's floor and roof.
        s.surface = cylinder(0.15, 3.0, 120);
        for (Vec3& p : s.surface.points) p = Vec3(p.y(), -p.z(), -p.x());
        shape::orientFacets(s.surface);
        s.tunnel.above = s.tunnel.below = -0.2;
        s.settings.wakeLength = 0.2;
    }
    if (name == "slot") {
        // Two balls with a gap of a fortieth of their radius between them.
        s.surface = sphere(0.5, 100);
        const auto count = static_cast<std::int32_t>(s.surface.points.size());
        const std::size_t facets = s.surface.facets.size();
        for (std::int32_t i = 0; i < count; ++i)
            s.surface.points.push_back(s.surface.points[static_cast<std::size_t>(i)] + Vec3(0.3, 0.968, 0.0));
        for (std::size_t f = 0; f < facets; ++f) {
            shape::Facet t = s.surface.facets[f];
            for (auto& p : t) p += count;
            s.surface.facets.push_back(t);
            s.surface.partOf.push_back(0);
        }
        s.settings.gapLevels = 2;
    }
    if (name == "slotted") s.surface = slottedPlate();
    if (name == "lowbox") {
        s.surface = plainBox();
        s.tunnel = {3.0, 6.0, 3.0, 3.0, 3.0, grid::Floor::Moving, 0.02, false};
    }
    if (name == "dirty") s.surface = shape::readSurface(demoFolder + "/models/shrike-dirty.stl", 1e-3);
    if (name == "clean") s.surface = shape::readSurface(demoFolder + "/models/shrike.stl", 1e-3);
    return s;
}

}  // namespace cvane::bench
