#include "wing/shadow.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/errors.h"
#include "shape/projected_area.h"

namespace cvane::wing {
namespace {
constexpr int kStations = 28;
constexpr double kLast = 0.996;            // of the half span: at its very end there is no chord
constexpr double kTooLong = 1.5;           // a stretch this much longer than the last one has met a body
constexpr std::size_t kLeastStations = 3;  // fewer are a bump
constexpr double kDeepest = 0.25;          // seen from ahead, over what is seen from above

/// A stretch of a cut across the span.
struct Stretch {
    double from = 0.0, to = 0.0;  ///< x [m]
    double z = 0.0;               ///< middle of its height [m]
};

// Stretches that the facets' cuts with a plane y = const cover, from ahead.
std::vector<Stretch> stretchesAt(const shape::Surface& s, double y, double join) {
    std::vector<Stretch> pieces;
    for (const auto& f : s.facets) {
        Vec3 ends[2];
        int n = 0;
        for (int k = 0; k < 3 && n < 2; ++k) {
            const Vec3 &a = s.points[static_cast<std::size_t>(f[static_cast<std::size_t>(k)])],
                       &b = s.points[static_cast<std::size_t>(f[static_cast<std::size_t>((k + 1) % 3)])];
            if ((a.y() < y) != (b.y() < y)) ends[n++] = a + (y - a.y()) / (b.y() - a.y()) * (b - a);
        }
        if (n == 2)
            pieces.push_back({std::min(ends[0].x(), ends[1].x()), std::max(ends[0].x(), ends[1].x()),
                              0.5 * (ends[0].z() + ends[1].z())});
    }
    std::sort(pieces.begin(), pieces.end(), [](const Stretch& a, const Stretch& b) { return a.from < b.from; });
    std::vector<Stretch> out;
    std::vector<double> weight;
    for (const Stretch& p : pieces) {
        const double length = p.to - p.from;
        if (out.empty() || p.from > out.back().to + join) {
            out.push_back(p);
            weight.push_back(length);
            continue;
        }
        out.back().to = std::max(out.back().to, p.to);
        if (weight.back() + length > 0.0)
            out.back().z = (out.back().z * weight.back() + p.z * length) / (weight.back() + length);
        weight.back() += length;
    }
    return out;
}

/// What is followed from a tip inwards.
struct Track {
    std::vector<double> y;
    std::vector<Stretch> cuts;
    bool open = true;
    double area() const {
        double sum = 0.0;
        for (std::size_t k = 1; k < y.size(); ++k)
            sum += 0.5 * (y[k - 1] - y[k]) * (cuts[k].to - cuts[k].from + cuts[k - 1].to - cuts[k - 1].from);
        return sum;
    }
};

double overlap(const Stretch& a, const Stretch& b) {
    return std::min(a.to, b.to) - std::max(a.from, b.from);
}

void follow(std::vector<Track>& tracks, double y, const std::vector<Stretch>& cuts) {
    std::vector<char> taken(cuts.size());
    for (Track& t : tracks) {
        if (!t.open) continue;
        const Stretch& last = t.cuts.back();
        std::size_t best = cuts.size();
        for (std::size_t k = 0; k < cuts.size(); ++k)
            if (overlap(cuts[k], last) > 0.0 &&
                (best == cuts.size() || overlap(cuts[k], last) > overlap(cuts[best], last)))
                best = k;
        t.open =
            best < cuts.size() && !taken[best] && cuts[best].to - cuts[best].from < kTooLong * (last.to - last.from);
        if (best < cuts.size()) taken[best] = 1;
        if (t.open) t.y.push_back(y), t.cuts.push_back(cuts[best]);
    }
    for (std::size_t k = 0; k < cuts.size(); ++k)
        if (!taken[k]) tracks.push_back({{y}, {cuts[k]}, true});
}

LiftingSurface surfaceOf(const Track& t, double half, int number) {
    LiftingSurface s;
    s.name = fmt::format("outline {}", number);
    s.rows = 6;
    // From the plane of symmetry, to which its innermost edges go on, to the tip, to which its outermost ones do.
    const std::size_t n = t.y.size();
    const auto beyond = [&](double y, std::size_t last, std::size_t before, double Stretch::*edge) {
        const double share = (y - t.y[last]) / (t.y[before] - t.y[last]);
        return t.cuts[last].*edge + share * (t.cuts[before].*edge - t.cuts[last].*edge);
    };
    const auto atRoot = [&](double Stretch::*edge) { return beyond(0.0, n - 1, n - 2, edge); };
    const double root = atRoot(&Stretch::from);
    double z = 0.0;
    for (const auto& c : t.cuts) z += c.z / static_cast<double>(n);
    s.place = Vec3(root, 0.0, z);
    const auto put = [&](double y, double from, double to) {
        Station station;
        station.along = y;
        station.leading = from - root;
        station.chord = std::max(to - from, 1e-3 * (t.cuts[n - 1].to - t.cuts[n - 1].from));
        station.strips = 1;
        s.stations.push_back(station);
    };
    put(0.0, root, atRoot(&Stretch::to));
    s.stations.front().strips = std::max(1, static_cast<int>(std::lround(t.y[n - 1] / (t.y[n - 2] - t.y[n - 1]))));
    for (std::size_t k = n; k-- > 0;) put(t.y[k], t.cuts[k].from, t.cuts[k].to);
    // Where the tip of what is not the widest lies between two cuts is not known.
    if (t.y[0] > kLast * half * (1.0 - 1e-9))
        put(half, beyond(half, 0, 1, &Stretch::from), beyond(half, 0, 1, &Stretch::to));
    return s;
}
}  // namespace

std::optional<Aircraft> flatWingsOf(const shape::Surface& placed) {
    const Box b = placed.bounds();
    const double half = b.high.y();
    if (!(half > 0.0) || 2.0 * half <= b.size().x()) return std::nullopt;
    if (shape::projectedArea(placed, 0) > kDeepest * shape::projectedArea(placed, 2)) return std::nullopt;
    std::vector<Track> tracks;
    for (int k = kStations; k > 0; --k) {
        // Closer towards the tip.
        const double y = kLast * half * std::sin(0.5 * std::numbers::pi * k / kStations);
        follow(tracks, y, stretchesAt(placed, y, 1e-6 * half));
    }
    std::erase_if(tracks, [](const Track& t) { return t.y.size() < kLeastStations; });
    std::sort(tracks.begin(), tracks.end(), [](const Track& p, const Track& q) { return p.area() > q.area(); });
    if (tracks.empty()) return std::nullopt;
    Aircraft a;
    a.name = "outline";
    for (const Track& t : tracks) a.surfaces.push_back(surfaceOf(t, half, static_cast<int>(a.surfaces.size()) + 1));
    try {
        check(a);
    } catch (const base::InputError&) {
        return std::nullopt;  // an outline that crosses itself, or turns back
    }
    return a;
}

}  // namespace cvane::wing
