#include "section/outline/spline.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.h"

namespace cvane::section {

Spline::Spline(std::vector<Vec2> points) : p_(std::move(points)) {
    const std::size_t n = p_.size();
    if (n < 3) throw base::InputError(fmt::format("a curve through {} points is not known.", n), "section", "");
    s_.assign(n, 0.0);
    for (std::size_t i = 1; i < n; ++i) {
        const double step = (p_[i] - p_[i - 1]).norm();
        if (!(step > 0.0))
            throw base::InputError(fmt::format("points {} and {} coincide.", i, i + 1), "section", "Delete one.");
        s_[i] = s_[i - 1] + step;
    }
    m_.assign(n, Vec2::Zero());
    if (n == 3) {  // the parabola
        const Vec2 bend =
            2.0 * ((p_[2] - p_[1]) / (s_[2] - s_[1]) - (p_[1] - p_[0]) / (s_[1] - s_[0])) / (s_[2] - s_[0]);
        m_.assign(n, bend);
        return;
    }
    // h_(i-1) m_(i-1) + 2 (h_(i-1) + h_i) m_i + h_i m_(i+1) = 6 (slope_i - slope_(i-1)) for the inner points; the end's
    // m_0 = m_1 - (m_2 - m_1) h_0 / h_1 is put in beforehand.
    const auto h = [&](std::size_t i) { return s_[i + 1] - s_[i]; };
    const std::size_t inner = n - 2;
    std::vector<double> below(inner), diagonal(inner), above(inner);
    std::vector<Vec2> right(inner);
    for (std::size_t k = 0; k < inner; ++k) {
        const std::size_t i = k + 1;
        below[k] = h(i - 1), diagonal[k] = 2.0 * (h(i - 1) + h(i)), above[k] = h(i);
        right[k] = 6.0 * ((p_[i + 1] - p_[i]) / h(i) - (p_[i] - p_[i - 1]) / h(i - 1));
    }
    const double a = h(0) / h(1), b = h(n - 2) / h(n - 3);
    diagonal[0] += below[0] * (1.0 + a), above[0] -= below[0] * a;
    diagonal[inner - 1] += above[inner - 1] * (1.0 + b), below[inner - 1] -= above[inner - 1] * b;
    for (std::size_t k = 1; k < inner; ++k) {
        const double f = below[k] / diagonal[k - 1];
        diagonal[k] -= f * above[k - 1];
        right[k] -= f * right[k - 1];
    }
    for (std::size_t k = inner; k-- > 0;)
        m_[k + 1] = (right[k] - (k + 1 < inner ? above[k] * m_[k + 2] : Vec2(0.0, 0.0))) / diagonal[k];
    m_[0] = m_[1] - a * (m_[2] - m_[1]);
    m_[n - 1] = m_[n - 2] + b * (m_[n - 2] - m_[n - 3]);
}

std::size_t Spline::piece(double s) const {
    const auto it = std::upper_bound(s_.begin() + 1, s_.end() - 1, s);
    return static_cast<std::size_t>(it - s_.begin()) - 1;
}

Vec2 Spline::at(double s) const {
    const std::size_t i = piece(s);
    const double h = s_[i + 1] - s_[i], b = (s - s_[i]) / h, a = 1.0 - b;
    return a * p_[i] + b * p_[i + 1] + (h * h / 6.0) * ((a * a * a - a) * m_[i] + (b * b * b - b) * m_[i + 1]);
}

Vec2 Spline::slope(double s) const {
    const std::size_t i = piece(s);
    const double h = s_[i + 1] - s_[i], b = (s - s_[i]) / h, a = 1.0 - b;
    return (p_[i + 1] - p_[i]) / h + (h / 6.0) * ((1.0 - 3.0 * a * a) * m_[i] + (3.0 * b * b - 1.0) * m_[i + 1]);
}

Vec2 Spline::bend(double s) const {
    const std::size_t i = piece(s);
    const double b = (s - s_[i]) / (s_[i + 1] - s_[i]);
    return (1.0 - b) * m_[i] + b * m_[i + 1];
}

double Spline::curvature(double s) const {
    const Vec2 d = slope(s), dd = bend(s);
    return (d.x() * dd.y() - d.y() * dd.x()) / std::pow(d.squaredNorm(), 1.5);
}

double Spline::extreme(const Vec2& axis, double s0, double s1) const {
    double d0 = slope(s0).dot(axis), d1 = slope(s1).dot(axis);
    if (d0 * d1 > 0.0) return at(s0).dot(axis) > at(s1).dot(axis) ? s0 : s1;
    for (int turn = 0; turn < 60; ++turn) {
        const double s = 0.5 * (s0 + s1), d = slope(s).dot(axis);
        (d * d0 > 0.0 ? s0 : s1) = s;
    }
    return 0.5 * (s0 + s1);
}

}  // namespace cvane::section
