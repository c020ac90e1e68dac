#pragma once
#include <Eigen/Dense>
#include <functional>
#include <optional>

#include "base/progress.h"
#include "panels/bent_panels.h"
#include "panels/panel_tree.h"

namespace cvane::panels {

/// Planes in which the flow is its own mirror image: what stands here also stands behind each of them.
struct Mirrors {
    bool inY = false;              ///< y = 0, of a half model or of a flow without sideslip
    std::optional<double> ground;  ///< z [m]
    /// Ways in which a place is seen from the images, the first as it is.
    std::vector<std::function<Vec3(const Vec3&)>> views() const;
};

/// What panels make at each other's places, images included: near pairs by exact integrals, which for the nearest are
/// those of pieces of the bent surface, far ones by boxes of panels seen from boxes of places, so that an application
/// takes n log n.
class Influence {
  public:
    /// @param opening  reach of a box of panels over its distance from a box of places up to which it is far
    /// Throws Cancelled.
    Influence(const Panels& panels, const BentPanels& bent, const Mirrors& mirrors, double opening = 0.5,
              const base::Progress& progress = {});

    /// Potential of sources of these strengths at all places.
    /// @param gradient  of the strength along each panel [strength / m], which counts where a panel is near
    Eigen::VectorXd ofSources(const Eigen::VectorXd& strength, const std::vector<Vec3>& gradient) const;
    /// Of doublets, without the half of its own strength that is felt on a panel.
    /// @param gradient  as of sources: across a thin trailing edge what stands opposite is felt as if it lay at one's
    /// own place
    Eigen::VectorXd ofDoublets(const Eigen::VectorXd& strength, const std::vector<Vec3>& gradient) const;

    const PanelTree& tree() const { return tree_; }
    /// Of doublets among the panels of one leaf, in its order.
    Eigen::MatrixXd leafBlock(std::size_t leaf) const;
    /// Pairs whose integrals are kept.
    std::size_t nearPairs() const;

  private:
    struct Leaf {
        std::size_t node = 0;
        struct View {
            std::vector<double> x, y, z;    // of its places
            std::vector<std::size_t> far;   // nodes
            std::vector<std::size_t> near;  // leaf nodes
        };
        std::vector<View> views;
        std::vector<float> doublet;  // near integrals, view by view, node by node, place by place
        struct Growing {
            std::uint32_t place, panel;
            float x, y, z;
        };
        std::vector<Growing> growing;  // of those that are very near
    };
    int levelOf(const Vec3& place, std::size_t panel) const;  // of pieces
    Eigen::VectorXd apply(const Eigen::VectorXd& strength, const std::vector<Vec3>& gradient, bool doublets) const;

    const Panels& panels_;
    const BentPanels& bent_;
    Panels far_;  // what stands for each where it is not near
    PanelTree tree_;
    std::vector<Leaf> leaves_;
    std::vector<std::function<Vec3(const Vec3&)>> views_;
};

}  // namespace cvane::panels
