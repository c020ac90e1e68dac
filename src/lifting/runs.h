#pragma once
#include "lifting/section_drag.h"
#include "lifting/vortex_lattice.h"

namespace cvane::lifting {

inline constexpr double kGravity = 9.80665;  ///< [m/s2]

/// How wakes leave.
enum class Wake {
    Axis,  ///< straight along the body's axis
    Wind,  ///< straight with the wind of each angle
    Flow   ///< as the flow of each angle carries them for two spans, with the wind from there on
};

/// What is asked of an aircraft.
struct Asked {
    std::vector<double> alphas;  ///< [rad]
    double beta = 0.0;           ///< [rad]
    double speed = 20.0;         ///< [m/s]; of a held lift it follows
    air::Air air;
    std::optional<double> holdMass;  ///< in level flight: the speed at which the lift carries it [kg]
    std::string trimBy;              ///< name of the control, or of the surface, that turns until Cm is 0; empty: none
    std::optional<double> height;  ///< of the moment centre over the ground [m]; the model is pitched, the wind is not
    Wake wake = Wake::Axis;
    bool compressible = false;  ///< Prandtl and Glauert at the wind's Mach number
    Transition transition;
    bool sectionDrag = true;  ///< profile drag of strips from the sections' polars
    bool holdStrips = false;  ///< strips' lift held to their sections', stall included
    bool derivatives = true;
    bool operator==(const Asked&) const = default;
};

struct StripRow {
    wing::Strip strip;
    StripLoad load;
    double reynolds = 0.0, cd = 0.0;  ///< on its own chord
    bool stalled = false;
};

/// One angle.
struct Row {
    air::FreeStream wind;
    bool reached = true;  ///< a held lift or a trim was; `why` says why not
    std::string why;
    air::Coefficients coefficients;                             ///< CD: induced drag and profile drag
    double inducedNear = 0.0, inducedFar = 0.0, profile = 0.0;  ///< parts of CD; the first two are two measures of one
    double liftNear = 0.0, liftFar = 0.0;                       ///< CL of the surfaces, by the same two measures
    double efficiency = 0.0;
    double trimAngle_deg = 0.0;
    std::vector<StripRow> strips;
    std::vector<std::vector<Vec3>> wakes;  ///< ways of wakes that follow the flow, of the lattice's halves [m]
    std::vector<double> deltaCp;           ///< of panels
    std::map<std::string, double> hinge;   ///< moments of controls about their hinge lines, trailing edge down [N m]
    std::map<std::string, Vec3> surfaceForce;  ///< of the potential flow [N]
    double stalledShare = 0.0;                 ///< of the area
    double liftOverDrag() const { return coefficients.CL / coefficients.CD; }
};

/// Slopes about one attitude, about the moment centre; per rad, rates as p b / 2V, q c / 2V, r b / 2V.
struct Derivatives {
    air::Coefficients alpha, beta, roll, pitch, yaw;
    Vec3 neutralPoint = Vec3::Zero();  ///< on the level of the moment centre [m]
    double staticMargin = 0.0;         ///< from the moment centre aft to the neutral point [mean chords]
    std::map<std::string, air::Coefficients> controls;  ///< per rad of each control's angle
};

struct Outcome {
    air::Reference reference;
    wing::Lattice lattice;  ///< of the last angle
    std::vector<Row> rows;
    std::optional<Derivatives> derivatives;  ///< about the first angle
    /// Greatest lift, where strips are held to their sections' and it lies inside of the row.
    std::optional<double> greatestLift;
    std::vector<std::string> remarks;  ///< what the numbers leave out
};

/// Angle at which a lift is reached, between the row's own [rad]; nothing: it lies beyond them.
std::optional<double> angleOfLift(const std::vector<Row>& rows, double CL);

/// The aircraft with a control, or a surface's incidence, at an angle. @param name  empty: as it is
/// Throws InputError: there is none of that name.
wing::Aircraft turnedTo(wing::Aircraft aircraft, const std::string& name, double angle_deg);

/// Runs a row of angles. @param aircraft  must outlive the call
/// Throws InputError: angles beyond 30 degrees, speed not above 0, no mass to hold, a control that is not there, a
/// height that puts the aircraft into the ground; Cancelled.
/// @param shelf  of polars that are known, which takes those that are computed; none: an own one
Outcome run(const wing::Aircraft& aircraft, const Asked& asked, const base::Progress& progress = {},
            std::shared_ptr<PolarShelf> shelf = nullptr);

}  // namespace cvane::lifting
