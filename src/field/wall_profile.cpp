#include "field/wall_profile.h"

#include <cmath>

#include "base/errors.h"

namespace cvane::field {

WallProfile wallProfile(const FlowField& flow, const Vec3& near, double reach) {
    const auto& wall = flow.wall();
    const auto& mesh = flow.mesh();
    const auto& geometry = mesh.geometry();
    if (wall.face.empty())
        throw base::InputError("nothing is known of the model's walls.", "the profile", "Run the point again.");
    if (!(reach > 0.0)) throw base::InputError("reaches nowhere.", "the profile", "Give a length above 0.");
    std::size_t nearest = 0;
    const auto middleOf = [&](std::size_t i) -> const Vec3& {
        return geometry.faceCentre[static_cast<std::size_t>(wall.face[i])];
    };
    for (std::size_t i = 1; i < wall.face.size(); ++i)
        if ((middleOf(i) - near).squaredNorm() < (middleOf(nearest) - near).squaredNorm()) nearest = i;
    const auto face = static_cast<std::size_t>(wall.face[nearest]);
    WallProfile out;
    out.place = geometry.faceCentre[face];
    out.normal = -geometry.faceArea[face].normalized();
    const Vec3 shear = wall.Cf[nearest];
    out.frictionVelocity = flow.wind().speed * std::sqrt(0.5 * shear.norm());
    // Straight away from the wall, from cell to cell.
    std::vector<CellIndex> passed;
    CellIndex c = mesh.grid().owner[face];
    for (int n = 0; n < 10000 && c >= 0; ++n) {
        const auto i = static_cast<std::size_t>(c);
        if ((geometry.cellCentre[i] - out.place).dot(out.normal) > reach) break;
        passed.push_back(c);
        FaceIndex through = -1;
        double least = 1e300;
        for (const auto f : mesh.facesOf(c)) {
            const auto k = static_cast<std::size_t>(f);
            const Vec3 S = mesh.grid().owner[k] == c ? geometry.faceArea[k] : Vec3(-geometry.faceArea[k]);
            const double rise = S.dot(out.normal);
            if (!(rise > 1e-9 * S.norm())) continue;
            const double there = (geometry.faceCentre[k] - out.place).dot(S) / rise;
            if (there < least) least = there, through = f;
        }
        c = through < 0 ? -1 : mesh.across(through, c);
    }
    const auto alongWall = [&](const Vec3& u) { return Vec3(u - u.dot(out.normal) * out.normal); };
    out.along = alongWall(shear);
    if (!(out.along.norm() > 1e-12) && !passed.empty())
        out.along = alongWall(flow.velocity()[static_cast<std::size_t>(passed.back())]);
    if (out.along.norm() > 0.0) out.along.normalize();
    const Vec3 aside = out.normal.cross(out.along);
    const double nu = flow.wind().air.kinematicViscosity();
    for (const auto cell : passed) {
        const auto i = static_cast<std::size_t>(cell);
        WallProfile::Sample s;
        s.height = (geometry.cellCentre[i] - out.place).dot(out.normal);
        s.along = flow.velocity()[i].dot(out.along);
        s.across = flow.velocity()[i].dot(aside);
        if (out.frictionVelocity > 0.0 && nu > 0.0) {
            s.yPlus = s.height * out.frictionVelocity / nu;
            s.uPlus = s.along / out.frictionVelocity;
        }
        out.samples.push_back(s);
    }
    return out;
}

}  // namespace cvane::field
