#include "section/potential/panelling.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"

namespace cvane::section {
namespace {
constexpr double kStraight = 0.03;  ///< a panel that turns less is straight [rad]
constexpr int kMostParts = 8;
}  // namespace

Panels panelsOf(const Contour& contour, const Panelling& p) {
    const auto refuse = [](const char* what, double is, double low, double high) {
        throw base::InputError(fmt::format("{} is {:g}.", what, is), "panels",
                               fmt::format("Give {:g} to {:g}.", low, high));
    };
    if (p.panels < 40 || p.panels > 600) refuse("their number", p.panels, 40, 600);
    if (!(p.noseCluster >= 0.0 && p.noseCluster <= 5.0)) refuse("the clustering at the nose", p.noseCluster, 0, 5);
    if (!(p.tailSize >= 0.05 && p.tailSize <= 2.0)) refuse("the size at the tail", p.tailSize, 0.05, 2);
    auto points = contour.points;
    if ((points.front() - points.back()).norm() < kSharpGap)
        points.front() = points.back() = 0.5 * (points.front() + points.back());
    const Spline curve(points);
    const double L = curve.length();
    const int fine = 8 * p.panels;
    const double h = L / fine;
    std::vector<double> density(static_cast<std::size_t>(fine) + 1);
    for (int i = 0; i <= fine; ++i)
        density[static_cast<std::size_t>(i)] =
            std::min(std::sqrt(std::abs(curve.curvature(i * h))), 16.0) * 3.0 * p.noseCluster;
    // Diffused over about one mean panel: no kink of the outline may draw all nodes to itself.
    for (int turn = 0; turn < 30; ++turn) {
        auto next = density;
        for (int i = 1; i < fine; ++i)
            next[static_cast<std::size_t>(i)] = 0.25 * density[static_cast<std::size_t>(i - 1)] +
                                                0.5 * density[static_cast<std::size_t>(i)] +
                                                0.25 * density[static_cast<std::size_t>(i + 1)];
        density = next;
    }
    double mean = 0.0;
    for (double& d : density) {
        d += 1.0;
        mean += d / (fine + 1);
    }
    // Towards the tail the density rises to that of the wanted last panel, by exp(-distance / 6 %) of the chord.
    for (int i = 0; i <= fine; ++i) {
        const double d = std::min(i * h, L - i * h);
        density[static_cast<std::size_t>(i)] += std::max(0.0, mean / p.tailSize - 1.0) * std::exp(-d / 0.06);
    }
    std::vector<double> sum(density.size(), 0.0);
    for (std::size_t i = 1; i < sum.size(); ++i) sum[i] = sum[i - 1] + 0.5 * (density[i] + density[i - 1]);
    Panels out;
    std::vector<double> at;
    std::size_t k = 0;
    for (int j = 0; j <= p.panels; ++j) {
        const double want = sum.back() * j / p.panels;
        while (k + 2 < sum.size() && sum[k + 1] < want) ++k;
        at.push_back((static_cast<double>(k) + (want - sum[k]) / (sum[k + 1] - sum[k])) * h);
        out.nodes.push_back(curve.at(at.back()));
    }
    out.nodes.front() = points.front(), out.nodes.back() = points.back();
    for (std::size_t j = 0; j + 1 < at.size(); ++j) {
        const double step = at[j + 1] - at[j], turn = std::abs(curve.curvature(at[j] + 0.5 * step)) * step;
        const int parts = std::clamp(static_cast<int>(std::ceil(turn / kStraight)), 1, kMostParts);
        auto& between = out.between.emplace_back();
        for (int i = 1; i < parts; ++i) between.push_back(curve.at(at[j] + step * i / parts));
    }
    return out;
}

}  // namespace cvane::section
