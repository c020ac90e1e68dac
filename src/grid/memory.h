#pragma once
#include <cstddef>

namespace cvane::grid {

/// Memory that the system could still give this process [bytes]; a very large number when it cannot be told.
std::size_t availableMemory();

}  // namespace cvane::grid
