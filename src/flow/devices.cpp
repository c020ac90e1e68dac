#include "flow/devices.h"

#include <algorithm>
#include <cmath>

#include "base/errors.h"

namespace cvane::flow {
namespace {
const double pi = std::acos(-1.0);

// Share of a body that lies `inside` deep within it (negative: outside), seen by a cell of size h: a ramp over one
// cell.
double share(double inside, double h) {
    return std::clamp(0.5 + inside / h, 0.0, 1.0);
}

double areaOf(const Disc& d) {
    return pi * (d.outer * d.outer - d.inner * d.inner);
}

// Share of a disc's area at y > 0: of its outer circle less that of its inner one, both foreshortened along y by the
// tilt of the axis.
double shareAtStarboard(const Disc& d) {
    const double tilt = std::sqrt(std::max(0.0, 1.0 - std::pow(d.axis.normalized().y(), 2)));
    const auto segment = [&](double r) {
        if (!(r > 0.0)) return 0.0;
        const double h =
            tilt > 1e-9 ? std::clamp(d.centre.y() / (r * tilt), -1.0, 1.0) : (d.centre.y() >= 0.0 ? 1.0 : -1.0);
        return r * r * (0.5 * pi + std::asin(h) + h * std::sqrt(1.0 - h * h));
    };
    return (segment(d.outer) - segment(d.inner)) / areaOf(d);
}

[[noreturn]] void refuse(const std::string& name, const std::string& what, const std::string& todo) {
    throw base::InputError(what, name, todo);
}
}  // namespace

double idealDiscPower(double T, double V, double A, double rho) {
    // v^2 + V v - T / (2 rho A) = 0; a braking disc has the root that starts from zero too.
    const double root = V * V + 2.0 * T / (rho * A);
    const double v = root > 0.0 ? 0.5 * (-V + std::sqrt(root)) : std::nan("");
    return T * (V + v);
}

Devices::Devices(const Piece& p, const std::vector<Disc>& discs, const std::vector<PorousBlock>& blocks, double density,
                 double nu, bool halfModel, const Ranks& ranks)
    : ranks_(ranks), density_(density), nu_(nu) {
    const auto n = static_cast<std::size_t>(p.cells);
    for (const Disc& d : discs) {
        if (!(d.outer > 0.0) || !(d.inner >= 0.0) || !(d.inner < d.outer))
            refuse(d.name, "has radii that make no ring.", "Type an outer radius above the inner one.");
        if (!(d.axis.norm() > 0.0) || !d.axis.allFinite() || !d.centre.allFinite())
            refuse(d.name, "has no axis.", "Type three numbers that are not all zero.");
        const Vec3 axis = d.axis.normalized();
        DiscBody body{d, 0.0, 0.0, halfModel ? shareAtStarboard(d) : 1.0, {}, 0.0, 0.0};
        if (body.here < 1.0 - 1e-9 && d.rpm != 0.0)
            refuse(d.name,
                   "turns the air and reaches through the mirror plane of the half model, where its image turns the "
                   "other way.",
                   "Set its speed of rotation to 0, or run the whole model.");
        for (std::size_t c = 0; c < n; ++c) {
            const Vec3 x = p.x[c] - d.centre, out = x - x.dot(axis) * axis;
            const double h = std::cbrt(p.V[c]), r = out.norm();
            // Two cells thick on either side, falling off evenly: a force on one layer of cells only would make the
            // pressure there swing from cell to cell.
            const double along = std::max(0.0, 1.0 - std::abs(x.dot(axis)) / (2.0 * h));
            const double s = along * share(d.outer - r, h) * (d.inner > 0.0 ? share(r - d.inner, h) : 1.0);
            if (s > 0.0)
                body.cells.push_back(
                    {c, s * p.V[c], r > 0.0 ? Vec3(axis.cross(out) / r) : Vec3::Zero(), r, Vec3::Zero()});
        }
        for (const auto& c : body.cells) {
            body.volume += c.volume;
            body.turning += c.volume * c.radius;
        }
        double sums[2] = {body.volume, body.turning};
        ranks.sum(std::span<double>(sums, 2));
        body.volume = sums[0];
        body.turning = sums[1];
        if (!(body.volume > 0.0))
            refuse(d.name, "holds no cell of the grid.", "Move it into the tunnel, or make the cells there finer.");
        discs_.push_back(std::move(body));
    }
    for (const PorousBlock& b : blocks) {
        if (!b.from.allFinite() || !b.to.allFinite() || !((b.to - b.from).cwiseAbs().minCoeff() > 0.0))
            refuse(b.name, "has corners that make no box.", "Type two opposite corners.");
        if (!(b.linear >= 0.0) || !(b.quadratic >= 0.0) || !(b.across >= 0.0) || b.axis < 0 || b.axis > 2)
            refuse(b.name, "has a resistance below zero.", "Type numbers from 0 up.");
        const Vec3 low = b.from.cwiseMin(b.to), high = b.from.cwiseMax(b.to);
        const double width = high.y() - low.y();
        BlockBody body{b, 0.0, halfModel ? std::clamp(high.y() / width, 0.0, 1.0) : 1.0, {}};
        for (std::size_t c = 0; c < n; ++c) {
            const double h = std::cbrt(p.V[c]);
            double s = 1.0;
            for (int k = 0; k < 3; ++k) s *= share(std::min(p.x[c][k] - low[k], high[k] - p.x[c][k]), h);
            if (s > 0.0) body.cells.push_back({c, s * p.V[c], Vec3::Zero()});
        }
        for (const auto& c : body.cells) body.volume += c.volume;
        body.volume = ranks.sum(body.volume);
        if (!(body.volume > 0.0))
            refuse(b.name, "holds no cell of the grid.", "Move it into the air, or make the cells there finer.");
        blocks_.push_back(std::move(body));
    }
}

double Devices::inflowOf(const DiscBody& d, const std::vector<Vec3>& U) const {
    const Vec3 axis = d.disc.axis.normalized();
    double sum = 0.0;
    for (const auto& c : d.cells) sum += c.volume * U[c.cell].dot(axis);
    return ranks_.sum(sum) / d.volume;
}

void Devices::update(const std::vector<Vec3>& U) {
    for (DiscBody& d : discs_) {
        const Vec3 axis = d.disc.axis.normalized();
        const double inflow = inflowOf(d, U);
        // At rest power would ask for an infinite thrust; momentum theory's static thrust is its limit.
        const double still = std::cbrt(2.0 * density_ * areaOf(d.disc) * d.disc.power * d.disc.power);
        d.thrust = d.disc.thrust != 0.0 ? d.disc.thrust : std::min(d.disc.power / std::max(inflow, 1e-9), still);
        d.torque = d.disc.rpm != 0.0 ? d.thrust * inflow / (d.disc.rpm * pi / 30.0) : 0.0;
        for (auto& c : d.cells)
            c.force = (d.here * d.thrust * c.volume / d.volume * axis +
                       (d.turning > 0.0 ? d.torque * c.volume / d.turning : 0.0) * c.around) /
                      density_;
    }
    for (BlockBody& b : blocks_)
        for (auto& c : b.cells) {
            const double along = nu_ * b.block.linear + 0.5 * b.block.quadratic * U[c.cell].norm();
            c.resistance = Vec3::Constant(c.volume * along * b.block.across);
            c.resistance[b.block.axis] = c.volume * along;
        }
}

std::vector<DiscReading> Devices::readDiscs(const std::vector<Vec3>& U, const Vec3& wind) const {
    std::vector<DiscReading> out;
    for (const DiscBody& d : discs_) {
        const Vec3 axis = d.disc.axis.normalized();
        const double inflow = inflowOf(d, U);
        out.push_back({d.disc.name, d.thrust, inflow, d.thrust * inflow,
                       idealDiscPower(d.thrust, wind.dot(axis), areaOf(d.disc), density_), d.torque});
    }
    return out;
}

std::vector<PorousReading> Devices::readBlocks(const std::vector<Vec3>& U) const {
    std::vector<PorousReading> out;
    for (const BlockBody& b : blocks_) {
        const int k = b.block.axis;
        double sums[2] = {0.0, 0.0};
        for (const auto& c : b.cells) {
            sums[0] += c.volume * U[c.cell][k];
            sums[1] += c.resistance[k] * U[c.cell][k];
        }
        ranks_.sum(std::span<double>(sums, 2));
        const double length = std::abs(b.block.to[k] - b.block.from[k]), section = b.volume / length;
        out.push_back({b.block.name, density_ * sums[0] / (length * b.here), density_ * sums[1] / section});
    }
    return out;
}

}  // namespace cvane::flow
