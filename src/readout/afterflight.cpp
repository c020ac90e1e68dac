#include "readout/afterflight.h"

#include <fmt/format.h>

#include <cmath>

#include "air/gas.h"

namespace cvane::readout {
namespace {
// Brought to rest without loss air has Cp 1; some hundredths more on a few faces is what rebuilding the pressure on the
// wall adds at a stagnation line.
// In compressible air it has as much more as compression adds.
constexpr double kMostCp = 1.02, kLeastShare = 1e-3, kCpAnywhere = 1.1;
// The logarithm ends at about a fifth of a boundary layer, on models of Re 1e6 to 1e7 at y+ 500 to 1000.
constexpr double kMostYPlus = 500.0, kShareBeyond = 0.02;
constexpr double kMostApart = 0.01;       ///< of CD
constexpr double kMostHeat = 1e-3;        ///< of the total enthalpy
constexpr double kOneSided = 1e-3;        ///< CY or Cl of a symmetric model
constexpr double kLeastCount = 3e-5;      ///< 0.3 drag counts
constexpr double kLayerUnderModel = 0.2;  ///< displacement thickness over ride height

std::string percent(double share) {
    return fmt::format("{:.2g} %", 100.0 * share);
}
}  // namespace

std::vector<Finding> findingsOf(const Result& r, const WallField& wall, const grid::Geometry& geo,
                                const grid::Tunnel& tunnel, bool pushed) {
    std::vector<Finding> out;
    const double atRest =
        r.readings().compressible ? air::stagnationPressureCoefficient(r.wind.mach(), r.wind.air.ratioOfHeats()) : 1.0;
    double area = 0.0, above = 0.0, beyond = 0.0, most = 0.0, highest = 0.0;
    Vec3 placeOfMost = Vec3::Zero(), placeOfHighest = Vec3::Zero();
    for (std::size_t i = 0; i < wall.face.size(); ++i) {
        const auto f = static_cast<std::size_t>(wall.face[i]);
        const double a = geo.faceArea[f].norm();
        area += a;
        if (wall.Cp[i] > kMostCp * atRest) above += a;
        if (wall.yPlus[i] > kMostYPlus) beyond += a;
        if (wall.Cp[i] > most) {
            most = wall.Cp[i];
            placeOfMost = geo.faceCentre[f];
        }
        if (wall.yPlus[i] > highest) {
            highest = wall.yPlus[i];
            placeOfHighest = geo.faceCentre[f];
        }
    }
    const double apart = std::abs(r.outsideCD()), CD = std::abs(r.total.coefficients.CD);
    if (r.readings().forceFromOutside && apart > std::max({kMostApart * CD, kLeastCount, r.band.CD}))
        out.push_back(
            {fmt::format(
                 "The far-field momentum balance gives CD {:.4f}, the balance {:.4f}: {} apart. {}",
                 r.total.coefficients.CD + r.outsideCD(), r.total.coefficients.CD, percent(apart / std::max(CD, 1e-12)),
                 r.averagedOver > 0 ? "The mean flow lacks what the swing itself carries; judge the mean by its band."
                                    : "The flow is not settled yet: let it run further."),
             std::nullopt});
    const air::Coefficients& k = r.total.coefficients;
    if (tunnel.mirrored && !tunnel.halfModel && std::abs(r.wind.beta) < 1e-9 &&
        std::max(std::abs(k.CY), std::abs(k.Cl)) > kOneSided)
        out.push_back(
            {fmt::format("The flow is one-sided: CY {:.4f} and Cl {:.4f} of a model that is its own mirror "
                         "image, in a wind without sideslip. The mean of this flow and its image has CY 0 and "
                         "the same CD and CL; a half model finds the symmetric one.",
                         k.CY, k.Cl),
             std::nullopt});
    if (!pushed && area > 0.0 && (above > kLeastShare * area || most > kCpAnywhere * atRest))
        out.push_back(
            {fmt::format("Cp is above {:.3g} on {} of the wall, {:.2f} at most at ({:.3g} {:.3g} {:.3g}) m, which "
                         "nothing in this tunnel can make. Look at the cells there, or make them finer.",
                         atRest, percent(above / area), most, placeOfMost.x(), placeOfMost.y(), placeOfMost.z()),
             placeOfMost});
    if (r.readings().compressible && !pushed && std::abs(r.readings().enthalpyImbalance) > kMostHeat)
        out.push_back(
            {fmt::format("{} of the total enthalpy is lost or made on the way through the tunnel, though no wall "
                         "lets heat through: the flow is not settled yet. Let it run further.",
                         percent(std::abs(r.readings().enthalpyImbalance))),
             std::nullopt});
    if (area > 0.0 && beyond > kShareBeyond * area)
        out.push_back({fmt::format("y+ is above {:.0f} on {} of the wall, {:.0f} at most at ({:.3g} {:.3g} {:.3g}) m: "
                                   "beyond the law of the wall, so friction is a guess there. Lower the first height.",
                                   kMostYPlus, percent(beyond / area), highest, placeOfHighest.x(), placeOfHighest.y(),
                                   placeOfHighest.z()),
                       placeOfHighest});
    const auto& displaced = r.readings().groundDisplacement;
    if (displaced && tunnel.rideHeight > 0.0 && *displaced > kLayerUnderModel * tunnel.rideHeight)
        out.push_back(
            {fmt::format("The ground's boundary layer displaces the air by {:.2g} m where the model begins, {} of the "
                         "gap under it. Let the ground move, or let its layer begin nearer to the model.",
                         *displaced, percent(*displaced / tunnel.rideHeight)),
             std::nullopt});
    if (!pushed && r.total.coefficients.CD < -std::max(1e-4, r.band.CD))
        out.emplace_back().what =
            "Drag is below zero, which nothing in this tunnel can make. Look at the surface's orientation, the grid "
            "and "
            "the tunnel.";
    return out;
}

}  // namespace cvane::readout
