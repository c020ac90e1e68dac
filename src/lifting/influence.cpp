#include "lifting/influence.h"

namespace cvane::lifting {
namespace {
Vec3 flipped(const Vec3& v, int axis) {
    Vec3 out = v;
    out[axis] = -out[axis];
    return out;
}
Vec3 plain(const Filament& f, const Vec3& at) {
    return f.ray ? ofRay(at, f.from, f.to) : ofSegment(at, f.from, f.to);
}
// An image seen from a place is the vortex itself seen from that place's image.
Vec3 withMirror(const Filament& f, const Vec3& at, bool mirror) {
    if (!mirror) return plain(f, at);
    return plain(f, at) + flipped(plain(f, flipped(at, 1)), 1);
}
}  // namespace

// In the space of Prandtl and Glauert lengths along the stream are longer by 1 / beta and the potential is the same, so
// that velocities along it are larger by that. Source: Katz and Plotkin, sect. 4.8.
VortexField::VortexField(std::vector<Filament> filaments, const Space& space)
    : filaments_(std::move(filaments)), stretched_(filaments_), space_(space) {
    for (auto& f : stretched_) {
        f.from.x() /= space_.beta;
        f.to.x() /= space_.beta;
        if (f.ray) f.to.normalize();
    }
}

Vec3 VortexField::of(std::size_t k, const Vec3& place) const {
    const Filament& f = stretched_[k];
    const Vec3 at(place.x() / space_.beta, place.y(), place.z());
    Vec3 v = withMirror(f, at, space_.mirror);
    if (space_.hasGround)
        v += flipped(withMirror(f, Vec3(at.x(), at.y(), 2.0 * space_.ground - at.z()), space_.mirror), 2);
    v.x() /= space_.beta;
    return v;
}

Eigen::MatrixXd VortexField::at(const std::vector<Vec3>& places, const Eigen::MatrixXd& strengths) const {
    const Eigen::MatrixXd byFlow = strengths.transpose();
    Eigen::MatrixXd out(3 * static_cast<Eigen::Index>(places.size()), strengths.cols());
    const auto n = static_cast<std::ptrdiff_t>(places.size());
#pragma omp parallel for schedule(static)
    for (std::ptrdiff_t i = 0; i < n; ++i) {
        Eigen::Matrix<double, 3, Eigen::Dynamic, 0, 3, 8> sum(3, byFlow.rows());
        sum.setZero();
        for (std::size_t k = 0; k < filaments_.size(); ++k)
            sum.noalias() +=
                of(k, places[static_cast<std::size_t>(i)]) * byFlow.col(static_cast<Eigen::Index>(k)).transpose();
        out.middleRows<3>(3 * i) = sum;
    }
    return out;
}

}  // namespace cvane::lifting
