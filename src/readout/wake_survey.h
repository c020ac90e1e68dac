#pragma once
#include <vector>

#include "field/flow_field.h"

namespace cvane::readout {

/// Drag as it is found in a plane across the wind behind the model: in total pressure that was lost, and in the motion
/// across the wind that lift leaves.
struct WakeSurvey {
    double profile = 0.0, induced = 0.0;  ///< [N], of what was computed: of a half model one half
    struct Strip {
        double from = 0.0, to = 0.0;          ///< along the span axis [m]
        double profile = 0.0, induced = 0.0;  ///< [N]
    };
    std::vector<Strip> strips;
};

/// With u along the wind, w across it and H the total pressure's loss, u*^2 = u^2 + 2 H / rho, the momentum that is
/// missing behind the model, int rho (V - u) U.dS - p dS_x, parts into
///   induced = int rho/2 (|w|^2 - (u* - V)^2) dS_x
///   profile = the rest; on a plane across the wind int H + rho/2 (u* - u) (u* + u - 2 V)
/// (A. Betz, Z. Flugtechn. Motorluftsch. 16, 1925; E. C. Maskell, RAE TR 72232, 1972; M. B. Giles, R. M. Cummings, J.
/// Aircraft 36, 1999). It is taken over the faces of cells that lie next to the plane x = behind. Profile drag counts
/// up to half the model's larger size across beyond its box, and where the loss is more than five times the plane's
/// median: less is the cells' own error, and the tunnel's section is hundreds of times the wake's.
/// @param behind  where the plane crosses the x axis of the model [m]
/// @param strips  how many, along y, over the model's own span and as far beyond each side
/// Throws InputError: the plane misses the tunnel or lies in the model; the wind is more than 45 degrees off the x
/// axis.
WakeSurvey surveyWake(const field::FlowField& flow, double behind, int strips);

}  // namespace cvane::readout
