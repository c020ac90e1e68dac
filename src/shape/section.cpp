#include "shape/section.h"

#include <cmath>

namespace cvane::shape {

SectionLine fourDigitSection(double m, double p, double t, int n) {
    const double pi = std::acos(-1.0);
    std::vector<std::pair<double, double>> upper, lower;
    for (int i = 0; i <= n; ++i) {
        const double x = 0.5 * (1.0 - std::cos(pi * i / n));
        const double yt =
            5.0 * t *
            (0.2969 * std::sqrt(x) - 0.1260 * x - 0.3516 * x * x + 0.2843 * x * x * x - 0.1036 * x * x * x * x);
        double yc = 0.0, slope = 0.0;
        if (m > 0.0) {
            const double q = x < p ? p : 1.0 - p;
            yc = x < p ? m / (q * q) * (2.0 * p * x - x * x) : m / (q * q) * (1.0 - 2.0 * p + 2.0 * p * x - x * x);
            slope = 2.0 * m / (q * q) * (p - x);
        }
        const double s = std::sin(std::atan(slope)), c = std::cos(std::atan(slope));
        upper.push_back({x - yt * s, yc + yt * c});
        lower.push_back({x + yt * s, yc - yt * c});
    }
    upper.back() = lower.back() = {1.0, 0.0};
    SectionLine line(upper.rbegin(), upper.rend());
    line.insert(line.end(), lower.begin() + 1, lower.end());
    return line;
}

}  // namespace cvane::shape
