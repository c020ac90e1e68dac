#include "panels/panel_tree.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace cvane::panels {

PanelTree::PanelTree(const Panels& panels, std::size_t leafSize) : panels_(panels) {
    order_.resize(panels.size());
    for (std::size_t i = 0; i < order_.size(); ++i) order_[i] = i;
    Node root;
    root.count = order_.size();
    nodes_.push_back(root);
    part(0, leafSize);
}

void PanelTree::part(std::size_t n, std::size_t leafSize) {
    Box box;
    const std::size_t first = nodes_[n].first, count = nodes_[n].count;
    for (std::size_t k = first; k < first + count; ++k)
        for (const auto& c : panels_.triangle(order_[k])) box.add(c);
    nodes_[n].centre = box.centre();
    double reach = 0.0;
    for (std::size_t k = first; k < first + count; ++k)
        for (const auto& c : panels_.triangle(order_[k])) reach = std::max(reach, (c - box.centre()).norm());
    nodes_[n].reach = reach;
    if (count <= leafSize) return;
    // Halves along the longest side: boxes stay as round as the panels allow, and none is empty.
    int axis = 0;
    box.size().maxCoeff(&axis);
    const auto begin = order_.begin() + static_cast<std::ptrdiff_t>(first);
    const auto half = static_cast<std::ptrdiff_t>(count / 2);
    std::nth_element(begin, begin + half, begin + static_cast<std::ptrdiff_t>(count),
                     [&](std::size_t a, std::size_t b) {
                         const double u = panels_.middle[a][axis], v = panels_.middle[b][axis];
                         return u != v ? u < v : a < b;
                     });
    const auto child = nodes_.size();
    nodes_[n].firstChild = static_cast<int>(child);
    Node lower, upper;
    lower.first = first;
    lower.count = static_cast<std::size_t>(half);
    upper.first = first + lower.count;
    upper.count = count - lower.count;
    nodes_.push_back(lower);
    nodes_.push_back(upper);
    part(child, leafSize);
    part(child + 1, leafSize);
}

std::vector<std::size_t> PanelTree::leaves() const {
    std::vector<std::size_t> out;
    for (std::size_t n = 0; n < nodes_.size(); ++n)
        if (nodes_[n].leaf()) out.push_back(n);
    return out;
}

namespace {
struct Full {
    double q = 0.0;
    Vec3 d = Vec3::Zero();
    Mat3 Q = Mat3::Zero();
    std::array<Mat3, 3> O{Mat3::Zero(), Mat3::Zero(), Mat3::Zero()};  // O[i](j, k)
};
// About another point, from which the old one is seen at s.
void addShifted(Full& to, const Full& from, const Vec3& s) {
    to.q += from.q;
    to.d += from.d + from.q * s;
    const Mat3 ss = s * s.transpose();
    to.Q += from.Q + from.d * s.transpose() + s * from.d.transpose() + from.q * ss;
    for (int i = 0; i < 3; ++i) {
        to.O[static_cast<std::size_t>(i)] += from.O[static_cast<std::size_t>(i)] + s[i] * from.Q +
                                             from.Q.col(i) * s.transpose() + s * from.Q.col(i).transpose() +
                                             from.d[i] * ss + s[i] * (from.d * s.transpose() + s * from.d.transpose()) +
                                             from.q * s[i] * ss;
    }
}
}  // namespace

std::vector<PanelTree::Moments> PanelTree::moments(std::span<const double> source,
                                                   std::span<const double> doublet) const {
    std::vector<Full> full(nodes_.size());
    // Children stand behind their parents.
    for (std::size_t n = nodes_.size(); n-- > 0;) {
        const Node& node = nodes_[n];
        Full& sum = full[n];
        if (!node.leaf()) {
            for (const int c : {0, 1}) {
                const auto child = static_cast<std::size_t>(node.firstChild + c);
                addShifted(sum, full[child], nodes_[child].centre - node.centre);
            }
            continue;
        }
        for (std::size_t k = node.first; k < node.first + node.count; ++k) {
            const std::size_t i = order_[k];
            const double q = source.empty() ? 0.0 : source[i] * panels_.area[i];
            const Vec3 p =
                doublet.empty() ? Vec3::Zero().eval() : (doublet[i] * panels_.area[i] * panels_.normal[i]).eval();
            // Second moments of the triangle itself about its middle: a third of a quarter of those of its corners.
            Mat3 own = Mat3::Zero();
            for (const auto& c : panels_.triangle(i))
                own += (c - panels_.middle[i]) * (c - panels_.middle[i]).transpose() / 12.0;
            Full panel;
            panel.q = q;
            panel.d = p;
            panel.Q = q * own;
            for (int a = 0; a < 3; ++a)
                panel.O[static_cast<std::size_t>(a)] =
                    p[a] * own + own.col(a) * p.transpose() + p * own.col(a).transpose();
            addShifted(sum, panel, panels_.middle[i] - node.centre);
        }
    }
    std::vector<Moments> out(nodes_.size());
    for (std::size_t n = 0; n < nodes_.size(); ++n) {
        const Full& f = full[n];
        Moments& m = out[n];
        m.q = f.q;
        for (int a = 0; a < 3; ++a) {
            m.d[a] = f.d[a];
            m.traces[a] = f.O[0](0, a) + f.O[1](1, a) + f.O[2](2, a);
        }
        const double Q[6] = {f.Q(0, 0), f.Q(1, 1), f.Q(2, 2), f.Q(0, 1), f.Q(0, 2), f.Q(1, 2)};
        std::copy(std::begin(Q), std::end(Q), m.Q);
        const double O[10] = {f.O[0](0, 0), f.O[1](1, 1), f.O[2](2, 2), f.O[0](0, 1), f.O[0](0, 2),
                              f.O[0](1, 1), f.O[1](1, 2), f.O[0](2, 2), f.O[1](2, 2), f.O[0](1, 2)};
        std::copy(std::begin(O), std::end(O), m.O);
        m.trace = f.Q.trace();
    }
    return out;
}

void addFar(const PanelTree::Node& node, const PanelTree::Moments& m, std::size_t count, const double* px,
            const double* py, const double* pz, double* potential) {
    constexpr double share = 0.25 / std::numbers::pi;
    const double cx = node.centre.x(), cy = node.centre.y(), cz = node.centre.z();
    for (std::size_t t = 0; t < count; ++t) {
        const double x = px[t] - cx, y = py[t] - cy, z = pz[t] - cz;
        const double xx = x * x, yy = y * y, zz = z * z;
        const double u2 = 1.0 / (xx + yy + zz), u = std::sqrt(u2), u3 = u * u2;
        // q u + d.R u^3 + (3 R.Q.R u^5 - tr Q u^3) / 2 + (15 O(R, R, R) u^7 - 9 tr O . R u^5) / 6
        const double first = m.d[0] * x + m.d[1] * y + m.d[2] * z;
        const double second =
            m.Q[0] * xx + m.Q[1] * yy + m.Q[2] * zz + 2.0 * (m.Q[3] * x * y + m.Q[4] * x * z + m.Q[5] * y * z);
        const double third = x * (m.O[0] * xx + 3.0 * (m.O[3] * x * y + m.O[4] * x * z + m.O[5] * yy + m.O[7] * zz)) +
                             y * (m.O[1] * yy + 3.0 * (m.O[6] * y * z + m.O[8] * zz)) + m.O[2] * z * zz +
                             6.0 * m.O[9] * x * y * z;
        const double trace = m.traces[0] * x + m.traces[1] * y + m.traces[2] * z;
        potential[t] +=
            share * (m.q * u + u3 * (first - 0.5 * m.trace + u2 * (1.5 * second - 1.5 * trace + 2.5 * u2 * third)));
    }
}

}  // namespace cvane::panels
