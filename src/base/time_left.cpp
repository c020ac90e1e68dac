#include "base/time_left.h"

#include <fmt/format.h>

#include <cmath>

namespace cvane::base {

std::string TimeLeft::words(double fraction) const {
    return words(fraction, std::chrono::duration<double>(std::chrono::steady_clock::now() - start_).count());
}

std::string TimeLeft::words(double fraction, double seconds) {
    // The first tenth and the first second say little about the rest.
    if (!(fraction > 0.1 && fraction < 1.0) || seconds < 1.0) return {};
    return wordsFor(seconds * (1.0 - fraction) / fraction);
}

std::string TimeLeft::wordsFor(double left) {
    if (left < 100.0) return fmt::format("about {:.0f} s left", std::ceil(left));
    return left < 6000.0 ? fmt::format("about {:.0f} min left", std::ceil(left / 60.0))
                         : fmt::format("about {:.1f} h left", left / 3600.0);
}

}  // namespace cvane::base
