#pragma once
#include <vector>

#include "flow/piece.h"
#include "flow/settings.h"

namespace cvane::flow {

/// Bounds gradients so that values rebuilt at faces stay between those of the cells around; by default in the few cells
/// whose shape cannot be trusted (a face steeper than 63 degrees or skewed by more than 0.4, and their neighbours). In
/// sound cells a limiter only costs accuracy and keeps the iteration from settling. `atBends`: also where thin cells
/// bend round the model. Meant for velocities; pressure, which no wall layer steepens, would lose its peaks at noses.
/// Source: T. J. Barth, D. C. Jespersen, AIAA 89-0366.
class GradientLimiter {
  public:
    GradientLimiter(const Piece& piece, Limiter where, bool atBends);
    /// Local but for the closing exchange of ghosts (collective).
    void operator()(const std::vector<double>& phi, const std::vector<double>& atBoundary,
                    const std::vector<char>& uses, std::vector<Vec3>& gradient) const;
    void operator()(const std::vector<Vec3>& u, const std::vector<Vec3>& atBoundary, const std::vector<char>& uses,
                    std::vector<Mat3>& gradient) const;
    std::size_t cells() const { return poor_.size(); }

  private:
    template <class T, class G>
    void limit(const std::vector<T>& phi, const std::vector<T>& atBoundary, const std::vector<char>& uses,
               std::vector<G>& gradient) const;
    const Piece& piece_;
    std::vector<LocalCell> poor_;
    std::vector<std::int32_t> start_;
    std::vector<std::int32_t> face_;  ///< faces of the poor cells
    std::vector<std::int32_t>
        beyond_;  ///< per entry of face_: the cell beyond it, or -1 - the boundary face's number behind the linked ones
};

}  // namespace cvane::flow
