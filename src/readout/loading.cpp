#include "readout/loading.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <iterator>
#include <numbers>

#include "base/errors.h"

namespace cvane::readout {
namespace {

// Area of the part of a triangle whose heights lie in [from, to].
double areaBetween(const std::array<Vec3, 3>& p, const std::array<double, 3>& h, double from, double to) {
    std::vector<std::pair<Vec3, double>> polygon;
    for (std::size_t k = 0; k < 3; ++k) polygon.emplace_back(p[k], h[k]);
    const auto clip = [&](double level, double sign) {
        std::vector<std::pair<Vec3, double>> out;
        for (std::size_t k = 0; k < polygon.size(); ++k) {
            const auto &a = polygon[k], &b = polygon[(k + 1) % polygon.size()];
            const double da = sign * (a.second - level), db = sign * (b.second - level);
            if (da >= 0.0) out.push_back(a);
            if ((da < 0.0) == (db < 0.0)) continue;
            const double t = da / (da - db);
            out.emplace_back(a.first + t * (b.first - a.first), level);
        }
        polygon = std::move(out);
    };
    clip(from, 1.0);
    clip(to, -1.0);
    Vec3 twice = Vec3::Zero();
    for (std::size_t k = 1; k + 1 < polygon.size(); ++k)
        twice += (polygon[k].first - polygon[0].first).cross(polygon[k + 1].first - polygon[0].first);
    return 0.5 * twice.norm();
}
}  // namespace

Vec3 Loading::total() const {
    Vec3 sum = Vec3::Zero();
    for (const auto& s : strips) sum += s.force();
    return sum;
}

Loading loadingAlong(const grid::Grid& g, const grid::Geometry& geometry, const WallField& field,
                     const air::FreeStream& wind, const Vec3& axis, int strips, const std::vector<std::string>& parts) {
    if (!(axis.norm() > 0.0))
        throw base::InputError("has an axis of no length.", "the loading", "Give three numbers that are not all zero.");
    if (strips < 1) throw base::InputError("has no strips.", "the loading", "Give one or more.");
    Loading out;
    out.axis = axis.normalized();
    std::vector<std::size_t> counted;
    for (std::size_t i = 0; i < field.face.size(); ++i) {
        bool counts = parts.empty();
        for (const auto& p : g.patches)
            if (!counts && field.face[i] >= p.first && field.face[i] < p.first + p.count)
                counts = std::find(parts.begin(), parts.end(), p.name) != parts.end();
        if (counts) counted.push_back(i);
    }
    if (counted.empty()) throw base::InputError("has no walls to be loaded.", "the loading", "Choose other parts.");
    const auto heightOf = [&](std::int32_t p) { return g.points[static_cast<std::size_t>(p)].dot(out.axis); };
    double low = 1e300, high = -1e300;
    for (const auto i : counted)
        for (const auto p : g.polygon(field.face[i])) {
            low = std::min(low, heightOf(p));
            high = std::max(high, heightOf(p));
        }
    const double width = (high - low) / strips;
    if (!(width > 0.0)) throw base::InputError("has no extent along the axis.", "the loading", "Choose another axis.");
    out.strips.resize(static_cast<std::size_t>(strips));
    for (int k = 0; k < strips; ++k) {
        auto& s = out.strips[static_cast<std::size_t>(k)];
        s.from = low + width * k;
        s.to = k + 1 == strips ? high : low + width * (k + 1);
    }
    std::vector<double> aftLow(out.strips.size(), 1e300), aftHigh(out.strips.size(), -1e300);
    const double q = wind.dynamicPressure();
    std::vector<double> share(out.strips.size());
    for (const auto i : counted) {
        const auto f = field.face[i];
        const auto polygon = g.polygon(f);
        double least = 1e300, most = -1e300;
        for (const auto p : polygon) {
            least = std::min(least, heightOf(p));
            most = std::max(most, heightOf(p));
        }
        const auto stripOf = [&](double h) {
            return static_cast<std::size_t>(std::clamp(static_cast<int>((h - low) / width), 0, strips - 1));
        };
        const std::size_t first = stripOf(least), last = stripOf(most);
        double whole = 0.0;
        for (std::size_t k = first; k <= last; ++k) {
            share[k] = first == last ? 1.0 : 0.0;
            for (std::size_t c = 1; first != last && c + 1 < polygon.size(); ++c) {
                const std::array<std::int32_t, 3> corner{polygon[0], polygon[c], polygon[c + 1]};
                std::array<Vec3, 3> p;
                std::array<double, 3> h;
                for (std::size_t j = 0; j < 3; ++j) {
                    p[j] = g.points[static_cast<std::size_t>(corner[j])];
                    h[j] = heightOf(corner[j]);
                }
                share[k] += areaBetween(p, h, out.strips[k].from, out.strips[k].to);
            }
            whole += share[k];
        }
        if (!(whole > 0.0)) {
            share[first] = whole = 1.0;
        }
        const Vec3& S = geometry.faceArea[static_cast<std::size_t>(f)];
        for (std::size_t k = first; k <= last; ++k) {
            auto& s = out.strips[k];
            s.pressure += share[k] / whole * q * field.Cp[i] * S;
            s.friction += share[k] / whole * q * S.norm() * field.Cf[i];
            for (const auto p : polygon) {
                const double aft = g.points[static_cast<std::size_t>(p)].dot(wind.dragAxis());
                aftLow[k] = std::min(aftLow[k], aft);
                aftHigh[k] = std::max(aftHigh[k], aft);
            }
        }
    }
    for (std::size_t k = 0; k < out.strips.size(); ++k) out.strips[k].chord = std::max(0.0, aftHigh[k] - aftLow[k]);
    return out;
}

Carried carriedBeyond(const Loading& l, const Vec3& along) {
    Carried out;
    out.shear.resize(l.strips.size());
    out.bending.resize(l.strips.size());
    double shear = 0.0, bending = 0.0;
    for (std::size_t k = l.strips.size(); k-- > 0;) {
        const auto& s = l.strips[k];
        const double own = s.force().dot(along), width = s.to - s.from;
        // A strip's force acts in its middle.
        bending += shear * width + 0.5 * own * width;
        shear += own;
        out.shear[k] = shear;
        out.bending[k] = bending;
    }
    return out;
}

std::optional<double> spanEfficiency(const Loading& l, const Vec3& liftAxis, bool half) {
    // Circulation over the span's angle, -b/2 cos(angle): by least squares over the strips, each as its mean.
    const double tip = l.strips.back().to, root = half ? 0.0 : l.strips.front().from;
    const double b = half ? 2.0 * tip : tip - root, middle = half ? 0.0 : 0.5 * (tip + root);
    if (!(b > 0.0) || std::abs(l.total().dot(liftAxis)) < 1e-300) return std::nullopt;
    constexpr int kTerms = 12;
    std::vector<double> at, lift;
    for (const auto& s : l.strips) {
        const double y = (s.middle() - middle) / (0.5 * b);
        if (std::abs(y) >= 1.0) continue;
        const double per = s.force().dot(liftAxis) / (s.to - s.from);
        at.push_back(std::acos(-y));
        lift.push_back(per);
        if (!half) continue;
        at.push_back(std::acos(y));
        lift.push_back(per);
    }
    const int terms = std::min<int>(kTerms, static_cast<int>(at.size()) / 2);
    if (terms < 1) return std::nullopt;
    Eigen::MatrixXd A(static_cast<Eigen::Index>(at.size()), terms);
    Eigen::VectorXd y(static_cast<Eigen::Index>(at.size()));
    for (Eigen::Index i = 0; i < y.size(); ++i) {
        y(i) = lift[static_cast<std::size_t>(i)];
        for (int n = 0; n < terms; ++n)
            A(i, n) = std::sin((half ? 2 * n + 1 : n + 1) * at[static_cast<std::size_t>(i)]);
    }
    const Eigen::VectorXd a = A.colPivHouseholderQr().solve(y);
    if (!(std::abs(a(0)) > 0.0)) return std::nullopt;
    double sum = 0.0;
    for (int n = 0; n < terms; ++n) sum += (half ? 2 * n + 1 : n + 1) * a(n) * a(n) / (a(0) * a(0));
    return 1.0 / sum;
}

std::string toCsv(const Loading& l, const air::FreeStream& wind) {
    std::string text =
        "from_m,to_m,drag_N_m,lift_N_m,side_N_m,friction_drag_N_m,chord_m,cl,cd,drag_so_far_N,pressure_drag_so_far_N,"
        "friction_drag_so_far_N,lift_so_far_N,lift_shear_N,lift_bending_Nm\n";
    const double q = wind.dynamicPressure();
    const Vec3 D = wind.dragAxis(), L = wind.liftAxis(), Y = wind.sideAxis();
    const auto carried = carriedBeyond(l, L);
    Vec3 pressure = Vec3::Zero(), friction = Vec3::Zero();
    for (std::size_t k = 0; k < l.strips.size(); ++k) {
        const auto& s = l.strips[k];
        const double width = s.to - s.from, qc = q * s.chord * width;
        pressure += s.pressure;
        friction += s.friction;
        fmt::format_to(
            std::back_inserter(text),
            "{:.6g},{:.6g},{:.6g},{:.6g},{:.6g},{:.6g},{:.6g},{:.5f},{:.6f},{:.6g},{:.6g},{:.6g},{:.6g},{:.6g},"
            "{:.6g}\n",
            s.from, s.to, s.force().dot(D) / width, s.force().dot(L) / width, s.force().dot(Y) / width,
            s.friction.dot(D) / width, s.chord, qc > 0.0 ? s.force().dot(L) / qc : 0.0,
            qc > 0.0 ? s.force().dot(D) / qc : 0.0, (pressure + friction).dot(D), pressure.dot(D), friction.dot(D),
            (pressure + friction).dot(L), carried.shear[k], carried.bending[k]);
    }
    return text;
}

}  // namespace cvane::readout
