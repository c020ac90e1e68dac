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
        if (f < p.inner)
            thick[static_cast<std::size_t>(p.N[f])] = std::max(thick[static_cast<std::size_t>(p.N[f])], p.area[f]);
    }
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) thick[c] = p.V[c] / thick[c];
    p.halo.exchange(thick);
    for (std::size_t f = 0; f < p.linked; ++f) {
        if (!(p.area[f] > 0.0)) continue;
        const auto P = static_cast<std::size_t>(p.P[f]), N = static_cast<std::size_t>(p.N[f]);
        const double l = p.d[f].norm(), dn = p.d[f].dot(p.S[f]);
        const Vec3 r = p.xf[f] - p.x[P];
        const double aside = dn > 0.0 ? (r - p.d[f] * (r.dot(p.S[f]) / dn)).norm() : 1e300;
        // Where thin cells bend round the model, the face lies aside by as much as they are thick, and a wall layer's
        // steep profile rebuilt there goes wild.
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
    struct Beside {
        std::int32_t face, beyond;
    };
    std::vector<std::vector<Beside>> faces(poor_.size());
    for (std::size_t f = 0; f < p.faces(); ++f) {
        const auto i = place[static_cast<std::size_t>(p.P[f])], face = static_cast<std::int32_t>(f);
        if (i >= 0)
            faces[static_cast<std::size_t>(i)].push_back(
                {face, p.isBoundary(f) ? -1 - static_cast<std::int32_t>(f - p.linked) : p.N[f]});
        if (f >= p.inner) continue;
        const auto j = place[static_cast<std::size_t>(p.N[f])];
        if (j >= 0) faces[static_cast<std::size_t>(j)].push_back({face, p.P[f]});
    }
    for (const auto& list : faces) {
        for (const Beside& b : list) {
            face_.push_back(b.face);
            beyond_.push_back(b.beyond);
        }
        start_.push_back(static_cast<std::int32_t>(face_.size()));
    }
}

template <class T, class G>
void GradientLimiter::limit(const std::vector<T>& phi, const std::vector<T>& atBoundary, const std::vector<char>& uses,
                            std::vector<G>& gradient) const {
    constexpr int width = sizeof(T) / sizeof(double);  // NOLINT(bugprone-sizeof-expression): T is a number or three
    using Values = Eigen::Array<double, width, 1>;
    const auto of = [](const T& v) { return Eigen::Map<const Values>(reinterpret_cast<const double*>(&v)); };
    const Piece& p = piece_;
    for (std::size_t i = 0; i < poor_.size(); ++i) {
        const auto c = static_cast<std::size_t>(poor_[i]);
        const Values own = of(phi[c]);
        Values low = own, high = own;
        for (auto e = start_[i]; e < start_[i + 1]; ++e) {
            const auto beyond = beyond_[static_cast<std::size_t>(e)];
            const auto b = static_cast<std::size_t>(-1 - beyond);
            if (beyond < 0 && !uses[b]) continue;
            const Values other = of(beyond < 0 ? atBoundary[b] : phi[static_cast<std::size_t>(beyond)]);
            low = low.min(other);
            high = high.max(other);
        }
        low -= own;
        high -= own;
        // A row for each component.
        Eigen::Map<Eigen::Matrix<double, width, 3, width == 1 ? Eigen::RowMajor : Eigen::ColMajor>> slope(
            gradient[c].data());
        // The value rebuilt farthest up and down says by how much the slope has to give in.
        Values up = Values::Zero(), down = Values::Zero();
        for (auto e = start_[i]; e < start_[i + 1]; ++e) {
            const auto beyond = beyond_[static_cast<std::size_t>(e)];
            // A velocity that the boundary does not know is not rebuilt there either; a pressure is, for the loads.
            if (width > 1 && beyond < 0 && !uses[static_cast<std::size_t>(-1 - beyond)]) continue;
            const Values d = slope * (p.xf[static_cast<std::size_t>(face_[static_cast<std::size_t>(e)])] - p.x[c]);
            up = up.max(d);
            down = down.min(d);
        }
        Values a = Values::Ones();
        for (int k = 0; k < width; ++k) {
            if (up[k] > high[k]) a[k] = high[k] / up[k];
            if (down[k] < low[k]) a[k] = std::min(a[k], low[k] / down[k]);
        }
        slope.array().colwise() *= a;
    }
    p.halo.exchange(gradient);
}

void GradientLimiter::operator()(const std::vector<double>& phi, const std::vector<double>& b,
                                 const std::vector<char>& uses, std::vector<Vec3>& g) const {
    limit(phi, b, uses, g);
}
void GradientLimiter::operator()(const std::vector<Vec3>& u, const std::vector<Vec3>& b, const std::vector<char>& uses,
                                 std::vector<Mat3>& g) const {
    limit(u, b, uses, g);
}

}  // namespace cvane::flow
