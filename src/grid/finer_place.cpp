#include <cmath>

#include "grid/build.h"
#include "shape/triangle.h"

namespace cvane::grid {

Box FinerPlace::bounds() const {
    Box b;
    b.add(from);
    if (shape != Shape::Ball) b.add(to);
    if (shape != Shape::Box) {
        b.low -= Vec3::Constant(radius);
        b.high += Vec3::Constant(radius);
    }
    return b;
}

double FinerPlace::volume() const {
    const double pi = std::acos(-1.0);
    switch (shape) {
        case Shape::Box:
            return (to - from).cwiseAbs().prod();
        case Shape::Ball:
            return 4.0 / 3.0 * pi * radius * radius * radius;
        case Shape::Cylinder:
            return pi * radius * radius * (to - from).norm();
    }
    return 0.0;
}

bool FinerPlace::meets(const Box& box) const {
    switch (shape) {
        case Shape::Box:
            return bounds().overlaps(box);
        case Shape::Ball:
            return box.distanceSquared(from) <= radius * radius;
        case Shape::Cylinder: {
            const Vec3 x = box.centre();
            return (shape::closestPointOnTriangle(x, from, to, to) - x).norm() <= radius + 0.5 * box.size().norm();
        }
    }
    return false;
}

}  // namespace cvane::grid
