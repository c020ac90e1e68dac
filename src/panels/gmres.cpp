#include "panels/gmres.h"

#include <cmath>
#include <vector>

namespace cvane::panels {
namespace {
constexpr int kRestart = 60;
}

Solved solveByGmres(const Operator& apply, const Operator& precondition, const Eigen::VectorXd& right, double tolerance,
                    int most, const std::function<bool(int, double)>& going) {
    Solved out;
    out.x = Eigen::VectorXd::Zero(right.size());
    const double scale = right.norm();
    if (scale == 0.0) return out;
    out.residual = 1.0;
    while (out.iterations < most && out.residual > tolerance) {
        const Eigen::VectorXd r = out.iterations == 0 ? right : (right - apply(out.x)).eval();
        const double beta = r.norm();
        out.residual = beta / scale;
        if (out.residual <= tolerance) break;
        std::vector<Eigen::VectorXd> basis{r / beta}, conditioned;
        Eigen::MatrixXd h = Eigen::MatrixXd::Zero(kRestart + 1, kRestart);
        Eigen::VectorXd g = Eigen::VectorXd::Zero(kRestart + 1);
        g[0] = beta;
        std::vector<Eigen::JacobiRotation<double>> turns;
        int k = 0;
        bool stop = false;
        for (; k < kRestart && out.iterations < most && !stop; ++k) {
            conditioned.push_back(precondition(basis.back()));
            Eigen::VectorXd w = apply(conditioned.back());
            for (int i = 0; i <= k; ++i) {
                h(i, k) = w.dot(basis[static_cast<std::size_t>(i)]);
                w -= h(i, k) * basis[static_cast<std::size_t>(i)];
            }
            h(k + 1, k) = w.norm();
            const double next = h(k + 1, k);
            for (int i = 0; i < k; ++i) {
                const auto [c, s] =
                    std::pair{turns[static_cast<std::size_t>(i)].c(), turns[static_cast<std::size_t>(i)].s()};
                const double u = h(i, k), v = h(i + 1, k);
                h(i, k) = c * u + s * v;
                h(i + 1, k) = -s * u + c * v;
            }
            const double size = std::hypot(h(k, k), h(k + 1, k));
            const double c = h(k, k) / size, s = h(k + 1, k) / size;
            turns.emplace_back(c, s);
            h(k, k) = size;
            h(k + 1, k) = 0.0;
            g[k + 1] = -s * g[k];
            g[k] *= c;
            ++out.iterations;
            out.residual = std::abs(g[k + 1]) / scale;
            stop = out.residual <= tolerance || next == 0.0;
            if (going && !going(out.iterations, out.residual)) {
                ++k;
                most = out.iterations;
                break;
            }
            if (!stop) basis.push_back(w / next);
        }
        const Eigen::VectorXd y = h.topLeftCorner(k, k).triangularView<Eigen::Upper>().solve(g.head(k));
        for (int i = 0; i < k; ++i) out.x += y[i] * conditioned[static_cast<std::size_t>(i)];
    }
    return out;
}

}  // namespace cvane::panels
