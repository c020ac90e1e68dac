#pragma once
#include "campaign/settings/fields.h"

// A row names its member once.
// NOLINTBEGIN(bugprone-macro-parentheses): a member's name takes none
#define AT(member)         \
    [](auto& s) -> auto& { \
        return s.member;   \
    }
// NOLINTEND(bugprone-macro-parentheses)

namespace cvane::campaign {

inline constexpr double kFar = 1e5;  ///< [m] no model or tunnel of air is larger

constexpr double kFastest = 3000.0;  ///< [m/s]

constexpr Limits above(double low, double high) {
    return {low, high, true};
}

}  // namespace cvane::campaign
