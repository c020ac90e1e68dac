#include "section/potential/panel_flow.h"

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "section/outline/contour.h"

namespace cvane::section {
namespace {

constexpr double kTwoPi = 6.283185307179586;

/// A place seen from the piece a-b: X along it from a, y to its left (the inside of a contour).
struct Seen {
    double L, x1, x2, y;  ///< x2 = x1 - L
    Vec2 t, n;
    double ln1, ln2, angle;  ///< logs of the distances to the ends; angle that the piece is seen under, signed by y

    Seen(const Vec2& a, const Vec2& b, const Vec2& place) {
        const Vec2 d = b - a, r = place - a;
        L = d.norm();
        t = d / L;
        n = Vec2(-t.y(), t.x());
        x1 = r.dot(t), x2 = x1 - L, y = r.dot(n);
        const double tiny = 1e-28 * L * L;
        ln1 = 0.5 * std::log(x1 * x1 + y * y + tiny), ln2 = 0.5 * std::log(x2 * x2 + y * y + tiny);
        angle = std::atan2(y * L, y * y + x1 * x2);
    }
    /// Integral of ln r along the piece.
    double lnr() const { return x1 * ln1 - x2 * ln2 - L + y * angle; }
    /// Integral of xi ln r, xi from a.
    double xiLnr() const {
        const double r1 = x1 * x1 + y * y, r2 = x2 * x2 + y * y;
        return x1 * lnr() - 0.5 * (r1 * ln1 - r2 * ln2) + 0.25 * (r1 - r2);
    }
    /// Integral of the angle at which each point of the piece sees the place, measured from the left normal: it jumps
    /// only straight behind the piece, outside of the contour.
    double angles() const { return -(x1 * std::atan2(x1, y) - x2 * std::atan2(x2, y) - y * (ln1 - ln2)); }
    Vec2 fromSource() const { return ((ln1 - ln2) * t + angle * n) / kTwoPi; }
    /// Velocity by vorticity (clockwise positive) 1 at a falling to 0 at b, and the other way round.
    std::pair<Vec2, Vec2> fromVorticity() const {
        const double lg = ln1 - ln2, dLnr_y = angle, dLnr_x = lg;
        const double dXi_y = x1 * angle - y * lg, dXi_x = lnr() + x1 * lg - (x1 * ln1 - x2 * ln2);
        // psi = integral of gamma ln r / 2 pi; velocity = (d psi / d n) t - (d psi / d t) n
        const auto velocity = [&](double dx, double dy) -> Vec2 { return (dy * t - dx * n) / kTwoPi; };
        return {velocity(dLnr_x - dXi_x / L, dLnr_y - dXi_y / L), velocity(dXi_x / L, dXi_y / L)};
    }
};

}  // namespace

double sourcePotential(const Vec2& a, const Vec2& b, const Vec2& place) {
    return Seen(a, b, place).lnr() / kTwoPi;
}

Vec2 sourceVelocity(const Vec2& a, const Vec2& b, const Vec2& place) {
    return Seen(a, b, place).fromSource();
}

void PanelFlow::cutPieces(const Panels& panels) {
    const std::size_t n = nodes_.size();
    for (std::size_t j = 0; j + 1 < n; ++j) {
        // The last panels take the straight line: what is beyond the edge is another side.
        const bool atEnd = j == 0 || j + 2 == n;
        const std::size_t first = atEnd ? j : j - 1, count = atEnd ? 2 : 4;
        const auto weights = [&](double s) {
            std::array<double, 4> w{};
            for (std::size_t k = 0; k < count; ++k) {
                w[k] = 1.0;
                for (std::size_t l = 0; l < count; ++l)
                    if (l != k) w[k] *= (s - path_[first + l]) / (path_[first + k] - path_[first + l]);
            }
            return w;
        };
        std::array<Eigen::Index, 4> node{};
        for (std::size_t k = 0; k < 4; ++k) node[k] = static_cast<Eigen::Index>(first + std::min(k, count - 1));
        std::vector<Vec2> ends{nodes_[j]};
        ends.insert(ends.end(), panels.between[j].begin(), panels.between[j].end());
        ends.push_back(nodes_[j + 1]);
        const double parts = static_cast<double>(ends.size() - 1);
        for (std::size_t k = 0; k + 1 < ends.size(); ++k) {
            const auto at = [&](std::size_t i) {
                return path_[j] + (path_[j + 1] - path_[j]) * static_cast<double>(i) / parts;
            };
            pieces_.push_back({ends[k], ends[k + 1], j, (ends[k + 1] - ends[k]).norm() / (path_[j + 1] - path_[j]),
                               node, weights(at(k)), weights(at(k + 1))});
        }
    }
}

PanelFlow::PanelFlow(const Panels& panels) : nodes_(panels.nodes) {
    const std::size_t n = nodes_.size();
    const auto N = static_cast<Eigen::Index>(n);
    path_.assign(n, 0.0);
    for (std::size_t i = 1; i < n; ++i) {
        path_[i] = path_[i - 1];
        Vec2 last = nodes_[i - 1];
        for (const Vec2& p : panels.between[i - 1]) path_[i] += (p - last).norm(), last = p;
        path_[i] += (nodes_[i] - last).norm();
    }
    cutPieces(panels);
    const Vec2 up = (nodes_[0] - nodes_[1]).normalized(), down = (nodes_[n - 1] - nodes_[n - 2]).normalized();
    bisector_ = up + down;
    if (!(bisector_.norm() > 1e-6)) bisector_ = Vec2(1.0, 0.0);
    bisector_.normalize();
    const Vec2 base = nodes_[0] - nodes_[n - 1];  // goes on along the contour, over the base
    sharp_ = base.norm() < 0.5 * kSharpGap;
    if (!sharp_) {
        const Vec2 t = base.normalized(), out(t.y(), -t.x());
        gapSource_ = bisector_.dot(out), gapVortex_ = -bisector_.dot(t);
    }

    // Unknowns: vorticity at the nodes (clockwise positive: minus the speed along the contour), stream function on it.
    Eigen::MatrixXd A = Eigen::MatrixXd::Zero(N + 1, N + 1), sources = Eigen::MatrixXd::Zero(N + 1, N - 1);
    Eigen::MatrixX2d wind = Eigen::MatrixX2d::Zero(N + 1, 2);
    for (Eigen::Index i = 0; i < N; ++i) {
        const Vec2& x = nodes_[static_cast<std::size_t>(i)];
        for (const Piece& p : pieces_) {
            const Seen s(p.a, p.b, x);
            const double all = s.lnr() / kTwoPi, second = s.xiLnr() / s.L / kTwoPi;
            for (std::size_t k = 0; k < 4; ++k) A(i, p.node[k]) += p.atA[k] * (all - second) + p.atB[k] * second;
            sources(i, static_cast<Eigen::Index>(p.panel)) += s.angles() / kTwoPi;
        }
        if (!sharp_) {  // edges' speed: half of (first vorticity - last)
            const Seen s(nodes_[n - 1], nodes_[0], x);
            const double by = (gapSource_ * s.angles() + gapVortex_ * s.lnr()) / kTwoPi;
            A(i, 0) += 0.5 * by;
            A(i, N - 1) -= 0.5 * by;
        }
        A(i, N) = -1.0;
        wind(i, 0) = x.y(), wind(i, 1) = -x.x();
    }
    if (sharp_) {
        // First and last node are one: in the place of the last one's equation the air just inside of the edge does not
        // move along the bisector.
        const double step = 0.5 * std::min((nodes_[1] - nodes_[0]).norm(), (nodes_[n - 1] - nodes_[n - 2]).norm());
        const Vec2 inside = nodes_[0] - step * bisector_;
        A.row(N - 1).setZero();
        sources.row(N - 1).setZero();
        for (const Piece& p : pieces_) {
            const Seen s(p.a, p.b, inside);
            const auto [a, b] = s.fromVorticity();
            for (std::size_t k = 0; k < 4; ++k)
                A(N - 1, p.node[k]) += p.atA[k] * a.dot(bisector_) + p.atB[k] * b.dot(bisector_);
            sources(N - 1, static_cast<Eigen::Index>(p.panel)) += s.fromSource().dot(bisector_);
        }
        wind.row(N - 1) = bisector_.transpose();
    }
    A(N, 0) = A(N, N - 1) = 1.0;  // Kutta
    solve_.compute(A);
    winds_ = (solve_.solve(wind)).topRows(N);
    if (!winds_.allFinite() || winds_.cwiseAbs().maxCoeff() > 1e4)
        throw base::InputError("no flow goes around this outline.", "section",
                               "Look whether its sides cross or its points are out of order.");
    // A vorticity = -wind - sources . strength; strength = difference of M over the length; speed = -vorticity.
    Eigen::MatrixXd byDefect = Eigen::MatrixXd::Zero(N + 1, N);
    for (Eigen::Index j = 0; j + 1 < N; ++j) {
        const double L = path_[static_cast<std::size_t>(j + 1)] - path_[static_cast<std::size_t>(j)];
        byDefect.col(j) -= sources.col(j) / L;
        byDefect.col(j + 1) += sources.col(j) / L;
    }
    fromDefect_ = solve_.solve(byDefect).topRows(N);
}

Eigen::MatrixXd PanelFlow::fromWakeSources(const std::vector<Vec2>& wake) const {
    const auto N = static_cast<Eigen::Index>(nodes_.size()), W = static_cast<Eigen::Index>(wake.size()) - 1;
    Eigen::MatrixXd right = Eigen::MatrixXd::Zero(N + 1, W);
    for (Eigen::Index j = 0; j < W; ++j) {
        const Vec2 &a = wake[static_cast<std::size_t>(j)], &b = wake[static_cast<std::size_t>(j + 1)];
        const Vec2 middle = 0.5 * (a + b), back = (b - a).normalized();
        const double L = (b - a).norm();
        // Far from the body a piece is as good as the point in its middle; of the angle only the change over the body
        // counts, and it is measured from upstream, so that its jump lies along the wake.
        for (Eigen::Index i = 0; i < N; ++i) {
            const Vec2& x = nodes_[static_cast<std::size_t>(i)];
            // Two Gauss points: the nearest node may be a piece's length away.
            double angle = 0.0;
            for (const double g : {-0.7745966692414834, 0.0, 0.7745966692414834}) {
                const Vec2 d = x - (middle + 0.5 * g * L * back);
                const double ahead = -d.dot(back), left = -(back.x() * d.y() - back.y() * d.x());
                angle += (g == 0.0 ? 8.0 : 5.0) / 18.0 * std::atan2(left, ahead);
            }
            right(i, j) = L * angle / kTwoPi;
        }
        if (sharp_) {
            const double step = 0.5 * std::min((nodes_[1] - nodes_[0]).norm(),
                                               (nodes_[nodes_.size() - 1] - nodes_[nodes_.size() - 2]).norm());
            right(N - 1, j) = sourceVelocity(a, b, nodes_[0] - step * bisector_).dot(bisector_);
        }
    }
    return solve_.solve(right).topRows(N);
}

void PanelFlow::velocityRows(const Vec2& place, const Vec2& direction, Eigen::Ref<Eigen::RowVectorXd> bySpeed,
                             Eigen::Ref<Eigen::RowVectorXd> byDefect) const {
    const std::size_t n = nodes_.size();
    bySpeed.setZero();
    byDefect.setZero();
    for (const Piece& p : pieces_) {
        const auto j = static_cast<Eigen::Index>(p.panel);
        const Seen s(p.a, p.b, place);
        const auto [a, b] = s.fromVorticity();
        for (std::size_t k = 0; k < 4; ++k)
            bySpeed[p.node[k]] -= p.atA[k] * a.dot(direction) + p.atB[k] * b.dot(direction);
        const double source = s.fromSource().dot(direction) / (path_[p.panel + 1] - path_[p.panel]);
        byDefect[j] -= source;
        byDefect[j + 1] += source;
    }
    if (!sharp_) {
        const Seen s(nodes_[n - 1], nodes_[0], place);
        const auto [a, b] = s.fromVorticity();
        const double by = 0.5 * (gapSource_ * s.fromSource() + gapVortex_ * (a + b)).dot(direction);
        bySpeed[0] -= by;
        bySpeed[static_cast<Eigen::Index>(n) - 1] += by;
    }
}

Vec2 PanelFlow::velocityAt(const Vec2& place, const Eigen::VectorXd& speed, double alpha) const {
    const auto N = static_cast<Eigen::Index>(nodes_.size());
    Eigen::RowVectorXd row(N), unused(N);
    Vec2 v(std::cos(alpha), std::sin(alpha));
    for (int k = 0; k < 2; ++k) {
        velocityRows(place, Vec2::Unit(k), row, unused);
        v[k] += row * speed;
    }
    return v;
}

std::vector<Vec2> wakeLine(const PanelFlow& flow, double alpha, double first, double length, double growth) {
    const auto speed = flow.speedAt(alpha);
    std::vector<Vec2> line{0.5 * (flow.nodes().front() + flow.nodes().back())};
    Vec2 way = flow.bisector();
    double step = first, gone = 0.0;
    while (gone < length) {
        const Vec2 ahead = line.back() + 0.5 * step * way;
        const Vec2 v = flow.velocityAt(ahead, speed, alpha);
        if (v.norm() > 0.2) way = v.normalized();  // in the shade of a blunt base it goes straight on
        if (line.size() == 1) way = flow.bisector();
        line.push_back(line.back() + step * way);
        gone += step;
        step *= growth;
    }
    return line;
}

}  // namespace cvane::section
