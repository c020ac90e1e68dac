#include "flow/limiter.h"

#include <algorithm>
#include <cmath>

namespace cvane::flow {
namespace {
constexpr double kThin = 0.25;
}

GradientLimiter::GradientLimiter(const Piece& p, Limiter where, bool atBends) : piece_(p) {
    start_.assign(1, 0);
    if (where == Limiter::None) return;
    std::vector<double> bad(p.stored(), 0.0), thick(p.stored(), 0.0);
    for (std::size_t f = 0; f < p.faces(); ++f) {
        thick[static_cast<std::size_t>(p.P[f])] = std::max(thick[static_cast<std::size_t>(p.P[f])], p.area[f]);
        if (f < p.inner) thick[static_cast<std::size_t>(p.N[f])] = std::max(thick[static_cast<std::size_t>(p.N[f])], p.area[f]);
    }
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) thick[c] = p.V[c] / thick[c];
    p.halo.exchange(thick);
    for (std::size_t f = 0; f < p.linked; ++f) {
        if (!(p.area[f] > 0.0)) continue;
        const auto P = static_cast<std::size_t>(p.P[f]), N = static_cast<std::size_t>(p.N[f]);
        const double l = p.d[f].norm(), dn = p.d[f].dot(p.S[f]);
        const Vec3 r = p.xf[f] - p.x[P];
        const double aside = dn > 0.0 ? (r - p.d[f] * (r.dot(p.S[f]) / dn)).norm() : 1e300;
        // Where thin cells bend round the model, the face lies aside by as much as they are thick, and a wall layer's steep profile
        // rebuilt there goes wild.
        const bool bent = atBends && aside > kThin * std::min(thick[P], thick[N]);
        if (aside > 0.4 * l || bent || dn < 0.45 * l * p.area[f]) bad[P] = bad[N] = 1.0;
    }
    p.halo.exchange(bad);
    auto wide = bad;
    for (std::size_t f = 0; f < p.linked; ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]), N = static_cast<std::size_t>(p.N[f]);
        if (bad[P] > 0.0) wide[N] = 1.0;
        if (bad[N] > 0.0) wide[P] = 1.0;
    }
    std::vector<std::int32_t> place(static_cast<std::size_t>(p.cells), -1);
    for (LocalCell c = 0; c < p.cells; ++c)
        if (where == Limiter::AllCells || wide[static_cast<std::size_t>(c)] > 0.0) {
            place[static_cast<std::size_t>(c)] = static_cast<std::int32_t>(poor_.size());
            poor_.push_back(c);
        }
    std::vector<std::vector<std::int32_t>> faces(poor_.size());
    for (std::size_t f = 0; f < p.faces(); ++f) {
        const auto i = place[static_cast<std::size_t>(p.P[f])];
        if (i >= 0) faces[static_cast<std::size_t>(i)].push_back(static_cast<std::int32_t>(f));
        if (f >= p.inner) continue;
        const auto j = place[static_cast<std::size_t>(p.N[f])];
        if (j >= 0) faces[static_cast<std::size_t>(j)].push_back(static_cast<std::int32_t>(f));
    }
    for (const auto& list : faces) {
        face_.insert(face_.end(), list.begin(), list.end());
        start_.push_back(static_cast<std::int32_t>(face_.size()));
    }
}

template <int width, class Value, class Bound, class Get, class Scale>
void GradientLimiter::limit(Value&& value, Bound&& atBoundary, const std::vector<char>& uses, Get&& change, Scale&& scale) const {
    const Piece& p = piece_;
    for (std::size_t i = 0; i < poor_.size(); ++i) {
        const auto c = static_cast<std::size_t>(poor_[i]);
        for (int k = 0; k < width; ++k) {
            const double own = value(c, k);
            double low = own, high = own;
            for (auto e = start_[i]; e < start_[i + 1]; ++e) {
                const auto f = static_cast<std::size_t>(face_[static_cast<std::size_t>(e)]);
                double other;
                if (p.isBoundary(f)) {
                    if (!uses[f - p.linked]) continue;
                    other = atBoundary(f - p.linked, k);
                } else {
                    other = value(static_cast<std::size_t>(p.P[f]) == c ? static_cast<std::size_t>(p.N[f]) : static_cast<std::size_t>(p.P[f]), k);
                }
                low = std::min(low, other);
                high = std::max(high, other);
            }
            double a = 1.0;
            for (auto e = start_[i]; e < start_[i + 1]; ++e) {
                const auto f = static_cast<std::size_t>(face_[static_cast<std::size_t>(e)]);
                // A velocity that the boundary does not know is not rebuilt there either; a pressure is, for the loads.
                if (width > 1 && p.isBoundary(f) && !uses[f - p.linked]) continue;
                const double d = change(c, k, p.xf[f] - p.x[c]);
                if (d > high - own) a = std::min(a, (high - own) / d);
                if (d < low - own) a = std::min(a, (low - own) / d);
            }
            if (a < 1.0) scale(c, k, a);
        }
    }
}

void GradientLimiter::operator()(const std::vector<double>& phi, const std::vector<double>& b, const std::vector<char>& uses, std::vector<Vec3>& g) const {
    limit<1>([&](std::size_t c, int) { return phi[c]; }, [&](std::size_t i, int) { return b[i]; }, uses, [&](std::size_t c, int, const Vec3& r) { return g[c].dot(r); },
             [&](std::size_t c, int, double a) { g[c] *= a; });
    piece_.halo.exchange(g);
}

void GradientLimiter::operator()(const std::vector<Vec3>& u, const std::vector<Vec3>& b, const std::vector<char>& uses, std::vector<Mat3>& g) const {
    limit<3>([&](std::size_t c, int k) { return u[c][k]; }, [&](std::size_t i, int k) { return b[i][k]; }, uses,
             [&](std::size_t c, int k, const Vec3& r) { return g[c].row(k).dot(r); }, [&](std::size_t c, int k, double a) { g[c].row(k) *= a; });
    piece_.halo.exchange(g);
}

}  // namespace cvane::flow
