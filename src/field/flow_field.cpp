#include "field/flow_field.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "air/gas.h"
#include "base/errors.h"
#include "field/formula.h"

namespace cvane::field {
namespace {
const char* const kNeeded[] = {"VelocityX", "VelocityY", "VelocityZ", "PressureKinematic"};
constexpr const char* kEddy = "ViscosityEddyKinematic";
constexpr const char* kEnergy = "TurbulentEnergyKinetic";
constexpr const char* kRate = "TurbulentDissipationRate";

// Antisymmetric part of the velocity's gradient, twice, as a vector.
Vec3 curl(const Mat3& G) {
    return {G(2, 1) - G(1, 2), G(0, 2) - G(2, 0), G(1, 0) - G(0, 1)};
}
}  // namespace

FlowField::FlowField(std::shared_ptr<const Mesh> mesh, std::map<std::string, std::vector<double>> arrays,
                     const air::FreeStream& wind, WallValues wall)
    : mesh_(std::move(mesh)), arrays_(std::move(arrays)), wind_(wind), wall_(std::move(wall)) {
    const auto n = static_cast<std::size_t>(mesh_->cells());
    for (const char* name : kNeeded)
        if (!arrays_.contains(name))
            throw base::InputError(fmt::format("the flow has no array {}.", name), "flow", "Run the point again.");
    for (const auto& [name, values] : arrays_)
        if (values.size() != n)
            throw base::InputError(fmt::format("{} has {} values, the grid {} cells.", name, values.size(), n), "flow",
                                   "Run the point again: it belongs to another grid.");
    velocity_.resize(n);
    const auto &u = arrays_.at("VelocityX"), &v = arrays_.at("VelocityY"), &w = arrays_.at("VelocityZ");
    for (std::size_t c = 0; c < n; ++c) velocity_[c] = {u[c], v[c], w[c]};
    list();
}

void FlowField::list() {
    using enum Sense;
    quantities_ = {{"speed", "speed ratio, V over free stream", "", Level},
                   {"Cp", "pressure coefficient", "", AboutZero},
                   {"loss", "total-pressure loss over q", "", FromZero},
                   {"Cpt", "total-pressure coefficient", "", Level},
                   {"ux", "velocity ratio along x", "", AboutZero},
                   {"uy", "velocity ratio along y", "", AboutZero},
                   {"uz", "velocity ratio along z", "", AboutZero},
                   {"V", "speed", "m/s", Level},
                   {"p", "static pressure less free stream", "Pa", AboutZero},
                   {"vorticity", "vorticity", "1/s", FromZero},
                   {"vorticity_x", "vorticity along x", "1/s", AboutZero},
                   {"vorticity_y", "vorticity along y", "1/s", AboutZero},
                   {"vorticity_z", "vorticity along z", "1/s", AboutZero},
                   {"vorticity_wind", "vorticity along the wind", "1/s", AboutZero},
                   {"Q", "Q criterion", "1/s2", AboutZero},
                   {"helicity", "normalised helicity", "", AboutZero},
                   {"wall_distance", "wall distance", "m", Level}};
    if (isCompressible())
        for (const auto& q : {Quantity{"mach", "Mach number", "", Level},
                              {"T", "static temperature", "K", Level},
                              {"rho", "density", "kg/m3", Level},
                              {"p0", "total pressure", "Pa", Level},
                              {"T0", "total temperature", "K", Level},
                              {"entropy", "entropy rise over gas constant", "", FromZero},
                              {"schlieren", "density gradient", "kg/m4", FromZero}})
            quantities_.push_back(q);
    if (arrays_.contains(kEddy)) quantities_.push_back({"eddy", "eddy viscosity ratio", "", FromZero});
    if (arrays_.contains(kEnergy))
        quantities_.push_back({"intensity", "turbulence intensity", "of the wind", FromZero});
    if (arrays_.contains(kEnergy) && arrays_.contains(kRate))
        quantities_.push_back({"noise", "acoustic source power (Proudman), relative level", "dB", Level});
}

const Quantity& FlowField::quantity(const std::string& id) const {
    std::string all;
    for (const auto& q : quantities_) {
        if (q.id == id) return q;
        all += (all.empty() ? "" : ", ") + q.id;
    }
    throw base::InputError("is no quantity of this flow.", id, "There are: " + all + ", and formulas of these.");
}

std::vector<double> FlowField::perCell(const std::function<double(std::size_t)>& value) const {
    std::vector<double> out(velocity_.size());
#pragma omp parallel for schedule(static)
    for (std::int64_t c = 0; c < static_cast<std::int64_t>(out.size()); ++c)
        out[static_cast<std::size_t>(c)] = value(static_cast<std::size_t>(c));
    return out;
}

const std::vector<Mat3>& FlowField::velocityGradient() const {
    const std::lock_guard lock(mutex_);
    if (gradient_.empty()) gradient_ = mesh_->gradient(velocity_);
    return gradient_;
}

const std::vector<Vec3>& FlowField::velocityAtPoints() const {
    const std::lock_guard lock(mutex_);
    if (velocityAtPoints_.empty()) velocityAtPoints_ = mesh_->toPoints(velocity_);
    return velocityAtPoints_;
}

// Empty: it is no matter of the gas.
std::vector<double> FlowField::computeOfGas(const std::string& id) const {
    const air::Air& air = wind_.air;
    const double g = air.ratioOfHeats(), R = air.gasConstant(), cp = g * R / (g - 1.0), q = wind_.dynamicPressure();
    const auto &T = arrays_.at("Temperature"), &rho = arrays_.at("Density");
    const auto pressure = [&](std::size_t c) { return rho[c] * R * T[c]; };
    const auto totalT = [&](std::size_t c) { return T[c] + 0.5 * velocity_[c].squaredNorm() / cp; };
    const auto total = [&](std::size_t c) { return pressure(c) * std::pow(totalT(c) / T[c], g / (g - 1.0)); };
    if (id == "mach") return perCell([&](std::size_t c) { return velocity_[c].norm() / std::sqrt(g * R * T[c]); });
    if (id == "T") return perCell([&](std::size_t c) { return T[c]; });
    if (id == "rho") return perCell([&](std::size_t c) { return rho[c]; });
    if (id == "T0") return perCell(totalT);
    if (id == "p0") return perCell(total);
    const double free = air::totalPressure(air, wind_.speed);
    if (id == "loss") return perCell([&](std::size_t c) { return (free - total(c)) / q; });
    if (id == "Cpt") return perCell([&](std::size_t c) { return (total(c) - air.pressure) / q; });
    if (id == "entropy")
        return perCell([&](std::size_t c) {
            return g / (g - 1.0) * std::log(T[c] / air.temperature) - std::log(pressure(c) / air.pressure);
        });
    if (id != "schlieren") return {};
    const auto slope = mesh_->gradient(rho);
    return perCell([&](std::size_t c) { return slope[c].norm(); });
}

std::vector<double> FlowField::compute(const std::string& id) const {
    const double V = wind_.speed, rho = wind_.air.density, nu = wind_.air.kinematicViscosity();
    const auto& p = arrays_.at("PressureKinematic");
    const auto& U = velocity_;
    const auto Cp = [&](std::size_t c) { return p[c] / (0.5 * V * V); };
    if (isCompressible())
        if (auto values = computeOfGas(id); !values.empty()) return values;
    const auto total = [&](std::size_t c) { return Cp(c) + U[c].squaredNorm() / (V * V); };
    if (id == "speed") return perCell([&](std::size_t c) { return U[c].norm() / V; });
    if (id == "V") return perCell([&](std::size_t c) { return U[c].norm(); });
    if (id == "Cp") return perCell(Cp);
    if (id == "p") return perCell([&](std::size_t c) { return rho * p[c]; });
    if (id == "Cpt") return perCell(total);
    if (id == "loss") return perCell([&](std::size_t c) { return 1.0 - total(c); });
    if (id == "ux" || id == "uy" || id == "uz")
        return perCell([&, k = id[1] - 'x'](std::size_t c) { return U[c][k] / V; });
    if (id == "wall_distance") return perCell([&](std::size_t c) { return mesh_->grid().wallDistance[c]; });
    if (id == "eddy") return perCell([&, e = &arrays_.at(kEddy)](std::size_t c) { return (*e)[c] / nu; });
    if (id == "intensity")
        return perCell(
            [&, k = &arrays_.at(kEnergy)](std::size_t c) { return std::sqrt(2.0 / 3.0 * std::max((*k)[c], 0.0)) / V; });
    if (id == "noise")
        // Power that turbulence gives off as sound, from its energy and decay. I. Proudman, Proc. Roy. Soc. A 214,
        // 1952; the factor 0.1 by G. M. Lilley (1994). epsilon = 0.09 k omega.
        return perCell([&, k = &arrays_.at(kEnergy), w = &arrays_.at(kRate)](std::size_t c) {
            const double sound = wind_.air.soundSpeed, energy = std::max((*k)[c], 0.0);
            const double mach = std::sqrt(2.0 * energy) / sound;
            return 10.0 * std::log10(std::max(0.1 * rho * 0.09 * energy * (*w)[c] * std::pow(mach, 5) / 1e-12, 1e-12));
        });
    const auto& G = velocityGradient();
    if (id == "vorticity") return perCell([&](std::size_t c) { return curl(G[c]).norm(); });
    if (id.starts_with("vorticity_") && id.size() == 11)
        return perCell([&, k = id[10] - 'x'](std::size_t c) { return curl(G[c])[k]; });
    if (id == "vorticity_wind")
        return perCell([&, along = wind_.dragAxis()](std::size_t c) { return curl(G[c]).dot(along); });
    if (id == "helicity")
        return perCell([&](std::size_t c) {
            const Vec3 w = curl(G[c]);
            return w.dot(U[c]) / std::max(w.norm() * U[c].norm(), 1e-300);
        });
    if (id != "Q") quantity(id);  // says that there is none such, with those that there are
    // J. C. R. Hunt, A. A. Wray, P. Moin, CTR-S88, 1988.
    return perCell([&](std::size_t c) {
        const Mat3 S = 0.5 * (G[c] + G[c].transpose()), W = 0.5 * (G[c] - G[c].transpose());
        return 0.5 * (W.squaredNorm() - S.squaredNorm());
    });
}

const std::vector<double>& FlowField::inCells(const std::string& id) const {
    const std::lock_guard lock(mutex_);
    if (const auto it = cells_.find(id); it != cells_.end()) return it->second;
    const bool known = std::any_of(quantities_.begin(), quantities_.end(), [&](const auto& q) { return q.id == id; });
    auto values = known ? compute(id) : evaluateFormula(*this, id);
    return cells_[id] = std::move(values);
}

const std::vector<double>& FlowField::atPoints(const std::string& id) const {
    const std::lock_guard lock(mutex_);
    if (const auto it = points_.find(id); it != points_.end()) return it->second;
    return points_[id] = mesh_->toPoints(inCells(id));
}

}  // namespace cvane::field
