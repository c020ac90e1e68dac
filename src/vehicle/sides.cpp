#include "vehicle/sides.h"

#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "base/errors.h"

namespace cvane::vehicle {
namespace {
constexpr double kDegree = std::numbers::pi / 180.0;

std::size_t nextOf(const std::vector<Corner>& line, std::size_t from) {
    if (from >= line.size() || line.size() < 2)
        throw base::InputError("has no side.", fmt::format("corner {}", from + 1),
                               fmt::format("Name one of 1 to {}.", line.size()));
    return (from + 1) % line.size();
}

double lengthOf(const Corner& a, const Corner& b) {
    return std::hypot(b.x - a.x, b.z - a.z);
}
}  // namespace

Side sideOf(const std::vector<Corner>& line, std::size_t from) {
    const auto &a = line[from], &b = line[nextOf(line, from)];
    double slope = std::atan2(b.z - a.z, b.x - a.x) / kDegree;
    if (slope > 90.0) slope -= 180.0;
    if (slope <= -90.0) slope += 180.0;
    return {lengthOf(a, b), slope};
}

void setLength(std::vector<Corner>& line, std::size_t from, double length) {
    auto& b = line[nextOf(line, from)];
    const auto& a = line[from];
    const double now = lengthOf(a, b);
    if (!(length > 0.0) || !std::isfinite(length) || now <= 0.0)
        throw base::InputError(fmt::format("a length of {} m is none.", length), fmt::format("side {}", from + 1),
                               "Give one above 0.");
    b.x = a.x + (b.x - a.x) * length / now;
    b.z = a.z + (b.z - a.z) * length / now;
}

void setSlope(std::vector<Corner>& line, std::size_t from, double slope_deg) {
    auto& b = line[nextOf(line, from)];
    const auto& a = line[from];
    if (!(std::abs(slope_deg) <= 90.0))
        throw base::InputError(fmt::format("a slope of {} degrees is beyond -90 and 90.", slope_deg),
                               fmt::format("side {}", from + 1), "Give the angle of the line to the ground.");
    const auto now = sideOf(line, from);
    const double angle = slope_deg * kDegree;
    double dx = now.length * std::cos(angle), dz = now.length * std::sin(angle);
    // Of the two ways along the line the one that the side runs now.
    if (dx * (b.x - a.x) + dz * (b.z - a.z) < 0.0) dx = -dx, dz = -dz;
    b.x = a.x + dx;
    b.z = a.z + dz;
}

}  // namespace cvane::vehicle
