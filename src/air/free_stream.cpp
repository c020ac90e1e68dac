#include "air/free_stream.h"

#include <fmt/format.h>

#include <cmath>

#include "base/units.h"

namespace cvane::air {

Vec3 FreeStream::dragAxis() const {
    return {std::cos(alpha) * std::cos(beta), -std::sin(beta), std::sin(alpha) * std::cos(beta)};
}
Vec3 FreeStream::liftAxis() const {
    return {-std::sin(alpha), 0.0, std::cos(alpha)};
}
Vec3 FreeStream::sideAxis() const {
    return {std::cos(alpha) * std::sin(beta), std::cos(beta), std::sin(alpha) * std::sin(beta)};
}

double speedFromMach(double mach, const Air& air) {
    return mach * air.soundSpeed;
}
double speedFromReynolds(double reynolds, double referenceLength, const Air& air) {
    return reynolds * air.kinematicViscosity() / referenceLength;
}

Coefficients coefficients(const Vec3& F, const Vec3& M, const FreeStream& wind, const Reference& ref) {
    const double qS = wind.dynamicPressure() * ref.area;
    Coefficients c;
    c.CL = F.dot(wind.liftAxis()) / qS;
    c.CD = F.dot(wind.dragAxis()) / qS;
    c.CY = F.dot(wind.sideAxis()) / qS;
    c.Cl = -M.x() / (qS * ref.span);
    c.Cm = M.y() / (qS * ref.length);
    c.Cn = -M.z() / (qS * ref.span);
    return c;
}

std::string windSentence(const FreeStream& w, double referenceLength) {
    return fmt::format("Air at {:.1f} m/s, alpha {:.1f} deg, beta {:.1f} deg -> Re {:.3g} M, Mach {:.3f}, q {:.4g} Pa",
                       w.speed, w.alpha / base::degree, w.beta / base::degree, w.reynolds(referenceLength) / 1e6,
                       w.mach(), w.dynamicPressure());
}

}  // namespace cvane::air
