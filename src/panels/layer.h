#pragma once
#include "panels/panel_flow.h"

namespace cvane::panels {

/// What a boundary layer does on panels; its loads are those of friction.
struct PanelLayer : PanelLoads {
    std::vector<double> cf;       ///< friction over the free stream's dynamic pressure, per panel
    std::vector<char> turbulent;  ///< per panel
    std::vector<char> separated;  ///< at the panel or upstream of it: what is there is not to be believed
    double separatedArea = 0.0;   ///< share of the surface
};

/// Boundary layers along the lines in which the flow runs over the surface, each for itself, as on a plane: laminar by
/// Thwaites up to Michel's transition or to its separation, turbulent from there by Head, to his separation. How lines
/// come together or part is left out, and the outer flow does not feel the layer.
/// Sources: B. Thwaites, Aeronaut. Q. 1, 1949, with the fits of F. M. White, Viscous Fluid Flow, sect. 4-6.6; R.
/// Michel, ONERA Rep. 1/1578A, 1951; M. R. Head, ARC R&M 3152, 1958; H. Ludwieg, W. Tillmann, NACA TM 1285, 1950.
PanelLayer layerOn(const Panels& panels, const PanelFlow& flow, const air::FreeStream& wind, const Vec3& centre,
                   bool mirrored);

/// Momentum thickness, shape parameter and friction of one line.
struct LineLayer {
    double theta = 0.0, shape = 0.0;  ///< [m]
    double cf = 0.0;                  ///< over the edge's own dynamic pressure
    bool turbulent = false, separated = false;
};
/// At the end of a line. @param s  places along it from where it begins [m];  @param speed  at its edge there [m/s]
LineLayer layerAlong(const std::vector<double>& s, const std::vector<double>& speed, double kinematicViscosity);

}  // namespace cvane::panels
