#include "section/outline/faults.h"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "base/errors.h"

namespace cvane::section {
namespace {

double cross(const Vec2& a, const Vec2& b) {
    return a.x() * b.y() - a.y() * b.x();
}

/// Where the pieces a-b and c-d cross; pieces that only touch do not.
bool crossing(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d, Vec2& place) {
    const Vec2 r = b - a, s = d - c;
    const double k = cross(r, s);
    if (std::abs(k) < 1e-18) return false;
    const double t = cross(c - a, s) / k, u = cross(c - a, r) / k;
    if (t <= 1e-9 || t >= 1.0 - 1e-9 || u <= 1e-9 || u >= 1.0 - 1e-9) return false;
    place = a + t * r;
    return true;
}

void findCrossings(const Contour& c, std::vector<Fault>& out) {
    const auto& p = c.points;
    std::size_t found = 0;
    for (std::size_t i = 0; i + 1 < p.size() && found < 5; ++i)
        for (std::size_t j = i + 2; j + 1 < p.size() && found < 5; ++j) {
            Vec2 at;
            if (std::min(p[i].x(), p[i + 1].x()) > std::max(p[j].x(), p[j + 1].x()) ||
                std::max(p[i].x(), p[i + 1].x()) < std::min(p[j].x(), p[j + 1].x()))
                continue;
            if (!crossing(p[i], p[i + 1], p[j], p[j + 1], at)) continue;
            ++found;
            out.push_back({Fault::Kind::Crossing, at, fmt::format("The outline crosses itself at x/c {:.3f}.", at.x()),
                           Fault::Mend::None});
        }
}

void findTurns(const Contour& c, std::vector<Fault>& out) {
    const auto& p = c.points;
    std::vector<std::pair<double, std::size_t>> back, kink;
    std::vector<double> turn(p.size(), 0.0);
    for (std::size_t i = 1; i + 1 < p.size(); ++i) {
        const Vec2 a = (p[i] - p[i - 1]).normalized(), b = (p[i + 1] - p[i]).normalized();
        turn[i] = std::atan2(cross(a, b), a.dot(b));
        if (std::abs(turn[i]) > 1.9) back.push_back({std::abs(turn[i]), i});
    }
    // A kink: the outline turns far more, or the other way, than at the points on both sides.
    for (std::size_t i = 2; i + 2 < p.size(); ++i) {
        const double around = 0.5 * (turn[i - 1] + turn[i + 1]);
        const double odd = std::abs(turn[i] - around);
        if (odd > 0.06 && odd > 1.5 * std::abs(around) && p[i].x() > 0.03 && std::abs(turn[i]) <= 1.9)
            kink.push_back({odd, i});
    }
    const auto add = [&](auto& list, Fault::Kind kind, const char* words, Fault::Mend mend) {
        std::sort(list.rbegin(), list.rend());
        for (std::size_t k = 0; k < std::min<std::size_t>(5, list.size()); ++k)
            out.push_back(
                {kind, p[list[k].second],
                 fmt::format("{} at x/c {:.3f} (point {}).", words, p[list[k].second].x(), list[k].second + 1), mend});
    };
    add(back, Fault::Kind::OutOfOrder, "The outline turns back", Fault::Mend::None);
    add(kink, Fault::Kind::Kink, "The outline has a kink", Fault::Mend::Refair);
}

}  // namespace

std::vector<Fault> faultsOf(const Contour& c) {
    std::vector<Fault> out;
    findCrossings(c, out);
    findTurns(c, out);
    const Figures f = measure(c);
    std::size_t nose = 0;
    for (const Vec2& p : c.points) nose += (p - f.nose).norm() < 0.02 * f.chord;
    if (nose < 5)
        out.push_back({Fault::Kind::FewAtNose, f.nose,
                       fmt::format("Only {} points lie within 2 % of the nose: its radius is a guess.", nose),
                       Fault::Mend::Refair});
    if (f.gap > 0.015)
        out.push_back({Fault::Kind::OpenTail, f.tail,
                       fmt::format("The trailing edge is {:.1f} % of the chord thick.", 100.0 * f.gap),
                       Fault::Mend::CloseTail});
    if (std::abs(f.angle) > 0.002 || std::abs(f.chord - 1.0) > 0.005 || f.nose.norm() > 0.005)
        out.push_back({Fault::Kind::OffChord, f.nose,
                       fmt::format("The chord line is {:.2f} deg off and {:.4f} long.", f.angle * 57.29577951, f.chord),
                       Fault::Mend::OntoChord});
    return out;
}

Contour refaired(const Contour& contour, double& departs) {
    const Contour unit = onUnitChord(contour);
    const TwoSides sides = sidesOf(unit);
    constexpr int kOrder = 8;
    departs = 0.0;
    const auto shape = [](double x, int k) {  // Bernstein
        double b = 1.0;
        for (int i = 1; i <= k; ++i) b *= static_cast<double>(kOrder - i + 1) / i;
        return b * std::pow(x, k) * std::pow(1.0 - x, kOrder - k);
    };
    const auto smooth = [&](const std::vector<Vec2>& side) {
        const double end = side.back().y();
        Eigen::MatrixXd A(static_cast<Eigen::Index>(side.size()), kOrder + 1);
        Eigen::VectorXd z(static_cast<Eigen::Index>(side.size()));
        for (std::size_t i = 0; i < side.size(); ++i) {
            const double x = std::clamp(side[i].x(), 0.0, 1.0), root = std::sqrt(x) * (1.0 - x);
            for (int k = 0; k <= kOrder; ++k) A(static_cast<Eigen::Index>(i), k) = root * shape(x, k);
            z[static_cast<Eigen::Index>(i)] = side[i].y() - x * end;
        }
        const Eigen::VectorXd a = A.colPivHouseholderQr().solve(z);
        departs = std::max(departs, (A * a - z).cwiseAbs().maxCoeff());
        std::vector<Vec2> out;
        for (const double x : cosinePlaces(90)) {
            double v = 0.0;
            for (int k = 0; k <= kOrder; ++k) v += a[k] * shape(x, k);
            out.push_back({x, std::sqrt(x) * (1.0 - x) * v + x * end});
        }
        return out;
    };
    return fromSides(contour.name, smooth(sides.upper), smooth(sides.lower));
}

Contour withClosedTail(const Contour& contour) {
    const Contour unit = onUnitChord(contour);
    TwoSides sides = sidesOf(unit);
    const double half = 0.5 * (sides.upper.back().y() - sides.lower.back().y());
    for (Vec2& p : sides.upper) p.y() -= half * std::max(0.0, p.x());
    for (Vec2& p : sides.lower) p.y() += half * std::max(0.0, p.x());
    sides.lower.back() = sides.upper.back() = 0.5 * (sides.upper.back() + sides.lower.back());
    return fromSides(contour.name, sides.upper, sides.lower);
}

Contour cutAt(const Contour& contour, double x) {
    if (!(x >= 0.5 && x <= 1.0))
        throw base::InputError(fmt::format("the cut is at x/c {:g}.", x), contour.name, "Give 0.5 to 1.");
    TwoSides sides = sidesOf(onUnitChord(contour));
    for (auto* side : {&sides.upper, &sides.lower}) {
        std::size_t k = side->size() - 1;
        while (k > 1 && (*side)[k - 1].x() >= x) --k;
        const Vec2 a = (*side)[k - 1], b = (*side)[k];
        if (b.x() > x) {
            const Vec2 end = a + (x - a.x()) / (b.x() - a.x()) * (b - a);
            side->resize(k);
            side->push_back(end);
        }
    }
    return onUnitChord(fromSides(contour.name, sides.upper, sides.lower));
}

Contour mended(const Contour& contour, Fault::Mend mend) {
    double departs = 0.0;
    switch (mend) {
        case Fault::Mend::Refair:
            return refaired(contour, departs);
        case Fault::Mend::CloseTail:
            return withClosedTail(contour);
        case Fault::Mend::CutTail:
            return cutAt(contour, 0.98);
        case Fault::Mend::OntoChord:
            return onUnitChord(contour);
        case Fault::Mend::None:
            break;
    }
    return contour;
}

}  // namespace cvane::section
