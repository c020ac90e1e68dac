#pragma once
#include <algorithm>
#include <vector>

namespace cvane::base {

/// The upper one of two in the middle. @param values  one or more
inline double medianOf(std::vector<double> values) {
    const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

}  // namespace cvane::base
