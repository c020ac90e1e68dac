#pragma once
#include <cmath>

#include "bench/models.h"
#include "flow/solver.h"
#include "grid/build.h"

namespace cvane::test {

/// A ball of unit diameter in free air at unit speed, Reynolds number 100, on a fitted grid with three wall layers.
struct Ball {
    grid::Grid grid;
    grid::Geometry geometry;
    flow::Case c;
    Ball(flow::Model model, int cells) {
        grid::GridSettings s;
        s.cellBudget = cells;
        s.layers = 3;
        s.curvatureLevels = 0;
        s.wakeLength = 0.0;
        c.tunnel = {5, 8, 5, 5, 5, grid::Floor::None, 0, false};
        grid = grid::build(bench::sphere(0.5, 60), c.tunnel, s, {});
        geometry = grid::geometryOf(grid);
        c.wind.speed = 1.0;
        c.wind.air.viscosity = c.wind.air.density * 0.01;
        c.reference = {std::acos(-1.0) / 4.0, 1.0, 1.0, Vec3::Zero()};
        c.settings.model = model;
    }
};

}  // namespace cvane::test
