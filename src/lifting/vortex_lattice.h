#pragma once
#include <functional>
#include <memory>
#include <optional>

#include "air/free_stream.h"
#include "lifting/influence.h"
#include "wing/lattice.h"

namespace cvane::lifting {

class RingEquations;

/// What a lattice is solved for, beside its wind.
struct Surroundings {
    Vec3 wake = Vec3::UnitX();     ///< unit vector along which wakes leave
    double mach = 0.0;             ///< Prandtl and Glauert, below 1
    std::optional<double> ground;  ///< z [m] of a plane through which nothing flows
    bool symmetric = false;        ///< the lattice is a starboard half of a flow that is its own mirror image
    /// Ways of the wakes from the trailing edge on, where they are not straight [m]: one for each place that
    /// VortexLattice::wakeOf() has, in its order, as long as each other; behind their ends they run along `wake`.
    std::vector<std::vector<Vec3>> wakePaths = {};
};

/// The wind and the motion of an aircraft.
struct Attitude {
    air::FreeStream wind;
    Vec3 rates = Vec3::Zero();   ///< roll (starboard wing down), pitch (nose up), yaw (nose to starboard) [rad/s]
    Vec3 centre = Vec3::Zero();  ///< about which it turns [m]
    std::function<Vec3(const Vec3&)> beside =
        {};  ///< velocity of the air at a place beside both [m/s], as of slipstreams
};

/// What a strip carries; of the potential flow.
struct StripLoad {
    Vec3 force = Vec3::Zero();   ///< [N]
    Vec3 moment = Vec3::Zero();  ///< about its quarter point [N m]
    double circulation = 0.0;    ///< of its wake [m2/s]
    double cl = 0.0;             ///< across wind and strip, on its own chord
    double downwash = 0.0;       ///< at its bound vortices, to its lower side [m/s]
};

/// A solution, of the whole aircraft: of a symmetric one both halves are in it, but for strips and panels.
struct Loads {
    Vec3 force = Vec3::Zero(), moment = Vec3::Zero();  ///< [N], [N m] about the reference's moment centre
    air::Coefficients coefficients;                    ///< by Kutta and Joukowski at the vortices; CD: induced drag
    double inducedFar = 0.0;  ///< CD from the energy that the wake carries through the Trefftz plane
    double liftFar = 0.0;     ///< CL from the same plane
    double efficiency = 0.0;  ///< CL^2 / (pi A CD) with lift and drag from there
    std::vector<StripLoad> strips;
    std::vector<double> deltaCp;   ///< of each panel, lower less upper side
    std::vector<Vec3> panelForce;  ///< [N]
};

/// Vortex rings on a lattice's panels, their front on the panels' quarter lines, with nothing flowing through the
/// panels' three-quarter points; wakes leave straight. All flows of one set of surroundings are sums of those of six
/// motions of unit strength, which are solved for once. Source: Katz and Plotkin, ch. 12 and 13; for induced drag far
/// behind sect. 8.2.
class VortexLattice {
  public:
    /// Throws InputError: Mach number from 1 on, panels that lie in one point.
    VortexLattice(wing::Lattice lattice, const Surroundings& surroundings);
    ~VortexLattice();
    Loads at(const Attitude& attitude, const air::Reference& reference) const;
    /// Of the same, with what flows through the strips' panels beside the surface [m/s], up through it: how a section's
    /// own lift is brought about.
    Loads at(const Attitude& attitude, const air::Reference& reference, const std::vector<double>& throughStrip) const;
    const wing::Lattice& lattice() const { return lattice_; }
    /// Ends of the wake's filaments on the surfaces, and the circulation that leaves along each.
    std::vector<std::pair<Vec3, double>> wakeOf(const Loads& loads) const;
    /// Ways of its wakes; empty: they are straight.
    const std::vector<std::vector<Vec3>>& wakePaths() const { return around_.wakePaths; }
    /// Ways of the wakes as the flow about this lattice carries them, from the trailing edge on.
    /// @param length  of each [m];  @param pieces  that it has
    std::vector<std::vector<Vec3>> carriedWakes(const Attitude& attitude, double length, int pieces) const;
    std::size_t unknowns() const { return control_.size(); }

  private:
    void layRings();
    void solveMotions();
    /// At a place of the surface, without what the rings make [m/s].
    static Vec3 onset(const Attitude& attitude, const Eigen::Matrix<double, 6, 1>& motion, const Vec3& place);
    Eigen::VectorXd velocityThrough(const Eigen::Matrix<double, 6, 1>& motion) const;
    Loads loadsOf(const Eigen::Matrix<double, 6, 1>& motion, const Eigen::VectorXd& circulation,
                  const Eigen::VectorXd& induced, const Attitude& attitude, const air::Reference& reference) const;
    void addFar(Loads& loads, const Eigen::VectorXd& circulation, const Attitude& attitude,
                const air::Reference& reference) const;

    wing::Lattice lattice_;
    Surroundings around_;
    std::vector<Vec3> control_, normal_;  ///< of panels
    std::vector<double> area_;            ///< of panels [m2]
    std::vector<std::size_t> strip_;      ///< of panels
    std::unique_ptr<VortexField> field_;
    std::vector<Vec3> trailing_;  ///< where wakes leave, ray by ray [m]
    std::vector<Vec3> middle_;    ///< of the filaments on the surface, which stand before the wake's [m]
    std::unique_ptr<const RingEquations> equations_;
    Eigen::MatrixXd circulation_;  ///< of the rings, a column a motion
    Eigen::MatrixXd induced_;      ///< at the bound filaments' middles, three rows each, a column a motion
};

}  // namespace cvane::lifting
