#include "flow/averages.h"

namespace cvane::flow {

void Averages::clear() {
    rows_.clear();
    loads_.clear();
    count_ = 0.0;
}

void Averages::add(const State& s, std::size_t cells, const std::vector<Load>& loads) {
    const auto now = rowsOf(s, cells);
    rows_.resize(now.size(), 0.0);
    for (std::size_t i = 0; i < now.size(); ++i) rows_[i] += now[i];
    loads_.resize(kLoadNumbers * loads.size(), 0.0);
    for (std::size_t i = 0; i < loads_.size(); ++i) loads_[i] += loads.data()->pressure.data()[i];
    count_ += 1.0;
}

void Averages::take(State& s) {
    auto mean = rows_;
    for (double& v : mean) v /= count_;
    takeRows(mean, s);
    shown_ = true;
}

std::vector<Load> Averages::loads() const {
    std::vector<Load> mean(loads_.size() / kLoadNumbers);
    for (std::size_t i = 0; i < loads_.size(); ++i) mean.data()->pressure.data()[i] = loads_[i] / count_;
    return mean;
}

void Averages::resume(std::vector<double> rows, std::vector<double> loads, double count) {
    rows_ = std::move(rows);
    loads_ = std::move(loads);
    count_ = count;
    shown_ = false;
}

}  // namespace cvane::flow
