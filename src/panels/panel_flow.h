#pragma once
#include "panels/wakes.h"

namespace cvane::panels {

/// What the flow past panels is asked for.
struct Around {
    Mirrors mirrors;
    bool wakes = true;          ///< from sharp edges that the flow leaves
    double wakeTurn = 1.05;     ///< [rad]: of those at which the surface turns by more
    std::vector<Vec3> without;  ///< places within 2 % of the model's size of which edges shed none [m]
    bool compressible = false;  ///< pressures by von Karman and Tsien at the wind's Mach number
};

/// A settled potential flow; its loads are those of pressure.
struct PanelFlow : PanelLoads {
    std::vector<double> potential;  ///< that of the disturbance, per panel [m2/s]
    std::vector<double> source;     ///< per panel [m/s]
    std::vector<Vec3> velocity;     ///< along the surface, per panel [m/s]
    std::vector<double> cp;
    std::vector<WakeEdge> edges;
    std::vector<double> jump;          ///< of the potential at each of them [m2/s]
    std::vector<std::size_t> crossed;  ///< panels at which a wake of before runs through the surface
    Vec3 wakeDirection = Vec3::UnitX();
    double inducedDrag = 0.0;      ///< from the plane far behind, the whole model's [N]
    Vec3 farForce = Vec3::Zero();  ///< across the wakes, from there [N]
    int iterations = 0;
    double residual = 0.0;
};

/// Potential flow past a closed surface: sources that take the wind off the panels and doublets of the unknown
/// potential, with none of it inside. Drag is that of pressure, which of closed bodies without wakes is 0 but for the
/// panels.
/// @param centre  of moments [m]
/// Throws InputError: no panels, wind through a mirror plane, a Mach number from 1 on; Cancelled.
/// Source: L. Morino and C.-C. Kuo, AIAA J. 12(2), 1974; J. L. Hess and A. M. O. Smith, Prog. Aeronaut. Sci. 8, 1967.
PanelFlow flowPast(const Panels& panels, const air::FreeStream& wind, const Vec3& centre, const Around& around,
                   const base::Progress& progress = {});

/// Velocity at places off the surface [m/s]; within the body it is close to nothing.
std::vector<Vec3> velocitiesOff(const Panels& panels, const PanelFlow& flow, const air::FreeStream& wind,
                                const Mirrors& mirrors, const std::vector<Vec3>& places);

}  // namespace cvane::panels
