#include "air/plate_layer.h"

#include <cmath>

namespace cvane::air {

double plateLayerThickness(double run, double V, double nu) {
    return run > 0.0 ? 0.37 * run * std::pow(V * run / nu, -0.2) : 0.0;
}

}  // namespace cvane::air
