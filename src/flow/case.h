#pragma once
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "air/free_stream.h"
#include "flow/devices.h"
#include "flow/settings.h"
#include "grid/grid.h"
#include "grid/tunnel.h"

namespace cvane::flow {

class Boundary;

/// What is to be computed, as plain data: which air blows through which tunnel on what reference, and how it is solved.
/// Its form in files is in flow/case_json.h.
struct Case {
    air::FreeStream wind;
    grid::Tunnel tunnel;
    air::Reference reference;
    FlowSettings settings;
    /// Where the boundary layer of a ground begins: ahead of it the air slips along [m, x in the model frame]. None: at
    /// the inlet.
    std::optional<double> groundLayerFrom;
    std::vector<MovingPart> moving;
    std::vector<RoughPart> rough;
    std::vector<Disc> discs;
    std::vector<PorousBlock> blocks;
    /// Of plane flow about a section: the wind on the far side is that of a vortex there too, whose circulation is that
    /// of the lift (Solver::setCirculation); without it a far side 15 chords away takes some per cent of the lift.
    std::optional<Vec3> vortexAt;
    /// The air has density and temperature of its own in every cell: an ideal gas.
    bool compressible = false;
    /// For verification, in no file: velocity on every boundary face in place of walls, wind and outlets, and a force
    /// per mass on the air [m/s2], both as functions of the place.
    std::function<Vec3(const Vec3&)> givenVelocity, givenForce;
    /// For kinds of boundary that are being tried, in no file: what a patch is in place of what rolesFor makes of it;
    /// null: no other.
    std::function<std::shared_ptr<const Boundary>(const grid::Patch&)> givenBoundary;
};

}  // namespace cvane::flow
