#include "lifting/ring_equations.h"

#include <future>

namespace cvane::lifting {
namespace {
Eigen::Index index(std::size_t i) {
    return static_cast<Eigen::Index>(i);
}

// What each ring of strength 1 lets through some panels: a row a panel, a column a ring.
Eigen::MatrixXd throughPanels(const VortexField& field, const std::vector<Vec3>& control,
                              const std::vector<Vec3>& normal, const std::vector<std::size_t>& panels) {
    // Column by column in memory: a panel is a column here and a row in what is returned.
    Eigen::MatrixXd out = Eigen::MatrixXd::Zero(index(control.size()), index(panels.size()));
    const auto n = static_cast<std::ptrdiff_t>(panels.size());
    const auto& filaments = field.filaments();
#pragma omp parallel
    {
        Velocities v;
#pragma omp for schedule(static)
        for (std::ptrdiff_t i = 0; i < n; ++i) {
            const auto here = panels[static_cast<std::size_t>(i)];
            const Vec3& up = normal[here];
            field.each(control[here], v);
            for (std::size_t k = 0; k < filaments.size(); ++k) {
                const auto f = index(k);
                const double through = v.x[f] * up.x() + v.y[f] * up.y() + v.z[f] * up.z();
                if (filaments[k].with >= 0) out(filaments[k].with, i) += through;
                if (filaments[k].against >= 0) out(filaments[k].against, i) -= through;
            }
        }
    }
    return out.transpose();
}

std::vector<std::size_t> firstNumbers(std::size_t n) {
    std::vector<std::size_t> out(n);
    for (std::size_t i = 0; i < n; ++i) out[i] = i;
    return out;
}
}  // namespace

RingEquations::RingEquations(const VortexField& field, const std::vector<Vec3>& control,
                             const std::vector<Vec3>& normal, std::vector<Vec3> middle,
                             std::optional<MirrorPairs> pairs)
    : field_(field), middle_(std::move(middle)), pairs_(std::move(pairs)) {
    if (pairs_)
        factorHalves(control, normal);
    else
        whole_ =
            std::make_unique<const DenseSolver>(throughPanels(field_, control, normal, firstNumbers(control.size())));
}

// An even flow has the same circulation in both panels of a pair and none in the plane; an odd one has the opposite
// ones in a pair. What a pair lets through a panel in the plane is twice what one of it does.
void RingEquations::factorHalves(const std::vector<Vec3>& control, const std::vector<Vec3>& normal) {
    const auto &star = pairs_->starboard, &port = pairs_->port, &mid = pairs_->middle;
    auto panels = star;
    panels.insert(panels.end(), mid.begin(), mid.end());
    const Eigen::MatrixXd A = throughPanels(field_, control, normal, panels);
    const Eigen::Index n = index(star.size()), m = index(mid.size());
    Eigen::MatrixXd even(n, n), odd(n + m, n + m);
    for (Eigen::Index k = 0; k < n; ++k) {
        const auto s = A.col(index(star[static_cast<std::size_t>(k)])),
                   p = A.col(index(port[static_cast<std::size_t>(k)]));
        even.col(k) = (s + p).head(n);
        odd.col(k) = s - p;
    }
    for (Eigen::Index k = 0; k < m; ++k) odd.col(n + k) = A.col(index(mid[static_cast<std::size_t>(k)]));
    // A core each.
    auto other = std::async(std::launch::async, [&] { return std::make_unique<const DenseSolver>(std::move(odd)); });
    if (n > 0) even_ = std::make_unique<const DenseSolver>(std::move(even));
    odd_ = other.get();
}

// The starboard half of that part of a flow, the plane's panels after it in an odd one.
Eigen::MatrixXd RingEquations::halvesOf(const Eigen::MatrixXd& b, Parity parity) const {
    const auto &star = pairs_->starboard, &port = pairs_->port, &mid = pairs_->middle;
    const bool odd = parity == Parity::Odd;
    Eigen::MatrixXd out(index(star.size() + (odd ? mid.size() : 0)), b.cols());
    const double sign = odd ? -1.0 : 1.0;
    for (std::size_t k = 0; k < star.size(); ++k)
        out.row(index(k)) = 0.5 * (b.row(index(star[k])) + sign * b.row(index(port[k])));
    if (odd)
        for (std::size_t k = 0; k < mid.size(); ++k) out.row(index(star.size() + k)) = b.row(index(mid[k]));
    return out;
}

// What halvesOf() folds, unfolded.
Eigen::VectorXd RingEquations::wholeOf(const Eigen::VectorXd& half, Parity parity) const {
    const auto &star = pairs_->starboard, &port = pairs_->port, &mid = pairs_->middle;
    const bool odd = parity == Parity::Odd;
    Eigen::VectorXd out = Eigen::VectorXd::Zero(index(star.size() + port.size() + mid.size()));
    for (std::size_t k = 0; k < star.size(); ++k) {
        out[index(star[k])] = half[index(k)];
        out[index(port[k])] = odd ? -half[index(k)] : half[index(k)];
    }
    if (odd)
        for (std::size_t k = 0; k < mid.size(); ++k) out[index(mid[k])] = half[index(star.size() + k)];
    return out;
}

namespace {
// Flows that have a part of this parity.
std::vector<Eigen::Index> flowsWith(Parity part, const std::vector<Parity>& parity) {
    std::vector<Eigen::Index> out;
    for (std::size_t c = 0; c < parity.size(); ++c)
        if (parity[c] == part || parity[c] == Parity::Neither) out.push_back(index(c));
    return out;
}
}  // namespace

Eigen::MatrixXd RingEquations::solve(const Eigen::MatrixXd& b, const std::vector<Parity>& parity) const {
    if (whole_) return whole_->solve(b);
    Eigen::MatrixXd out = Eigen::MatrixXd::Zero(b.rows(), b.cols());
    for (const Parity part : {Parity::Even, Parity::Odd}) {
        const auto& solver = part == Parity::Even ? even_ : odd_;
        const auto columns = flowsWith(part, parity);
        if (!solver || columns.empty()) continue;
        const Eigen::MatrixXd x = solver->solve(halvesOf(b(Eigen::all, columns), part));
        for (std::size_t c = 0; c < columns.size(); ++c) out.col(columns[c]) += wholeOf(x.col(index(c)), part);
    }
    return out;
}

Eigen::MatrixXd RingEquations::inducedBy(const Eigen::MatrixXd& circulation, const std::vector<Parity>& parity) const {
    if (whole_) return field_.at(middle_, strengthsOf(field_.filaments(), circulation));
    // Flows that are neither are parted, solved for on one side, and put together again.
    std::vector<std::pair<Eigen::Index, Parity>> of;  // column of the result, and its part
    for (const Parity part : {Parity::Even, Parity::Odd})
        for (const auto c : flowsWith(part, parity)) of.emplace_back(c, part);
    Eigen::MatrixXd flows(circulation.rows(), index(of.size()));
    for (std::size_t f = 0; f < of.size(); ++f)
        flows.col(index(f)) = wholeOf(halvesOf(circulation.col(of[f].first), of[f].second), of[f].second);
    const auto& own = pairs_->own;
    std::vector<Vec3> places;
    for (const auto k : own) places.push_back(middle_[k]);
    const Eigen::MatrixXd v = field_.at(places, strengthsOf(field_.filaments(), flows));
    Eigen::MatrixXd out = Eigen::MatrixXd::Zero(3 * index(middle_.size()), circulation.cols());
    for (std::size_t f = 0; f < of.size(); ++f)
        for (std::size_t k = 0; k < own.size(); ++k) {
            const Vec3 here = v.col(index(f)).segment<3>(3 * index(k));
            out.col(of[f].first).segment<3>(3 * index(own[k])) += here;
            const auto image = pairs_->filament[own[k]];
            if (image != own[k])
                out.col(of[f].first).segment<3>(3 * index(image)) +=
                    (of[f].second == Parity::Odd ? -1.0 : 1.0) * Vec3(here.x(), -here.y(), here.z());
        }
    return out;
}

}  // namespace cvane::lifting
