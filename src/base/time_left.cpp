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

std::string TimeLeft::about(double seconds) {
    if (seconds < 100.0) return fmt::format("about {:.0f} s", std::ceil(seconds));
    return seconds < 6000.0 ? fmt::format("about {:.0f} min", std::ceil(seconds / 60.0))
                            : fmt::format("about {:.1f} h", seconds / 3600.0);
}

std::string TimeLeft::wordsFor(double left) {
    return about(left) + " left";
}

}  // namespace cvane::base
