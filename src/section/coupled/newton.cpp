#include "section/coupled/newton.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "section/coupled/dense.h"

namespace cvane::section {
namespace {

using Rows = Eigen::Matrix<double, 4, Eigen::Dynamic, Eigen::RowMajor>;  ///< theta, C, u, m of a station
using Eigen::Index;

constexpr double kConverged = 1e-6;
constexpr double kLeastStep = 0.1;
constexpr int kRough = 14;  ///< steps after which a place of transition that still jumps is taken by the hand

/// How speeds follow from mass defects (signed along the contour at the nodes, then those of the wake).
struct Coupling {
    Eigen::MatrixXd E;      ///< rows: nodes (signed speeds), wake from its second node; columns: nodes, wake
    Eigen::MatrixX2d wind;  ///< the same rows, in winds along x and z
};

Coupling couplingOf(const PanelFlow& flow, const std::vector<Vec2>& wake) {
    const auto N = static_cast<Index>(flow.count()), W = static_cast<Index>(wake.size());
    Coupling c;
    c.E = Eigen::MatrixXd::Zero(N + W - 1, N + W);
    c.wind = Eigen::MatrixX2d::Zero(N + W - 1, 2);
    c.E.topLeftCorner(N, N) = flow.fromOwnDefect();
    c.wind.topRows(N) = flow.winds();
    const auto place = [&](Index w) -> const Vec2& { return wake[static_cast<std::size_t>(w)]; };
    // Sources of the wake are the differences of m over a piece's length.
    const Eigen::MatrixXd bySource = flow.fromWakeSources(wake);
    const auto addSource = [&](Index row, Index piece, double by) {
        const double L = (place(piece + 1) - place(piece)).norm();
        c.E(row, N + piece) -= by / L;
        c.E(row, N + piece + 1) += by / L;
    };
    for (Index i = 0; i < N; ++i)
        for (Index j = 0; j + 1 < W; ++j) addSource(i, j, bySource(i, j));
    Eigen::MatrixXd bySpeed(W - 1, N), byDefect(W - 1, N);
    for (Index w = 1; w < W; ++w) {
        const Vec2 back = place(w) - place(w - 1), on = w + 1 < W ? place(w + 1) - place(w) : back;
        const Vec2 along = (back.normalized() + on.normalized()).normalized();
        Eigen::RowVectorXd a(N), b(N);
        flow.velocityRows(place(w), along, a, b);
        bySpeed.row(w - 1) = a;
        byDefect.row(w - 1) = b;
        c.wind.row(N + w - 1) = along.transpose();
        // A speed between the middles of the pieces on both sides, by the difference of the potential there: at the
        // node itself the speed of sources that differ is infinite.
        const Vec2 before = 0.5 * (place(w) + place(w - 1)), after = place(w) + 0.5 * on;
        const double length = (after - before).norm();
        for (Index j = 0; j + 1 < W; ++j)
            addSource(
                N + w - 1, j,
                (sourcePotential(place(j), place(j + 1), after) - sourcePotential(place(j), place(j + 1), before)) /
                    length);
    }
    c.E.bottomRows(W - 1).noalias() += bySpeed * c.E.topRows(N);
    c.E.bottomLeftCorner(W - 1, N) += byDefect;
    c.wind.bottomRows(W - 1).noalias() += bySpeed * c.wind.topRows(N);
    return c;
}

class Newton {
  public:
    Newton(const PanelFlow& flow, const SectionCase& c, FlowState& s, std::optional<double> lift)
        : flow_(flow), case_(c), s_(s), lift_(lift), coupling_(couplingOf(flow, s.wake)) {
        N_ = static_cast<Index>(flow.count());
        W_ = static_cast<Index>(s.wake.size());
        start_ = N_ + W_ - 1;
        angle_ = start_ + 1;
        unknowns_ = angle_ + (lift ? 1 : 0);
        rows_.assign(static_cast<std::size_t>(N_ + W_), Rows::Zero(4, unknowns_ + 1));
        wakeBehind_.assign(static_cast<std::size_t>(W_), 0.0);
        for (std::size_t w = 1; w < wakeBehind_.size(); ++w)
            wakeBehind_[w] = wakeBehind_[w - 1] + (s.wake[w] - s.wake[w - 1]).norm();
    }

    /// One step. @return the relative change, rms
    double step(bool gently) {
        for (const Side side : {Side::Upper, Side::Lower}) moved_ |= findTransition(flow_, s_, case_, side, gently);
        if (s_.stagnation != rowsFor_)  // columns of the side that a node has left
            for (Rows& r : rows_) r.setZero();
        rowsFor_ = s_.stagnation;
        sideRows(Side::Upper);
        sideRows(Side::Lower);
        wakeRows();
        return update(solve());
    }
    bool takeMoved() {
        const bool was = moved_;
        moved_ = false;
        return was;
    }

  private:
    Rows& rowsOf(std::size_t i) { return rows_[i]; }
    Rows& wakeRowsOf(std::size_t w) { return rows_[static_cast<std::size_t>(N_) + w]; }
    double sign(Index node) const { return node <= static_cast<Index>(s_.stagnation) ? -1.0 : 1.0; }
    Station station(std::size_t i) const { return {s_.theta[i], s_.m[i], s_.C[i], s_.u[i], lengthTo(flow_, s_, i)}; }
    Station wakeStation(std::size_t w) const {
        return {s_.wakeTheta[w], s_.wakeM[w], s_.wakeC[w], s_.wakeU[w], 1.0 + wakeBehind_[w]};
    }

    /// Changes of theta, C and u at a station by those of everything ahead of it and of its own m. Of the columns only
    /// those of the stations ahead are touched: from `low` to `high`, and the start's, the angle's and the constant.
    void eliminate(Rows& here, const Rows* first, const Equations& e, double startSign, Index own, Index low,
                   Index high) {
        const Eigen::Matrix3d inverse = -e.bySecond.leftCols<3>().inverse();
        const Eigen::Matrix<double, 3, 4> carry = inverse * e.byFirst;
        if (first) {
            carryOn(here, *first, carry, low, high - low + 1);
            carryOn(here, *first, carry, start_, unknowns_ + 1 - start_);
        } else {
            here.setZero();
        }
        here.row(3).setZero();
        here(3, own) = 1.0;
        here.col(own).head<3>() = inverse * e.bySecond.col(3);
        here.col(start_).head<3>() += startSign * (inverse * e.byStart);
        here.col(unknowns_).head<3>() += inverse * e.residual;
    }
    static void carryOn(Rows& here, const Rows& first, const Eigen::Matrix<double, 3, 4>& carry, Index from,
                        Index count) {
        const double* f[4];
        for (int m = 0; m < 4; ++m) f[m] = first.data() + m * first.cols() + from;
        for (int r = 0; r < 3; ++r) {
            double* to = here.data() + r * here.cols() + from;
            const double c0 = carry(r, 0), c1 = carry(r, 1), c2 = carry(r, 2), c3 = carry(r, 3);
            for (Index k = 0; k < count; ++k) to[k] = c0 * f[0][k] + c1 * f[1][k] + c2 * f[2][k] + c3 * f[3][k];
        }
    }

    void sideRows(Side side) {
        const auto nodes = nodesOf(s_, side);
        const double startSign = side == Side::Upper ? 1.0 : -1.0, trip = tripLength(flow_, s_, case_, side);
        IntervalCase c{case_.air, Regime::Laminar, 0.0, 0.0};
        const auto which = static_cast<std::size_t>(side);
        s_.transitionPath[which] = flow_.path()[nodes.back()];
        s_.tripped[which] = false;
        turns_[which] = false;
        for (std::size_t j = 0; j < nodes.size(); ++j) {
            const std::size_t i = nodes[j];
            Rows& here = rowsOf(i);
            const auto own = static_cast<Index>(i);
            const Index low = std::min(own, static_cast<Index>(nodes[0])),
                        high = std::max(own, static_cast<Index>(nodes[0]));
            if (j == 0) {
                eliminate(here, nullptr, atStagnation(station(i), c), startSign, own, low, high);
                continue;
            }
            const std::size_t before = nodes[j - 1];
            if (s_.turbulent[i] && !s_.turbulent[before]) {
                here.setZero();
                here(3, own) = 1.0;
                turn(side, before, i, c, trip, startSign);
                continue;
            }
            c.regime = s_.turbulent[i] ? Regime::Turbulent : Regime::Laminar;
            const Equations e = between(station(before), station(i), c);
            eliminate(here, &rowsOf(before), e, startSign, own, low, high);
        }
    }

    /// The stretch in which a side turns turbulent: the place is one unknown more, and goes with the station.
    void turn(Side side, std::size_t before, std::size_t i, const IntervalCase& c, double trip, double startSign) {
        const auto which = static_cast<std::size_t>(side);
        const Station first = station(before), second = station(i);
        double& share = s_.share[which];
        const double tripped = (trip - first.s) / (second.s - first.s);
        auto t = throughTransition(first, second, c, case_.nCritical, share);
        // Tripped, where the free transition lies behind the trip.
        s_.tripped[which] = tripped <= 1.0 && (share >= tripped || share <= 0.0 || t.excess < 0.0) &&
                            throughTransition(first, second, c, case_.nCritical, std::max(tripped, 0.0)).excess <= 0.0;
        if (s_.tripped[which]) {
            share = std::max(tripped, 0.0);
            t = throughTransition(first, second, c, case_.nCritical, share);
        }
        Rows& here = rowsOf(i);
        const Rows& ahead = rowsOf(before);
        const bool free = !s_.tripped[which];
        Eigen::Matrix4d A = Eigen::Matrix4d::Zero();
        A.topLeftCorner<3, 3>() = t.flow.bySecond.leftCols<3>();
        A.topRightCorner<3, 1>() = t.byShare;
        A(3, 3) = 1.0;
        Eigen::Matrix<double, 4, Eigen::Dynamic, Eigen::RowMajor> right(4, unknowns_ + 1);
        right.topRows<3>() = -t.flow.byFirst * ahead - t.flow.bySecond.col(3) * here.row(3);
        right.row(3).setZero();
        right.col(start_).head<3>() -= startSign * t.flow.byStart;
        right.col(unknowns_).head<3>() -= t.flow.residual;
        if (free) {
            // Behind the place nothing grows any more: what says so must not leave the system singular.
            A.row(3) << t.excessBySecond.leftCols<3>(), std::max(t.excessByShare, 0.2);
            right.row(3) = -t.excessByFirst * ahead - t.excessBySecond[3] * here.row(3);
            right(3, start_) -= startSign * t.excessByStart;
            right(3, unknowns_) -= t.excess;
        }
        const Rows all = A.partialPivLu().inverse() * right;
        here.topRows<3>() = all.topRows<3>();
        shareRow_[which] = all.row(3);
        turns_[which] = free;
        const double at = std::clamp(share, 0.0, 1.0);
        s_.transitionPath[which] = (1.0 - at) * flow_.path()[before] + at * flow_.path()[i];
    }

    void wakeRows() {
        const std::size_t up = 0, low = static_cast<std::size_t>(N_) - 1;
        const double gap = flow_.baseGap();
        // The wake's first node is made of the two edges.
        Rows& first = wakeRowsOf(0);
        const double theta = s_.theta[up] + s_.theta[low];
        const auto stress = [&](std::size_t i) {
            return s_.turbulent[i] ? s_.C[i]
                                   : kStartStress * closureOf(station(i), case_.air, Regime::Turbulent, 0.0).balance;
        };
        const double cu = stress(up), cl = stress(low);
        s_.wakeTheta[0] = theta;
        s_.wakeU[0] = 0.5 * (s_.u[up] + s_.u[low]);
        s_.wakeM[0] = s_.m[up] + s_.m[low] + gap * edgeSpeed(s_.wakeU[0], case_.air);
        s_.wakeC[0] = (s_.theta[up] * cu + s_.theta[low] * cl) / theta;
        const Rows &a = rowsOf(up), &b = rowsOf(low);
        first.row(0) = a.row(0) + b.row(0);
        first.row(1) = ((cu - s_.wakeC[0]) * a.row(0) + (cl - s_.wakeC[0]) * b.row(0)) / theta;
        if (s_.turbulent[up]) first.row(1) += s_.theta[up] / theta * a.row(1);
        if (s_.turbulent[low]) first.row(1) += s_.theta[low] / theta * b.row(1);
        first.row(2) = 0.5 * (a.row(2) + b.row(2));
        first.row(3) = a.row(3) + b.row(3) + gap * first.row(2);
        IntervalCase c{case_.air, Regime::Wake, 0.0, 0.0};
        for (std::size_t w = 1; w < static_cast<std::size_t>(W_); ++w) {
            Rows& here = wakeRowsOf(w);
            c.deadFirst = deadAir(gap, wakeBehind_[w - 1]);
            c.deadSecond = deadAir(gap, wakeBehind_[w]);
            eliminate(here, &wakeRowsOf(w - 1), between(wakeStation(w - 1), wakeStation(w), c), 0.0,
                      N_ + static_cast<Index>(w) - 1, 0, start_ - 1);
        }
    }

    /// Changes of the unknowns.
    Eigen::VectorXd solve() {
        const Index rows = N_ + W_ - 1;
        RowMatrix& A = matrix_;
        A.setZero(unknowns_, unknowns_);
        Eigen::VectorXd right = Eigen::VectorXd::Zero(unknowns_);
        Eigen::VectorXd defects(N_ + W_);
        for (Index i = 0; i < N_; ++i) defects[i] = sign(i) * s_.m[static_cast<std::size_t>(i)];
        for (Index w = 0; w < W_; ++w) defects[N_ + w] = s_.wakeM[static_cast<std::size_t>(w)];
        const Eigen::Vector2d way(std::cos(s_.alpha), std::sin(s_.alpha)), turn(-way.y(), way.x());
        const Eigen::VectorXd said = coupling_.E * defects + coupling_.wind * way;
        // sign du - E dm = said - sign u
        A.topLeftCorner(rows, N_) = -coupling_.E.leftCols(N_);
        for (Index i = 0; i <= static_cast<Index>(s_.stagnation); ++i) A.col(i) *= -1.0;
        A.block(0, N_, rows, W_ - 1) = -coupling_.E.rightCols(W_ - 1);
        const Rows& edge = wakeRowsOf(0);
        A.topRows(rows).noalias() -= coupling_.E.col(N_) * edge.row(3).head(unknowns_);
        right.head(rows) = said + coupling_.E.col(N_) * edge(3, unknowns_);
        for (Index i = 0; i < rows; ++i) {
            const bool node = i < N_;
            const auto& r =
                node ? rowsOf(static_cast<std::size_t>(i)) : wakeRowsOf(static_cast<std::size_t>(i - N_ + 1));
            const double sg = node ? sign(i) : 1.0;
            const double u = node ? s_.u[static_cast<std::size_t>(i)] : s_.wakeU[static_cast<std::size_t>(i - N_ + 1)];
            A.row(i) += sg * r.row(2).head(unknowns_);
            right[i] -= sg * (u + r(2, unknowns_));
        }
        // The stagnation point lies between its two nodes by their speeds.
        const std::size_t k = s_.stagnation;
        const double a = s_.u[k], b = s_.u[k + 1], h = flow_.path()[k + 1] - flow_.path()[k];
        const double fa = h * b / ((a + b) * (a + b)), fb = -h * a / ((a + b) * (a + b));
        A.row(start_) -= fa * rowsOf(k).row(2).head(unknowns_) + fb * rowsOf(k + 1).row(2).head(unknowns_);
        A(start_, start_) += 1.0;
        right[start_] = fa * rowsOf(k)(2, unknowns_) + fb * rowsOf(k + 1)(2, unknowns_);
        if (lift_) {
            A.block(0, angle_, rows, 1) -= coupling_.wind * turn;
            const Eigen::VectorXd speed = signedSpeeds(s_);
            const double now = liftOf(flow_, case_.air, speed, s_.alpha), e = 1e-6;
            right[angle_] = *lift_ - now;
            A(angle_, angle_) = (liftOf(flow_, case_.air, speed, s_.alpha + e) - now) / e;
            for (Index i = 0; i < N_; ++i) {
                Eigen::VectorXd other = speed;
                other[i] += e;
                const double by = sign(i) * (liftOf(flow_, case_.air, other, s_.alpha) - now) / e;
                const Rows& r = rowsOf(static_cast<std::size_t>(i));
                A.row(angle_) += by * r.row(2).head(unknowns_);
                right[angle_] -= by * r(2, unknowns_);
            }
        }
        return solveDense(A, right);
    }

    double update(const Eigen::VectorXd& change) {
        Eigen::VectorXd full(unknowns_ + 1);
        full << change, 1.0;
        const std::size_t nodes = static_cast<std::size_t>(N_), count = nodes + static_cast<std::size_t>(W_);
        std::vector<Eigen::Vector4d> d(count);
        double square = 0.0, relax = 1.0;
        const auto limit = [&](double relative) {
            if (relative > 0.0 && relative * relax > 1.5) relax = 1.5 / relative;
            if (relative < 0.0 && -relative * relax > 0.5) relax = -0.5 / relative;
        };
        for (std::size_t i = 0; i < count; ++i) {
            d[i] = rows_[i] * full;
            if (i == nodes) continue;  // made of the edges
            const bool node = i < nodes;
            const std::size_t w = i - (node ? 0 : nodes);
            const double theta = node ? s_.theta[w] : s_.wakeTheta[w], m = node ? s_.m[w] : s_.wakeM[w];
            const double C = node ? s_.C[w] : s_.wakeC[w];
            const bool stress = !node || s_.turbulent[w];
            const double a = d[i][0] / theta, b = d[i][3] / m, s = stress ? d[i][1] / C : d[i][1] / 10.0;
            square += a * a + b * b + s * s + d[i][2] * d[i][2] / 0.0625;
            limit(a);
            limit(b);
            if (stress) limit(s);
            limit(d[i][2] / 0.25);
            limit(-d[i][2] / 0.25);
        }
        const double rms = std::sqrt(square / (4.0 * static_cast<double>(count)));
        if (!std::isfinite(rms)) return rms;
        // One station far off may not hold up all the others: it alone is held.
        relax = std::max(relax, kLeastStep);
        if (lift_) {
            const double most = 0.5 * 3.14159265 / 180.0;
            if (std::abs(change[angle_]) * relax > most) relax = most / std::abs(change[angle_]);
            s_.alpha += relax * change[angle_];
        }
        for (std::size_t i = 0; i < count; ++i) {
            if (i == nodes) continue;
            const bool node = i < nodes;
            const std::size_t w = i - (node ? 0 : nodes);
            double& theta = node ? s_.theta[w] : s_.wakeTheta[w];
            double& m = node ? s_.m[w] : s_.wakeM[w];
            double& C = node ? s_.C[w] : s_.wakeC[w];
            double& u = node ? s_.u[w] : s_.wakeU[w];
            const auto within = [&](double by, double size) { return std::clamp(by, -0.5 * size, 1.5 * size); };
            theta += within(relax * d[i][0], theta);
            C += !node || s_.turbulent[w] ? within(relax * d[i][1], C) : relax * d[i][1];
            u += std::clamp(relax * d[i][2], -0.3, 0.3);
            m += within(relax * d[i][3], m);
            if (!node || s_.turbulent[w]) C = std::clamp(C, 1e-5, 0.5);
        }
        for (std::size_t side = 0; side < 2; ++side)
            if (turns_[side]) s_.share[side] += std::clamp(relax * shareRow_[side].dot(full), -0.5, 0.5);
        findStagnation(flow_, s_, case_);
        for (double& u : s_.u) u = std::max(u, 1e-5);
        // No layer is thinner in mass defect than its momentum thickness allows.
        for (std::size_t i = 0; i < nodes; ++i)
            s_.m[i] = std::max(s_.m[i], kLeastH * s_.theta[i] * edgeSpeed(s_.u[i], case_.air));
        for (std::size_t w = 1; w < s_.wakeM.size(); ++w)
            s_.wakeM[w] =
                std::max(s_.wakeM[w], (kLeastWakeH * s_.wakeTheta[w] + deadAir(flow_.baseGap(), wakeBehind_[w])) *
                                          edgeSpeed(s_.wakeU[w], case_.air));
        return relax < 1.0 ? std::max(rms, 1e-3) : rms;
    }

    const PanelFlow& flow_;
    const SectionCase& case_;
    FlowState& s_;
    std::optional<double> lift_;
    Coupling coupling_;
    Index N_, W_, start_, angle_, unknowns_;
    std::vector<Rows> rows_;
    RowMatrix matrix_;  ///< kept, since its memory is asked for at every step
    std::size_t rowsFor_ = 0;
    std::vector<double> wakeBehind_;
    std::array<Eigen::RowVectorXd, 2> shareRow_;
    std::array<bool, 2> turns_{};
    bool moved_ = false;
};

}  // namespace

double pressureAt(double u, const LayerAir& air) {
    const double cp = 1.0 - u * u;
    if (air.mach <= 0.0) return cp;
    const double b = std::sqrt(1.0 - air.mach * air.mach);
    return cp / (b + air.mach * air.mach / (1.0 + b) * 0.5 * cp);
}

double liftOf(const PanelFlow& flow, const LayerAir& air, const Eigen::VectorXd& speed, double alpha) {
    const Vec2 up(-std::sin(alpha), std::cos(alpha));
    const std::size_t n = flow.count();
    double sum = 0.0;
    for (std::size_t i = 0; i < n; ++i) {
        const std::size_t next = (i + 1) % n;
        const Vec2 d = flow.nodes()[next] - flow.nodes()[i];
        // Outward normal of a counter-clockwise contour times length: (dz, -dx); the pressure pushes inward.
        const Vec2 normal(d.y(), -d.x());
        sum -= 0.5 *
               (pressureAt(speed[static_cast<Index>(i)], air) + pressureAt(speed[static_cast<Index>(next)], air)) *
               normal.dot(up);
    }
    return sum;
}

Settled solveCoupled(const PanelFlow& flow, const SectionCase& c, FlowState& state, std::optional<double> lift,
                     int mostIterations) {
    Newton newton(flow, c, state, lift);
    Settled out;
    for (out.iterations = 1; out.iterations <= mostIterations; ++out.iterations) {
        out.residual = newton.step(out.iterations > kRough);
        if (!std::isfinite(out.residual)) break;
        const bool moved = newton.takeMoved();
        if (out.residual < kConverged && !moved) {
            out.converged = true;
            break;
        }
    }
    return out;
}

}  // namespace cvane::section
