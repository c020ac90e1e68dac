#include "flow/wall_law.h"

#include <algorithm>
#include <cmath>

namespace cvane::flow {
namespace {
constexpr double k = 0.41, B = 5.0;
const double eB = std::exp(-k * B);
struct Law {
    double yPlus, slope;  // slope: d y+ / d u+
};
// `rough`: 1 + 0.3 ks+
Law spalding(double uPlus, double rough) {
    const double s = std::min(k * uPlus, 50.0);
    const double e = std::exp(s);
    return {uPlus + rough * eB * (e - 1.0 - s - 0.5 * s * s - s * s * s / 6.0),
            1.0 + rough * k * eB * (e - 1.0 - s - 0.5 * s * s)};
}
}  // namespace

double firstGuessOfSpeed(double Re) {
    // Laminar, or the logarithm's value with y+ = Re / u+ and u+ about 2.2 ln Re.
    const double laminar = std::sqrt(Re);
    return Re > 100.0 ? std::min(laminar, std::log(Re / (2.2 * std::log(Re))) / k + B) : laminar;
}

double frictionVelocity(double U, double y, double nu, double ks) {
    const double Re = U * y / nu;
    if (!(Re > 1e-12)) return 0.0;
    double u = firstGuessOfSpeed(Re), rough = 1.0;
    // The roughness in wall units hangs on the outcome; the logarithm of it hardly does.
    for (int turn = 0; turn < (ks > 0.0 ? 20 : 1); ++turn) {
        const double before = u;
        if (ks > 0.0) rough = 1.0 + 0.3 * U / u * ks / nu;
        // u+ y+(u+) = Re rises steadily with u+; Newton from above descends to the root, from a little below it steps
        // over it first.
        for (int i = 0; i < 30; ++i) {
            const Law law = spalding(u, rough);
            const double step = (u * law.yPlus - Re) / (law.yPlus + u * law.slope);
            u = std::max(u - step, 0.2 * u);
            if (std::abs(step) < 1e-10 * u) break;
        }
        if (std::abs(u - before) < 1e-8 * u) break;
    }
    return U / u;
}

double speedInWallUnits(double yPlus) {
    // y+ rises with u+ all the way, ever faster: Newton from above descends to it.
    double u = firstGuessOfSpeed(std::max(yPlus, 0.0) * 40.0) + 10.0;
    for (int i = 0; i < 60; ++i) {
        const Law law = spalding(u, 1.0);
        const double step = (law.yPlus - yPlus) / law.slope;
        u = std::max(u - step, 0.0);
        if (std::abs(step) < 1e-12 * (1.0 + u)) break;
    }
    return u;
}

double wallLawSlope(double uPlus, double ksPlus) {
    return 1.0 / spalding(uPlus, 1.0 + 0.3 * ksPlus).slope;
}

}  // namespace cvane::flow
