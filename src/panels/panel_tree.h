#pragma once
#include <span>
#include <vector>

#include "panels/panels.h"

namespace cvane::panels {

/// Panels in boxes, each box with what its panels make together far away: charge, dipole, and moments of second and
/// third order. Source: J. Barnes and P. Hut, Nature 324, 1986; Cartesian multipoles as Z.-H. Duan and R. Krasny, J.
/// Comput. Chem. 22(2), 2001.
class PanelTree {
  public:
    struct Node {
        Vec3 centre = Vec3::Zero();
        double reach = 0.0;                ///< from the centre to the farthest corner of a panel [m]
        std::size_t first = 0, count = 0;  ///< into order()
        int firstChild = -1;               ///< of two, one behind the other; -1: leaf
        bool leaf() const { return firstChild < 0; }
    };
    PanelTree(const Panels& panels, std::size_t leafSize);

    const std::vector<Node>& nodes() const { return nodes_; }
    /// Panels, leaf by leaf.
    const std::vector<std::size_t>& order() const { return order_; }
    std::vector<std::size_t> leaves() const;

    /// Of a node: q + d . y + Q : y y / 2 + O : y y y / 6 about its centre; the third order without what makes nothing.
    struct Moments {
        double q = 0.0;
        double d[3] = {}, Q[6] = {}, O[10] = {};  ///< xx yy zz xy xz yz; xxx yyy zzz xxy xxz xyy yyz xzz yzz xyz
        double trace = 0.0, traces[3] = {};       ///< of Q and O
    };
    /// @param source, doublet  strengths per panel; an empty span stands for zeros
    std::vector<Moments> moments(std::span<const double> source, std::span<const double> doublet) const;

  private:
    void part(std::size_t node, std::size_t leafSize);
    const Panels& panels_;
    std::vector<Node> nodes_;
    std::vector<std::size_t> order_;
};

/// Adds 1 / (4 pi) of what a node makes at places.
void addFar(const PanelTree::Node& node, const PanelTree::Moments& moments, std::size_t count, const double* x,
            const double* y, const double* z, double* potential);

}  // namespace cvane::panels
