#include "grid/shape_cells_inside.h"

namespace cvane::grid {

double CellShaper::Shaper::springOf(Index i) const {
    double sum = 0.0;
    if (isWall(i) && loose_[wallNumber(i)])
        sum = hold_ * kCube * (at(i) - anchor_[wallNumber(i)]).squaredNorm() / std::pow(sizeAround(i), 2);
    const auto& h = hangs_[static_cast<std::size_t>(i)];
    if (h[0] < 0) return sum;
    const Vec3 &a = at(h[0]), &b = at(h[1]);
    return sum + hangingStiffness() * (at(i) - 0.5 * (a + b)).squaredNorm() / (a - b).squaredNorm();
}

double CellShaper::Shaper::around(Index i) const {
    double sum = springOf(i);
    for (auto k = start_[static_cast<std::size_t>(i)]; k < start_[static_cast<std::size_t>(i) + 1]; ++k)
        sum += weighed(value(corners_[static_cast<std::size_t>(incident_[static_cast<std::size_t>(k)])]));
    return sum;
}

double CellShaper::Shaper::derivatives(Index i, Vec3& g, Mat3& H) const {
    double sum = springOf(i);
    g.setZero();
    H.setZero();
    for (auto k = start_[static_cast<std::size_t>(i)]; k < start_[static_cast<std::size_t>(i) + 1]; ++k) {
        const Corner& c = corners_[static_cast<std::size_t>(incident_[static_cast<std::size_t>(k)])];
        if (c.flat) continue;
        const Vec3 &o = at(c.v[0]), e1 = at(c.v[1]) - o, e2 = at(c.v[2]) - o, e3 = at(c.v[3]) - o;
        const double s1 = c.s1, s2 = c.s2, s3 = c.s3, a1 = s1 * s1, a2 = s2 * s2, a3 = s3 * s3, v = s1 * s2 * s3;
        const double q = e1.squaredNorm() * a1 + e2.squaredNorm() * a2 + e3.squaredNorm() * a3;
        Vec3 gq, gd;
        double hq;
        if (i == c.v[1]) {
            gq = 2.0 * a1 * e1;
            gd = v * e2.cross(e3);
            hq = 2.0 * a1;
        } else if (i == c.v[2]) {
            gq = 2.0 * a2 * e2;
            gd = v * e3.cross(e1);
            hq = 2.0 * a2;
        } else if (i == c.v[3]) {
            gq = 2.0 * a3 * e3;
            gd = v * e1.cross(e2);
            hq = 2.0 * a3;
        } else {
            gq = -2.0 * (a1 * e1 + a2 * e2 + a3 * e3);
            gd = -v * (e2.cross(e3) + e3.cross(e1) + e1.cross(e2));
            hq = 2.0 * (a1 + a2 + a3);
        }
        const double d = v * e1.cross(e2).dot(e3), root = std::sqrt(d * d + 4.0 * measure_.eps * measure_.eps),
                     chi = 0.5 * (d + root);
        const double dchi = chi / root, r = std::sqrt(q);
        const Vec3 gv = (1.5 * r / chi) * gq - (q * r * dchi / (chi * chi)) * gd;
        const double value = q * r / chi;
        sum += weighed(value);
        const double slope = square_ ? 2.0 * std::min(value, kHopeless) / kCube : 1.0;
        g += slope * gv;
        H += slope * (2.0 * q * r * dchi * dchi / (chi * chi * chi)) * gd * gd.transpose();
        if (square_ && value < kHopeless) H += (2.0 / kCube) * gv * gv.transpose();
        H.diagonal().array() += slope * 1.5 * r / chi * hq;
    }
    const auto& h = hangs_[static_cast<std::size_t>(i)];
    if (h[0] >= 0) {
        const Vec3 &a = at(h[0]), &b = at(h[1]);
        const double w = 2.0 * hangingStiffness() / (a - b).squaredNorm();
        g += w * (at(i) - 0.5 * (a + b));
        H.diagonal().array() += w;
    }
    if (isWall(i) && loose_[wallNumber(i)]) {
        const double w = 2.0 * hold_ * kCube / std::pow(sizeAround(i), 2);
        g += w * (at(i) - anchor_[wallNumber(i)]);
        H.diagonal().array() += w;
    }
    return sum;
}

std::size_t CellShaper::Shaper::move(const std::vector<Index>& points, bool backwards) {
    std::vector<std::vector<Index>> byColour(colours_);
    for (const Index i : points)
        if (movable_[static_cast<std::size_t>(i)]) byColour[colour_[static_cast<std::size_t>(i)]].push_back(i);
    if (backwards) std::reverse(byColour.begin(), byColour.end());
    std::size_t moved = 0;
    for (const auto& colour : byColour) {
        const auto n = static_cast<std::ptrdiff_t>(colour.size());
#pragma omp parallel for schedule(dynamic, 64) reduction(+ : moved)
        for (std::ptrdiff_t j = 0; j < n; ++j) {
            const Index i = colour[static_cast<std::size_t>(j)];
            moved += isWall(i) && !loose_[wallNumber(i)] ? moveOnWall(i) : moveFree(i);
        }
    }
    return moved;
}

template <class Place>
bool CellShaper::Shaper::search(Index i, double before, const Vec3& step, Place&& place) {
    const double size = sizeAround(i), length = step.norm();
    if (!(length > 1e-4 * size)) return false;
    const Vec3 old = at(i);
    double t = std::min(1.0, 0.4 * size / length);
    for (int tries = 0; tries < 6; ++tries, t *= 0.4) {
        x_[static_cast<std::size_t>(i)] = place(t);
        if (around(i) < before * (1.0 - 1e-6)) {
            moved_[static_cast<std::size_t>(i)] = 1;
            return true;
        }
    }
    x_[static_cast<std::size_t>(i)] = old;
    return false;
}

bool CellShaper::Shaper::moveFree(Index i) {
    Vec3 g;
    Mat3 H;
    const double before = derivatives(i, g, H);
    const auto held = sides(i);
    for (int k = 0; k < 3; ++k)
        if (holds(held, k)) {
            g[k] = 0.0;
            H.row(k).setZero();
            H.col(k).setZero();
            H(k, k) = 1.0;
        }
    const Vec3 step = -H.ldlt().solve(g), old = at(i);
    return search(i, before, step, [&](double t) -> Vec3 { return old + t * step; });
}

bool CellShaper::Shaper::moveOnWall(Index i) {
    const auto w = wallNumber(i);
    Vec3 g;
    Mat3 H;
    const double before = derivatives(i, g, H);
    const Vec3 old = at(i);
    if (paths_.curveOf[w] >= 0) {
        if (sides(i) != 0) return false;
        const MeasuredCurve& c = paths_.curves[static_cast<std::size_t>(paths_.curveOf[w])];
        const double s = paths_.along[w];
        const Vec3 t = c.tangent(s);
        const double h = t.dot(H * t);
        if (!(h > 0.0)) return false;
        const double ds = -t.dot(g) / h;
        double best = s;
        const bool moved = search(i, before, ds * t, [&](double f) {
            best = std::clamp(s + f * ds, 0.0, c.length());
            return c.place(best);
        });
        if (moved) paths_.along[w] = best;
        return moved;
    }
    const double size = sizeAround(i);
    const auto hit = model_.nearest(old, size, lastFacet_[w]);
    lastFacet_[w] = hit.facet;
    if (hit.facet < 0) return false;  // the image of a side point that the model does not reach
    if (slide(i, normalOf(hit.facet), before, g, H, size, hit)) return true;
    // A point that has come to lie on an edge sees one side of it as nearest, and may belong on another.
    if (before < 3.0 * kCube * (start_[static_cast<std::size_t>(i) + 1] - start_[static_cast<std::size_t>(i)]))
        return false;
    Box near;
    near.add(old - Vec3::Constant(1e-4 * size));
    near.add(old + Vec3::Constant(1e-4 * size));
    std::vector<Vec3> tried{normalOf(hit.facet)};
    bool moved = false;
    model_.forEachNear(near, [&](std::int32_t f) {
        const Vec3 n = normalOf(f);
        if (moved || n.isZero() ||
            std::any_of(tried.begin(), tried.end(), [&](const Vec3& t) { return std::abs(t.dot(n)) > 0.95; }))
            return;
        tried.push_back(n);
        moved = slide(i, n, before, g, H, size, hit);
    });
    return moved;
}

Vec3 CellShaper::Shaper::normalOf(std::int32_t facet) const {
    const Vec3 n = model_.areaVector(facet);
    return n.norm() > 0.0 ? n.normalized() : Vec3::Zero().eval();
}

bool CellShaper::Shaper::slide(Index i, const Vec3& n, double before, const Vec3& g, const Mat3& H, double size,
                               const shape::TriangleTree::Nearest& now) {
    if (n.isZero()) return false;
    const Vec3 old = at(i);
    const auto held = sides(i);
    Mat3 P = Mat3::Identity() - n * n.transpose();
    for (int k = 0; k < 3; ++k)
        if (holds(held, k)) {
            const Vec3 t = n.cross(Vec3::Unit(k));
            if (t.norm() < 0.1) return false;
            P = t * t.transpose() / t.squaredNorm();
        }
    const Mat3 Hp = P * H * P + (Mat3::Identity() - P) * H.trace();
    const Vec3 step = -P * Hp.ldlt().solve(P * g);
    // Next to a thin edge the step may come out on its other side; lifted towards the air, across the step, it does
    // not.
    const double s2 = step.squaredNorm();
    if (!(s2 > 0.0)) return false;
    const Vec3 lift = s_.points[static_cast<std::size_t>(w_.point[wallNumber(i)])] - old;
    const Vec3 across = lift - lift.dot(step) / s2 * step;
    return search(i, before, step, [&](double t) -> Vec3 {
        // The model is no farther than the point has come from it.
        const auto beside = [&](const Vec3& by) {
            return onModelInSides(model_, old + by, held, air_, by.norm() + now.distance + 1e-6 * size, now.facet)
                .point;
        };
        const Vec3 plain = beside(t * step), lifted = beside(t * (step + 0.5 * across));
        if ((plain - lifted).squaredNorm() < 1e-6 * size * size) return plain;
        Vec3& x = x_[static_cast<std::size_t>(i)];
        x = plain;
        const double e = around(i);
        x = lifted;
        return around(i) < e ? lifted : plain;
    });
}

}  // namespace cvane::grid
