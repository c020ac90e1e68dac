#pragma once
#include <string>
#include <vector>

#include "flow/piece.h"

namespace cvane::flow {

/// A propeller or fan as a disc that pushes the air; the thrust is spread evenly over its ring.
struct Disc {
    std::string name;
    Vec3 centre = Vec3::Zero();       ///< [m]
    Vec3 axis = Vec3::UnitX();        ///< the way in which the air is pushed; any length
    double inner = 0.0, outer = 0.1;  ///< radii [m]
    double thrust = 0.0;              ///< [N]; negative: the air is braked
    double power = 0.0;               ///< [W], used when there is no thrust: the thrust follows from the inflow
    double rpm =
        0.0;  ///< above or below 0: the slipstream turns with the torque power / speed, right-handed about the axis
    bool operator==(const Disc&) const = default;
};

/// A box with a core that resists the air: pressure drop over a length L along the flow
/// dp = L (viscosity linear U + density quadratic U^2 / 2).
struct PorousBlock {
    std::string name;
    Vec3 from = Vec3::Zero(), to = Vec3::Constant(0.1);  ///< corners [m]
    int axis = 0;                                        ///< 0, 1, 2: the way through, x, y or z
    double linear = 0.0;                                 ///< [1/m2]
    double quadratic = 100.0;                            ///< [1/m]
    double across = 10.0;                                ///< resistance across the way through over that along it
    bool operator==(const PorousBlock&) const = default;
};

/// What a disc does to the air.
struct DiscReading {
    std::string name;
    double thrust = 0;       ///< [N]
    double inflow = 0;       ///< mean of the axial velocity in the disc [m/s]
    double power = 0;        ///< thrust times that, [W]
    double theoryPower = 0;  ///< momentum theory at the free stream's axial speed: T = 2 rho A (V + v) v, P = T (V + v)
    double torque = 0;       ///< [N m]
};
/// What a block does to the air.
struct PorousReading {
    std::string name;
    double massFlow = 0;      ///< along the axis [kg/s]
    double pressureDrop = 0;  ///< resisting force along the axis over the section [Pa]
};

/// Power of an ideal disc by momentum theory [W]. @param V  axial speed far ahead [m/s]; T [N], A [m2], rho [kg/m3]
double idealDiscPower(double T, double V, double A, double rho);

/// Body forces of discs and porous blocks on the cells of a piece.
class Devices {
  public:
    /// Collective. Throws InputError: a radius, corner or axis that makes no body; a body that holds no cell of the
    /// grid.
    /// @param halfModel  mirrored at y = 0: of a disc or block that reaches through that plane the half is here, with
    /// half of its thrust, and readings are those of the whole; one beside the plane stands there twice, and readings
    /// are of the one here. A disc whose slipstream turns may not reach through it.
    Devices(const Piece& piece, const std::vector<Disc>& discs, const std::vector<PorousBlock>& blocks, double density,
            double nu, bool halfModel, const Ranks& ranks);

    /// Collective. Finds the forces for the velocities as they are.
    void update(const std::vector<Vec3>& U);
    /// Calls add(cell, force, resistance) with kinematic forces of the discs [m4/s2] and, per axis, force over velocity
    /// of the blocks [m3/s]. Local.
    template <class Add>
    void forEachCell(Add&& add) const {
        for (const auto& d : discs_)
            for (const auto& c : d.cells) add(c.cell, c.force, Vec3(Vec3::Zero()));
        for (const auto& b : blocks_)
            for (const auto& c : b.cells) add(c.cell, Vec3(Vec3::Zero()), c.resistance);
    }
    /// Collective. @param wind  free stream [m/s]
    std::vector<DiscReading> readDiscs(const std::vector<Vec3>& U, const Vec3& wind) const;
    std::vector<PorousReading> readBlocks(const std::vector<Vec3>& U) const;

  private:
    struct DiscCell {
        std::size_t cell;
        double volume;  ///< share of the body, [m3]
        Vec3 around;    ///< unit vector of the slipstream's turning
        double radius;
        Vec3 force;  ///< kinematic, of the whole cell [m4/s2]
    };
    struct DiscBody {
        Disc disc;
        double volume, turning;  ///< of all cells; sum of volume times radius
        double here;             ///< share of the disc that is not beyond the mirror plane
        std::vector<DiscCell> cells;
        double thrust, torque;
    };
    struct BlockCell {
        std::size_t cell;
        double volume;
        Vec3 resistance;  ///< kinematic force over velocity, per axis [m3/s]
    };
    struct BlockBody {
        PorousBlock block;
        double volume;
        double here;  ///< share of the block that is not beyond the mirror plane
        std::vector<BlockCell> cells;
    };
    /// Collective: mean of the axial velocity in a disc [m/s].
    double inflowOf(const DiscBody& disc, const std::vector<Vec3>& U) const;
    const Ranks& ranks_;
    double density_, nu_;
    std::vector<DiscBody> discs_;
    std::vector<BlockBody> blocks_;
};

}  // namespace cvane::flow
