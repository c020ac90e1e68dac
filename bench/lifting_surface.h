#pragma once
#include <Eigen/Dense>
#include <cmath>
#include <vector>

namespace cvane::bench {

/// Lift slope [1/rad] of a flat rectangular wing in potential flow with a flat wake: horseshoe vortices on the quarter
/// lines of panels, no flow through their three-quarter points, panels narrower towards the tips. Source: J. Katz, A.
/// Plotkin, Low-Speed Aerodynamics, 2001, ch. 12.
inline double liftSlopeOnPanels(double aspect, int chordwise, int spanwise) {
    const double pi = std::acos(-1.0), dx = 1.0 / chordwise;
    std::vector<double> edge;
    for (int j = 0; j <= spanwise; ++j) edge.push_back(-0.5 * aspect * std::cos(pi * j / spanwise));
    const int n = chordwise * spanwise;
    const auto left = [&](int k) { return edge[static_cast<std::size_t>(k % spanwise)]; };
    const auto right = [&](int k) { return edge[static_cast<std::size_t>(k % spanwise) + 1]; };
    const auto front = [&](int k) { return (k / spanwise) * dx; };
    Eigen::MatrixXd A(n, n);
    for (int i = 0; i < n; ++i)
        for (int k = 0; k < n; ++k) {
            const double x = front(i) + 0.75 * dx - front(k) - 0.25 * dx, y = 0.5 * (left(i) + right(i)),
                         a = y - left(k), b = y - right(k);
            const double ra = std::hypot(x, a), rb = std::hypot(x, b);
            A(i, k) = ((a / ra - b / rb) / x + (1.0 + x / ra) / a - (1.0 + x / rb) / b) / (4.0 * pi);
        }
    const Eigen::VectorXd circulation = A.partialPivLu().solve(Eigen::VectorXd::Ones(n));
    double lift = 0.0;
    for (int k = 0; k < n; ++k) lift += circulation[k] * (right(k) - left(k));
    return 2.0 * lift / aspect;
}

/// The same for endless panels: its error falls with their number to the first power.
inline double liftSlopeOfFlatWing(double aspect) {
    return 2.0 * liftSlopeOnPanels(aspect, 12, 60) - liftSlopeOnPanels(aspect, 6, 30);
}

}  // namespace cvane::bench
