#pragma once
#include <vector>

#include "flow/forces.h"
#include "flow/variables.h"

namespace cvane::flow {

/// Sums of a swinging flow's states and loads over its iterations.
class Averages {
  public:
    void clear();
    void add(const State& state, std::size_t cells, const std::vector<Load>& loads);
    double count() const { return count_; }
    /// The mean becomes the state of own cells; ghosts are the caller's. It is shown from then on, until showState.
    void take(State& state);
    void showState() { shown_ = false; }
    /// The state is a mean: loads are the means of loads then, not the loads of the mean.
    bool isShown() const { return shown_; }
    std::vector<Load> loads() const;

    const std::vector<double>& rows() const { return rows_; }
    const std::vector<double>& loadSums() const { return loads_; }
    void resume(std::vector<double> rows, std::vector<double> loads, double count);

  private:
    std::vector<double> rows_;   ///< rows of own cells
    std::vector<double> loads_;  ///< kLoadNumbers a patch
    double count_ = 0.0;
    bool shown_ = false;
};

}  // namespace cvane::flow
