#pragma once
#include <Eigen/Dense>
#include <vector>

#include "section/layer/march.h"
#include "section/potential/panel_flow.h"

namespace cvane::section {

/// The wind on a section and how its layers turn turbulent.
struct SectionCase {
    LayerAir air;
    double nCritical = 9.0;
    double tripUpper = 1.0, tripLower = 1.0;  ///< x/c where a layer is tripped; 1: not
    bool viscous = true;
    bool operator==(const SectionCase&) const = default;
};

/// n at which transition is felt at a turbulence intensity (rms over speed): -8.43 - 2.4 ln(Tu), held at the ends of
/// 0.0007 .. 0.0298 (n 9.0 .. 0). Source: L. M. Mack, JPL Publication 77-15, 1977.
double nFromTurbulence(double intensity);

enum class Side { Upper, Lower };

/// The flow about a section while it is solved: at the nodes of the contour, and along the wake, whose first node is
/// the trailing edge.
struct FlowState {
    double alpha = 0.0;
    std::size_t stagnation = 0;          ///< nodes 0 .. this belong to the upper side
    double stagnationPath = 0.0;         ///< along the contour
    std::vector<double> theta, m, C, u;  ///< at the nodes; u >= 0 away from the stagnation point
    std::vector<char> turbulent;         ///< per node
    std::vector<Vec2> wake;              ///< places
    std::vector<double> wakeTheta, wakeM, wakeC, wakeU;
    /// Per side: where between the last laminar and the first turbulent node the layer turns, 0 .. 1; beyond them the
    /// node nearby changes its kind at the next look.
    std::array<double, 2> share{0.5, 0.5};
    std::array<double, 2> transitionPath{};  ///< along the contour, per side; that of the edge where there is none
    std::array<bool, 2> tripped{};
    bool empty() const { return theta.empty(); }
};

/// Speeds at the nodes, signed along the contour.
Eigen::VectorXd signedSpeeds(const FlowState& state);

/// Nodes of a side from the stagnation point to the trailing edge, and their length s from it.
std::vector<std::size_t> nodesOf(const FlowState& state, Side side);
double lengthTo(const PanelFlow& flow, const FlowState& state, std::size_t node);
/// Length s of a side's trip; far beyond the edge where there is none.
double tripLength(const PanelFlow& flow, const FlowState& state, const SectionCase& c, Side side);

/// Thickness of the dead air behind a blunt base [chords], by the length gone behind the edge: it closes smoothly over
/// 2.5 gaps.
double deadAir(double gap, double behind);

/// The wake of this angle's potential flow.
std::vector<Vec2> wakeOf(const PanelFlow& flow, double alpha);

/// Layers marched under the potential flow's speeds, and the wake behind them.
FlowState startState(const PanelFlow& flow, const SectionCase& c, double alpha);

/// A settled state taken to another angle: speeds change as the potential flow does; nodes that change sides get the
/// layer of a stagnation point.
/// @param marched layers are marched anew under those speeds, with the shapes that they had where they are separated
FlowState turned(const PanelFlow& flow, const FlowState& from, const SectionCase& c, double alpha, bool marched);

/// Finds the stagnation point from the speeds, after a change of them: nodes whose speed has turned change sides.
void findStagnation(const PanelFlow& flow, FlowState& state, const SectionCase& c);

/// Amplification along the laminar stretch of a side from the layers as they are, and with it which nodes are
/// turbulent; those that change their kind get the layer that they have under their speeds.
/// @param gently the place of transition goes over a node by as little as it has gone beyond it: from afar this goes
/// astray, nearby it keeps the place from jumping to and fro. @return whether a node changed its kind
bool findTransition(const PanelFlow& flow, FlowState& state, const SectionCase& c, Side side, bool gently);

}  // namespace cvane::section
