#pragma once
#include <utility>
#include <vector>

#include "flow/variables.h"

namespace cvane::flow {

/// What a step of time needs of the flow before it. Its change in time is the backward difference of second order,
/// (3 phi - 4 phi_last + phi_lastButOne) / 2 step, and phi less phi_last over the step while only one is known.
/// Source: e.g. E. Hairer, G. Wanner, Solving Ordinary Differential Equations II, ch. V.1.
class TimeLevels {
  public:
    double step() const { return step_; }  ///< [s]; 0: each cell takes a step of its own, by relaxation
    bool inTime() const { return step_ > 0.0; }
    /// Steps of another length begin: nothing earlier is known.
    void set(double step) {
        step_ = step;
        known_ = 0;
    }
    int known() const { return known_; }  ///< how many earlier steps are, of the two
    /// The state that a step begins from becomes the last one.
    /// @param excess  of every face: flux less that of the cells' velocities there [m3/s]; boundary faces have none
    void begin(const State& s, const std::vector<double>& excess) {
        std::swap(last_, lastButOne_);
        last_.compressible = lastButOne_.compressible = s.compressible;
        for (const Variable& v : variablesOf(s))
            if (hasInertia(v, s))
                (v.vector ? void(last_.*v.vector = s.*v.vector) : void(last_.*v.scalar = s.*v.scalar));
        last_.flux = excess;
        known_ = known_ < 2 ? known_ + 1 : 2;
    }
    /// What has to be kept to go on behind a finished step, beside the excess: the last step's rows of what has
    /// inertia.
    std::vector<double> kept(std::size_t cells) const { return rowsOf(last_, cells, Which::WithInertia); }
    const std::vector<double>& lastExcess() const { return last_.flux; }
    /// @param stored  own and ghost cells of a field
    void remember(const std::vector<double>& rows, std::size_t stored, std::vector<double> excessThen,
                  bool compressible) {
        last_.compressible = lastButOne_.compressible = compressible;
        for (const Variable& v : variablesOf(last_))
            if (hasInertia(v, last_)) v.visit(last_, [&](auto& field) { fillWithZero(field, stored); });
        takeRows(rows, last_, Which::WithInertia);
        last_.flux = std::move(excessThen);
        known_ = 1;
    }

    /// The change in time is weight() phi - fromBefore(...). [1/s], [phi/s]
    double weight() const { return (known_ < 2 ? 1.0 : 1.5) / step_; }
    /// @param field  of a variable with inertia, or State::flux for the fluxes' excess
    template <class T>
    T fromBefore(std::vector<T> State::*field, std::size_t c) const {
        return known_ < 2 ? T((last_.*field)[c] / step_)
                          : T((2.0 * (last_.*field)[c] - 0.5 * (lastButOne_.*field)[c]) / step_);
    }

  private:
    double step_ = 0.0;
    int known_ = 0;
    State last_, lastButOne_;  ///< of what has inertia; their fluxes are the excess
};

}  // namespace cvane::flow
