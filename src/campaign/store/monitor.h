#pragma once
#include <filesystem>
#include <string>
#include <vector>

#include "air/free_stream.h"

namespace cvane::campaign {

/// The convergence history of a point as columns of monitor.csv; empty when there is none.
struct Monitor {
    std::vector<std::string> names;
    std::vector<std::vector<double>> columns;
    const std::vector<double>* column(const std::string& name) const;
};
Monitor readMonitor(const std::filesystem::path& runFolder);
/// The same with its coefficients, which are on the reference of the run's order, on another one.
Monitor readMonitor(const std::filesystem::path& runFolder, const air::Reference& reference);

}  // namespace cvane::campaign
