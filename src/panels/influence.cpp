#include "panels/influence.h"

#include <omp.h>

#include <atomic>

namespace cvane::panels {
namespace {
constexpr std::size_t kLeaf = 48;
// Sizes of a panel within which its patch is taken in 16 and in 4 pieces.
constexpr double kNearest = 1.5, kVeryNear = 3.0;

Vec3 middleOf(const Triangle& t) {
    return (t[0] + t[1] + t[2]) / 3.0;
}

shape::Surface seenFromAfar(const BentPanels& bent) {
    shape::Surface s;
    for (std::size_t i = 0; i < bent.place.size(); ++i) {
        const auto first = static_cast<std::int32_t>(s.points.size());
        for (const Vec3& corner : bent.fromAfar(i)) s.points.push_back(corner);
        s.facets.push_back({first, first + 1, first + 2});
    }
    return s;
}
}  // namespace

std::vector<std::function<Vec3(const Vec3&)>> Mirrors::views() const {
    std::vector<std::function<Vec3(const Vec3&)>> out{[](const Vec3& p) { return p; }};
    if (inY) out.push_back([](const Vec3& p) { return Vec3(p.x(), -p.y(), p.z()); });
    if (ground) {
        const double twice = 2.0 * *ground;
        const auto above = out;
        for (const auto& view : above)
            out.push_back([view, twice](const Vec3& p) {
                const Vec3 q = view(p);
                return Vec3(q.x(), q.y(), twice - q.z());
            });
    }
    return out;
}

int Influence::levelOf(const Vec3& place, std::size_t panel) const {
    const double sizes = (place - bent_.place[panel]).squaredNorm() / (2.0 * panels_.area[panel]);
    return sizes > kVeryNear * kVeryNear ? 0 : sizes > kNearest * kNearest ? 1 : 2;
}

Influence::Influence(const Panels& panels, const BentPanels& bent, const Mirrors& mirrors, double opening,
                     const base::Progress& progress)
    : panels_(panels), bent_(bent), far_(seenFromAfar(bent)), tree_(far_, kLeaf), views_(mirrors.views()) {
    for (const auto n : tree_.leaves()) leaves_.push_back({n, {}, {}, {}});
    const auto& nodes = tree_.nodes();
    std::atomic<bool> stopped = false;
    std::atomic<std::size_t> done = 0;
#pragma omp parallel for schedule(dynamic, 4)
    for (std::size_t l = 0; l < leaves_.size(); ++l) {
        if (stopped) continue;
        Leaf& leaf = leaves_[l];
        const auto& own = nodes[leaf.node];
        for (const auto& view : views_) {
            Leaf::View v;
            Box box;
            for (std::size_t k = own.first; k < own.first + own.count; ++k) {
                const Vec3 p = view(bent_.place[tree_.order()[k]]);
                v.x.push_back(p.x());
                v.y.push_back(p.y());
                v.z.push_back(p.z());
                box.add(p);
            }
            const Vec3 centre = box.centre();
            const double reach = 0.5 * box.size().norm();
            std::vector<std::size_t> open{0};
            while (!open.empty()) {
                const std::size_t n = open.back();
                open.pop_back();
                const auto& node = nodes[n];
                if (node.reach < opening * ((node.centre - centre).norm() - reach))
                    v.far.push_back(n);
                else if (node.leaf())
                    v.near.push_back(n);
                else
                    for (const int c : {0, 1}) open.push_back(static_cast<std::size_t>(node.firstChild + c));
            }
            for (const auto n : v.near) {
                const auto& node = nodes[n];
                for (std::size_t j = node.first; j < node.first + node.count; ++j) {
                    const std::size_t i = tree_.order()[j];
                    const std::vector<Triangle> inPieces[] = {{}, bent_.pieces(i, 1), bent_.pieces(i, 2)};
                    for (std::size_t k = 0; k < v.x.size(); ++k) {
                        const bool self = leaf.views.empty() && n == leaf.node && j == own.first + k;
                        const Vec3 place(v.x[k], v.y[k], v.z[k]);
                        const int level = levelOf(place, i);
                        if (level == 0) {
                            leaf.doublet.push_back(static_cast<float>(doubletAt(place, far_.triangle(i))));
                            continue;
                        }
                        const auto& pieces = inPieces[level];
                        double sum = 0.0;
                        Vec3 growing = Vec3::Zero();
                        // A place lies in the plane of the piece about it.
                        for (std::size_t q = self ? 1 : 0; q < pieces.size(); ++q) {
                            const double one = doubletAt(place, pieces[q]);
                            sum += one;
                            growing +=
                                growingDoubletAt(place, pieces[q]) + one * (middleOf(pieces[q]) - bent_.place[i]);
                        }
                        leaf.doublet.push_back(static_cast<float>(sum));
                        const Eigen::Vector3f m = growing.cast<float>();
                        leaf.growing.push_back(
                            {static_cast<std::uint32_t>(k), static_cast<std::uint32_t>(i), m.x(), m.y(), m.z()});
                    }
                }
            }
            leaf.views.push_back(std::move(v));
        }
        ++done;
        if (omp_get_thread_num() == 0 && progress &&
            !progress(static_cast<double>(done) / static_cast<double>(leaves_.size()),
                      "what panels make at each other"))
            stopped = true;
    }
    if (stopped) throw base::Cancelled();
}

std::size_t Influence::nearPairs() const {
    std::size_t sum = 0;
    for (const auto& l : leaves_) sum += l.doublet.size();
    return sum;
}

Eigen::VectorXd Influence::ofSources(const Eigen::VectorXd& strength, const std::vector<Vec3>& gradient) const {
    return apply(strength, gradient, false);
}
Eigen::VectorXd Influence::ofDoublets(const Eigen::VectorXd& strength, const std::vector<Vec3>& gradient) const {
    return apply(strength, gradient, true);
}

Eigen::VectorXd Influence::apply(const Eigen::VectorXd& strength, const std::vector<Vec3>& gradient,
                                 bool doublets) const {
    const std::span<const double> given(strength.data(), static_cast<std::size_t>(strength.size()));
    std::vector<double> charge;
    if (!doublets)
        for (std::size_t i = 0; i < given.size(); ++i) charge.push_back(bent_.swell(i) * given[i]);
    const auto moments = doublets ? tree_.moments({}, given) : tree_.moments(charge, {});
    const auto& nodes = tree_.nodes();
    const auto& order = tree_.order();
    Eigen::VectorXd out(strength.size());
#pragma omp parallel for schedule(dynamic, 4)
    for (std::size_t l = 0; l < leaves_.size(); ++l) {
        const Leaf& leaf = leaves_[l];
        const auto& own = nodes[leaf.node];
        std::vector<double> sum(own.count, 0.0);
        std::size_t next = 0;
        for (const auto& v : leaf.views) {
            for (const auto n : v.far)
                addFar(nodes[n], moments[n], own.count, v.x.data(), v.y.data(), v.z.data(), sum.data());
            for (const auto n : v.near)
                for (std::size_t j = nodes[n].first; j < nodes[n].first + nodes[n].count; ++j) {
                    const std::size_t i = order[j];
                    const double s = given[i];
                    if (doublets) {
                        for (std::size_t k = 0; k < own.count; ++k)
                            sum[k] += s * static_cast<double>(leaf.doublet[next + k]);
                        next += own.count;
                    } else {
                        for (std::size_t k = 0; k < own.count; ++k) {
                            const Vec3 place(v.x[k], v.y[k], v.z[k]);
                            const int level = levelOf(place, i);
                            if (level == 0) {
                                sum[k] += charge[i] * potentialsAt(place, far_.triangle(i)).source;
                                continue;
                            }
                            for (const auto& t : bent_.pieces(i, level))
                                sum[k] +=
                                    (s + gradient[i].dot(middleOf(t) - bent_.place[i])) * potentialsAt(place, t).source;
                        }
                    }
                }
        }
        if (doublets)
            for (const auto& g : leaf.growing) {
                const Vec3& along = gradient[g.panel];
                sum[g.place] += static_cast<double>(g.x) * along.x() + static_cast<double>(g.y) * along.y() +
                                static_cast<double>(g.z) * along.z();
            }
        for (std::size_t k = 0; k < own.count; ++k) out[static_cast<Eigen::Index>(order[own.first + k])] = sum[k];
    }
    return out;
}

Eigen::MatrixXd Influence::leafBlock(std::size_t l) const {
    const Leaf& leaf = leaves_[l];
    const auto& own = tree_.nodes()[leaf.node];
    const auto count = static_cast<Eigen::Index>(own.count);
    Eigen::MatrixXd block = Eigen::MatrixXd::Zero(count, count);
    std::size_t next = 0;
    for (const auto& v : leaf.views)
        for (const auto n : v.near)
            for (std::size_t j = 0; j < tree_.nodes()[n].count; ++j, next += own.count) {
                if (n != leaf.node) continue;
                for (Eigen::Index k = 0; k < count; ++k)
                    block(k, static_cast<Eigen::Index>(j)) +=
                        static_cast<double>(leaf.doublet[next + static_cast<std::size_t>(k)]);
            }
    return block;
}

}  // namespace cvane::panels
