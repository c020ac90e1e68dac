#include "lifting/influence.h"

#include <tuple>

namespace cvane::lifting {

Eigen::MatrixXd strengthsOf(const std::vector<Filament>& filaments, const Eigen::MatrixXd& rings) {
    Eigen::MatrixXd out(static_cast<Eigen::Index>(filaments.size()), rings.cols());
    for (Eigen::Index flow = 0; flow < rings.cols(); ++flow)
        for (std::size_t k = 0; k < filaments.size(); ++k)
            out(static_cast<Eigen::Index>(k), flow) = strengthOf(filaments[k], rings.col(flow));
    return out;
}

// In the space of Prandtl and Glauert lengths along the stream are longer by 1 / beta and the potential is the same, so
// that velocities along it are larger by that. Source: Katz and Plotkin, sect. 4.8.
VortexField::VortexField(std::vector<Filament> filaments, const Space& space)
    : filaments_(std::move(filaments)), space_(space) {
    const auto stretched = [&](const Vec3& v) { return Vec3(v.x() / space_.beta, v.y(), v.z()); };
    for (const auto& f : filaments_) {
        const Vec3 from = stretched(f.from), to = stretched(f.to);
        if (f.ray) {
            rays_.emplace_back(from, to.normalized());
            continue;
        }
        for (int c = 0; c < 3; ++c) {
            ends_[static_cast<std::size_t>(c)].push_back(from[c]);
            ends_[static_cast<std::size_t>(c) + 3].push_back(to[c]);
        }
    }
}

void VortexField::add(const Vec3& place, double signY, double signZ, Velocities& out) const {
    const double *ax = ends_[0].data(), *ay = ends_[1].data(), *az = ends_[2].data(), *bx = ends_[3].data(),
                 *by = ends_[4].data(), *bz = ends_[5].data();
    const double x = place.x(), y = place.y(), z = place.z();
    double *u = out.x.data(), *v = out.y.data(), *w = out.z.data();
    const std::size_t n = pieces();
#pragma omp simd
    for (std::size_t k = 0; k < n; ++k) {
        double vx, vy, vz;
        ofArms(x - ax[k], y - ay[k], z - az[k], x - bx[k], y - by[k], z - bz[k], vx, vy, vz);
        u[k] += vx;
        v[k] += signY * vy;
        w[k] += signZ * vz;
    }
    for (std::size_t r = 0; r < rays_.size(); ++r) {
        const Vec3 here = ofRay(place, rays_[r].first, rays_[r].second);
        u[n + r] += here.x();
        v[n + r] += signY * here.y();
        w[n + r] += signZ * here.z();
    }
}

// An image seen from a place is the vortex itself seen from that place's image.
void VortexField::each(const Vec3& place, Velocities& out) const {
    const auto n = static_cast<Eigen::Index>(filaments_.size());
    for (auto* component : {&out.x, &out.y, &out.z}) component->setZero(n);
    const Vec3 at(place.x() / space_.beta, place.y(), place.z());
    for (const double signY : {1.0, -1.0}) {
        if (signY < 0.0 && !space_.mirror) continue;
        add(Vec3(at.x(), signY * at.y(), at.z()), signY, 1.0, out);
        if (space_.hasGround) add(Vec3(at.x(), signY * at.y(), 2.0 * space_.ground - at.z()), signY, -1.0, out);
    }
    out.x /= space_.beta;
}

Vec3 VortexField::withCore(const Vec3& place, const Eigen::VectorXd& strengths, double core) const {
    const Vec3 at(place.x() / space_.beta, place.y(), place.z());
    Vec3 sum = Vec3::Zero();
    const auto add = [&](const Vec3& here, double signY, double signZ) {
        Vec3 v = Vec3::Zero();
        for (std::size_t k = 0; k < filaments_.size(); ++k) {
            Vec3 from, along, made;
            if (k < pieces()) {
                from = Vec3(ends_[0][k], ends_[1][k], ends_[2][k]);
                const Vec3 to(ends_[3][k], ends_[4][k], ends_[5][k]);
                along = (to - from).normalized();
                made = ofSegment(here, from, to);
            } else {
                std::tie(from, along) = rays_[k - pieces()];
                made = ofRay(here, from, along);
            }
            const double off = (here - from).cross(along).squaredNorm();
            v += strengths[static_cast<Eigen::Index>(k)] * off / (off + core * core) * made;
        }
        sum += Vec3(v.x(), signY * v.y(), signZ * v.z());
    };
    for (const double signY : {1.0, -1.0}) {
        if (signY < 0.0 && !space_.mirror) continue;
        add(Vec3(at.x(), signY * at.y(), at.z()), signY, 1.0);
        if (space_.hasGround) add(Vec3(at.x(), signY * at.y(), 2.0 * space_.ground - at.z()), signY, -1.0);
    }
    sum.x() /= space_.beta;
    return sum;
}

Eigen::MatrixXd VortexField::at(const std::vector<Vec3>& places, const Eigen::MatrixXd& strengths) const {
    Eigen::MatrixXd out(3 * static_cast<Eigen::Index>(places.size()), strengths.cols());
    const auto n = static_cast<std::ptrdiff_t>(places.size());
#pragma omp parallel
    {
        Velocities v;
#pragma omp for schedule(static)
        for (std::ptrdiff_t i = 0; i < n; ++i) {
            each(places[static_cast<std::size_t>(i)], v);
            for (Eigen::Index f = 0; f < strengths.cols(); ++f)
                out.col(f).segment<3>(3 * i) =
                    Vec3(v.x.dot(strengths.col(f)), v.y.dot(strengths.col(f)), v.z.dot(strengths.col(f)));
        }
    }
    return out;
}

}  // namespace cvane::lifting
