#pragma once
#include <cstddef>

namespace cvane::grid {

/// Memory that the system could still give this process [bytes]; a very large number when it cannot be told.
std::size_t availableMemory();

/// The most memory that this process has held so far [bytes].
std::size_t peakMemory();

/// The memory that it holds now [bytes]; 0 when it cannot be told.
std::size_t presentMemory();

}  // namespace cvane::grid
