#pragma once
#include <utility>
#include <vector>

#include "flow/state.h"

namespace cvane::flow {

/// One variable at the two steps of time before the one that is being taken; own and ghost cells.
template <class T>
struct Earlier {
    std::vector<T> last, lastButOne;
};

/// What a step of time needs of the flow before it. Its change in time is the backward difference of second order,
/// (3 phi - 4 phi_last + phi_lastButOne) / 2 step, and phi less phi_last over the step while only one is known.
/// Source: e.g. E. Hairer, G. Wanner, Solving Ordinary Differential Equations II, ch. V.1.
class TimeLevels {
  public:
    Earlier<Vec3> U;                ///< [m/s]
    Earlier<double> first, second;  ///< variables of the turbulence model
    Earlier<double> excess;         ///< of linked faces: flux less that of the cells' velocities there [m3/s]

    double step() const { return step_; }  ///< [s]; 0: each cell takes a step of its own, by relaxation
    bool inTime() const { return step_ > 0.0; }
    /// Steps of another length begin: nothing earlier is known.
    void set(double step) {
        step_ = step;
        known_ = 0;
    }
    int known() const { return known_; }  ///< how many earlier steps are, of the two
    /// The state that a step begins from becomes the last one.
    void begin(const State& s, const std::vector<double>& excessNow) {
        const auto shift = [](auto& levels, const auto& now) {
            std::swap(levels.last, levels.lastButOne);
            levels.last = now;
        };
        shift(U, s.U);
        shift(first, s.first);
        shift(second, s.second);
        shift(excess, excessNow);
        known_ = known_ < 2 ? known_ + 1 : 2;
    }
    /// What has to be kept to go on behind a finished step, beside the excess: 5 a cell, the last step's U, first and
    /// second.
    std::vector<double> kept(std::size_t cells) const {
        std::vector<double> rows;
        rows.reserve(5 * cells);
        for (std::size_t c = 0; c < cells; ++c)
            rows.insert(rows.end(), {U.last[c].x(), U.last[c].y(), U.last[c].z(), first.last[c], second.last[c]});
        return rows;
    }
    /// @param stored  own and ghost cells of a field
    void remember(const std::vector<double>& rows, std::size_t stored, std::vector<double> excessThen) {
        U.last.assign(stored, Vec3::Zero());
        first.last.assign(stored, 0.0);
        second.last.assign(stored, 0.0);
        for (std::size_t c = 0; 5 * c < rows.size(); ++c) {
            U.last[c] = Vec3(rows[5 * c], rows[5 * c + 1], rows[5 * c + 2]);
            first.last[c] = rows[5 * c + 3];
            second.last[c] = rows[5 * c + 4];
        }
        excess.last = std::move(excessThen);
        known_ = 1;
    }

    /// The change in time is weight() phi - fromBefore(...). [1/s], [phi/s]
    double weight() const { return (known_ < 2 ? 1.0 : 1.5) / step_; }
    template <class T>
    T fromBefore(const Earlier<T>& e, std::size_t c) const {
        return known_ < 2 ? T(e.last[c] / step_) : T((2.0 * e.last[c] - 0.5 * e.lastButOne[c]) / step_);
    }

  private:
    double step_ = 0.0;
    int known_ = 0;
};

}  // namespace cvane::flow
