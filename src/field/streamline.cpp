#include "field/streamline.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace cvane::field {

std::string nameOf(LineEnd end) {
    switch (end) {
        case LineEnd::Wall:
            return "at a wall";
        case LineEnd::Side:
            return "at a side of the tunnel";
        case LineEnd::Rest:
            return "where the air rests";
        case LineEnd::Length:
            break;
    }
    return "at its longest";
}

namespace {
/// One way along a line.
class Walk {
  public:
    Walk(const FlowField& flow, const LineSettings& s, double sense)
        : flow_(flow),
          mesh_(flow.mesh()),
          settings_(s),
          velocity_(flow.velocityAtPoints()),
          locate_(mesh_),
          sense_(sense) {}

    LineEnd go(const Vec3& start, double mostLength, Streamline& out) {
        auto here = locate_.find(start);
        if (!here) return LineEnd::Side;
        Vec3 x = start, slope = direction(*here);
        double length = 0.0, time = 0.0, step = 0.3 * mesh_.sizeOf(here->cell);
        const double rest = 1e-6 * std::max(flow_.wind().speed, 1e-12);
        for (int n = 0; n < settings_.mostSteps && length < mostLength; ++n) {
            const double speed = valueAt(mesh_, *here, velocity_).norm();
            if (speed < rest) return LineEnd::Rest;
            const double size = mesh_.sizeOf(here->cell);
            step = std::clamp(step, 1e-4 * size, 2.0 * size);
            Vec3 next = x, last = slope;
            std::optional<Spot> there;
            while (true) {
                const auto error = attempt(x, slope, step, next, last, there);
                // Where a step leaves the air, shorter ones lead up to the wall.
                if (!error) {
                    if (step <= 2e-3 * size) return endOf();
                    step *= 0.4;
                    continue;
                }
                if (!std::isfinite(*error)) return LineEnd::Rest;  // a flow that has blown up
                const double allowed = settings_.tolerance * size,
                             factor = 0.9 * std::pow(allowed / std::max(*error, 1e-300), 0.2);
                const double taken = step;
                step *= std::clamp(factor, 0.2, 4.0);
                if (*error <= allowed || taken <= 1.01e-4 * size) {
                    const double nextSpeed = valueAt(mesh_, *there, velocity_).norm();
                    time += sense_ * 2.0 * taken / std::max(speed + nextSpeed, rest);
                    length += taken;
                    break;
                }
            }
            x = next;
            slope = last;
            here = there;
            out.places.push_back(x);
            out.spots.push_back(*here);
            out.times.push_back(time);
        }
        return LineEnd::Length;
    }

  private:
    Vec3 direction(const Spot& s) const {
        const Vec3 u = valueAt(mesh_, s, velocity_);
        return sense_ * u / std::max(u.norm(), 1e-300);
    }
    LineEnd endOf() const {
        const FaceIndex f = locate_.leftThrough();
        for (const auto& p : mesh_.grid().patches)
            if (f >= p.first && f < p.first + p.count)
                return p.kind == grid::PatchKind::Wall ? LineEnd::Wall : LineEnd::Side;
        return LineEnd::Side;
    }
    /// @return the step's error [m]; nothing where it leaves the air
    std::optional<double> attempt(const Vec3& x, const Vec3& k1, double h, Vec3& next, Vec3& last,
                                  std::optional<Spot>& there) {
        const auto slopeAt = [&](const Vec3& at, Vec3& k) {
            const auto s = locate_.follow(at);
            if (s) k = direction(*s);
            return s;
        };
        Vec3 k2 = k1, k3 = k1, k4 = k1, k5 = k1, k6 = k1;
        if (!slopeAt(x + h * (k1 / 5.0), k2) || !slopeAt(x + h * (3.0 / 40.0 * k1 + 9.0 / 40.0 * k2), k3) ||
            !slopeAt(x + h * (44.0 / 45.0 * k1 - 56.0 / 15.0 * k2 + 32.0 / 9.0 * k3), k4) ||
            !slopeAt(
                x + h * (19372.0 / 6561.0 * k1 - 25360.0 / 2187.0 * k2 + 64448.0 / 6561.0 * k3 - 212.0 / 729.0 * k4),
                k5) ||
            !slopeAt(x + h * (9017.0 / 3168.0 * k1 - 355.0 / 33.0 * k2 + 46732.0 / 5247.0 * k3 + 49.0 / 176.0 * k4 -
                              5103.0 / 18656.0 * k5),
                     k6))
            return std::nullopt;
        next = x + h * (35.0 / 384.0 * k1 + 500.0 / 1113.0 * k3 + 125.0 / 192.0 * k4 - 2187.0 / 6784.0 * k5 +
                        11.0 / 84.0 * k6);
        there = slopeAt(next, last);
        if (!there) return std::nullopt;
        return h * (71.0 / 57600.0 * k1 - 71.0 / 16695.0 * k3 + 71.0 / 1920.0 * k4 - 17253.0 / 339200.0 * k5 +
                    22.0 / 525.0 * k6 - 1.0 / 40.0 * last)
                       .norm();
    }
    const FlowField& flow_;
    const Mesh& mesh_;
    const LineSettings& settings_;
    const std::vector<Vec3>& velocity_;
    Locator locate_;
    double sense_;
};
}  // namespace

std::vector<Streamline> streamlines(const FlowField& flow, const std::vector<Vec3>& through, const LineSettings& s,
                                    const std::function<bool()>& wanted) {
    Box tunnel;
    for (const Vec3& x : flow.mesh().geometry().cellCentre) tunnel.add(x);
    const double most = s.mostLength > 0.0 ? s.mostLength : 30.0 * tunnel.size().maxCoeff();
    flow.velocityAtPoints();  // before the threads ask for it
    std::vector<Streamline> out(through.size());
#pragma omp parallel for schedule(dynamic)
    for (std::int64_t i = 0; i < static_cast<std::int64_t>(through.size()); ++i) {
        if (wanted && !wanted()) continue;
        auto& line = out[static_cast<std::size_t>(i)];
        const Vec3& x = through[static_cast<std::size_t>(i)];
        const auto spot = Locator(flow.mesh()).find(x);
        if (!spot) continue;
        if (s.up) {
            line.upstream = Walk(flow, s, -1.0).go(x, most, line);
            std::reverse(line.places.begin(), line.places.end());
            std::reverse(line.spots.begin(), line.spots.end());
            std::reverse(line.times.begin(), line.times.end());
        }
        line.places.push_back(x);
        line.spots.push_back(*spot);
        line.times.push_back(0.0);
        if (s.down) line.downstream = Walk(flow, s, 1.0).go(x, most, line);
    }
    return out;
}

std::vector<Vec3> rakeLine(const Vec3& from, const Vec3& to, int count) {
    std::vector<Vec3> out;
    out.reserve(static_cast<std::size_t>(std::max(count, 0)));
    for (int i = 0; i < count; ++i)
        out.push_back(count == 1 ? Vec3(0.5 * (from + to)) : Vec3(from + (to - from) * i / (count - 1.0)));
    return out;
}

std::vector<Vec3> rakeRing(const Vec3& centre, const Vec3& normal, double radius, int count) {
    const Vec3 n = normal.normalized(), u = n.unitOrthogonal(), v = n.cross(u);
    std::vector<Vec3> out;
    for (int i = 0; i < count; ++i) {
        const double a = 2.0 * std::numbers::pi * i / count;
        out.push_back(centre + radius * (std::cos(a) * u + std::sin(a) * v));
    }
    return out;
}

std::vector<Vec3> rakeGrid(const Vec3& corner, const Vec3& along, const Vec3& across, int count) {
    std::vector<Vec3> out;
    for (const Vec3& a : rakeLine(corner, corner + along, count))
        for (const Vec3& x : rakeLine(a, a + across, count)) out.push_back(x);
    return out;
}

}  // namespace cvane::field
