#pragma once

namespace cvane::flow {

/// Raised whenever the same case gives another flow: results of a solver before are then shown as such.
inline constexpr int kSolverVersion = 4;

}  // namespace cvane::flow
