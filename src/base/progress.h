#pragma once
#include <functional>
#include <string_view>

#include "base/errors.h"

namespace cvane::base {

/// Told now and then how far a long job is (0..1) and what it is doing. Returning false asks it to stop.
using Progress = std::function<bool(double fraction, std::string_view doing)>;

/// Reports, and throws Cancelled when the answer is false. An empty callback never cancels.
inline void report(const Progress& progress, double fraction, std::string_view doing) {
    if (progress && !progress(fraction, doing)) throw Cancelled();
}

}  // namespace cvane::base
