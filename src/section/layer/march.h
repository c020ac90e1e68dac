#pragma once
#include <optional>
#include <vector>

#include "section/layer/interval.h"

namespace cvane::section {

/// How transition comes about on one side.
struct TransitionLaw {
    double nCritical = 9.0;  ///< amplification exponent at which a layer turns turbulent
    double tripS = 1e9;      ///< where it is tripped, as a length from the stagnation point; far: nowhere
};

/// A boundary layer along one side, station by station.
struct MarchedLayer {
    std::vector<Station> stations;
    std::size_t firstTurbulent = 0;  ///< index of the first turbulent station; the number of stations: none
    double transitionS = 0.0;        ///< where it turns turbulent [length]; the last station's where it does not
    std::vector<char> guessed;       ///< 1 where the speed had to give way (the layer separates under the given one)
};

/// Marches a layer along given edge speeds. Where a layer cannot follow the speeds (separation) its shape parameter is
/// led on instead and the speed is what belongs to it.
/// @param s lengths from the stagnation point, ascending, the first > 0; @param u speeds there, all > 0
/// @param fromStagnation false: the first station is that of a plate with a sharp edge
/// @param lead shape parameters to lead separated stations with, where known; one per station or none
MarchedLayer marchLayer(const std::vector<double>& s, const std::vector<double>& u, const LayerAir& air,
                        const TransitionLaw& law, bool fromStagnation = true, const std::vector<double>& lead = {});

/// One station behind another of the same kind: theta, m and C at a given speed, or, where those do not exist, with a
/// shape parameter that is led on. @return whether the speed was kept
/// @param lead a shape parameter to lead with; 0: by itself
bool solveStation(const Station& first, Station& second, const IntervalCase& c, double lead = 0.0);
/// The same for a turbulent station behind a laminar one. @return the place of transition between them, 0 .. 1
double solveTransition(const Station& first, Station& second, const IntervalCase& c, double nCritical, double tripS,
                       double lead = 0.0);

}  // namespace cvane::section
