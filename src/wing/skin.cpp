#include "wing/skin.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "shape/unite.h"
#include "wing/layout.h"

namespace cvane::wing {
namespace {
constexpr int kSidePlaces = 64;    // of a side: the nose of a section 12 % thick is then within 1.5e-4 chords
constexpr double kLongest = 0.12;  // facet along the span [chords]
constexpr int kMostAlong = 80;     // facets along a panel
constexpr int kTipPlaces = 8;      // round a round tip
constexpr int kBodyPlaces = 64;    // round a body
constexpr double kMeets = 1e-5;    // of the mirror plane: what is nearer lies in it [m]

using Ring = std::vector<Vec3>;
using Line = Layout::Line;

/// Facets of one part, made from rows of points.
class Sheet {
  public:
    Sheet(shape::Surface& to, const std::string& part) : to_(to), part_(static_cast<std::int32_t>(to.parts.size())) {
        to.parts.push_back({part, true, {}});
    }
    /// Between two rows of equally many points.
    void between(const Ring& a, const Ring& b, bool closed) {
        const std::size_t n = a.size(), last = closed ? n : n - 1;
        for (std::size_t k = 0; k < last; ++k) {
            const std::size_t m = (k + 1) % n;
            facet(a[k], b[k], b[m]);
            facet(a[k], b[m], a[m]);
        }
    }
    void fan(const Ring& rim, const Vec3& middle) {
        for (std::size_t k = 0; k < rim.size(); ++k) facet(rim[k], rim[(k + 1) % rim.size()], middle);
    }
    /// A plane polygon, from its first point.
    void polygon(const Ring& rim) {
        for (std::size_t k = 1; k + 1 < rim.size(); ++k) facet(rim[0], rim[k], rim[k + 1]);
    }

  private:
    void facet(const Vec3& a, const Vec3& b, const Vec3& c) {
        if (a == b || b == c || c == a) return;
        const auto at = static_cast<std::int32_t>(to_.points.size());
        to_.points.insert(to_.points.end(), {a, b, c});
        to_.facets.push_back({at, at + 1, at + 2});
        to_.partOf.push_back(part_);
    }
    shape::Surface& to_;
    std::int32_t part_;
};

/// One half of a lifting surface as rings from root to tip, each from the tail over the upper side and back.
class Half {
  public:
    Half(const Aircraft& a, const LiftingSurface& s, bool port) : surface_(s), port_(port), layout_(a, s, port) {
        for (int k = 0; k <= kSidePlaces; ++k)
            places_.push_back(0.5 * (1.0 - std::cos(std::numbers::pi * k / kSidePlaces)));
    }
    std::vector<Ring> rings() const {
        std::vector<Ring> out;
        const auto& breaks = layout_.breaks();
        for (std::size_t b = 0; b + 1 < breaks.size(); ++b) {
            const double from = breaks[b], to = breaks[b + 1], middle = 0.5 * (from + to);
            const int n = std::clamp(static_cast<int>(std::ceil((to - from) / (kLongest * layout_.chord(middle)))), 1,
                                     kMostAlong);
            // Where a control ends there are two rings, with and without its turn: the wall between them is its end.
            for (int j = 0; j <= n; ++j) {
                Ring ring = ringAt(j == n ? to : from + (to - from) * j / n, middle);
                if (out.empty() || ring != out.back()) out.push_back(std::move(ring));
            }
        }
        return out;
    }
    /// Closes an end: flat, or by a half turn of its thickness about its mean line.
    void cap(Sheet& sheet, const Ring& end, const Vec3& outward, bool round) const {
        const std::size_t n = places_.size();
        Ring upper(end.begin(), end.begin() + static_cast<std::ptrdiff_t>(n)), lower;
        for (std::size_t k = 0; k < n; ++k) lower.push_back(end[end.size() - 1 - k]);
        if (!round) {
            sheet.between(upper, lower, false);
            return;
        }
        Ring last = upper, base{upper.front()};
        for (int t = 1; t <= kTipPlaces; ++t) {
            const double angle = std::numbers::pi * t / kTipPlaces;
            Ring next = lower;
            if (t < kTipPlaces)
                for (std::size_t k = 0; k < n; ++k) {
                    const Vec3 half = 0.5 * (upper[k] - lower[k]);
                    if (half.norm() > 0.0)
                        next[k] = 0.5 * (upper[k] + lower[k]) + std::cos(angle) * half +
                                  std::sin(angle) * half.norm() * outward;
                }
            sheet.between(last, next, false);
            base.push_back(next.front());
            last = std::move(next);
        }
        // A blunt tail's base runs round as well.
        if (upper.front() != lower.front()) sheet.polygon(base);
    }
    Vec3 outward() const {
        const double tip = surface_.stations.back().along, in = std::nextafter(tip, 0.0);
        Vec3 d = layout_.quarter(in) - layout_.quarter(0.9 * tip);
        d.x() = 0.0;
        d.normalize();
        if (port_) d.y() = -d.y();
        return d;
    }

  private:
    Ring ringAt(double along, double within) const {
        Ring ring;
        const auto add = [&](Line line, double x) {
            Vec3 p = layout_.at(line, along, x, within);
            if (std::abs(p.y()) < kMeets) p.y() = 0.0;  // what meets its image does so to the last bit
            if (port_) p.y() = -p.y() + 0.0;
            ring.push_back(p);
        };
        for (std::size_t k = places_.size(); k-- > 0;) add(Line::Upper, places_[k]);
        for (const double x : places_) add(Line::Lower, x);
        return ring;
    }
    const LiftingSurface& surface_;
    bool port_;
    Layout layout_;
    std::vector<double> places_;
};

void addSurface(shape::Surface& to, const Aircraft& a, const LiftingSurface& s) {
    Sheet sheet(to, s.name);
    const Half starboard(a, s, false);
    const auto right = starboard.rings();
    const auto loft = [&](const std::vector<Ring>& rings) {
        for (std::size_t k = 0; k + 1 < rings.size(); ++k) sheet.between(rings[k], rings[k + 1], true);
    };
    const Vec3 inward = -starboard.outward();
    if (!s.mirrored) {
        loft(right);
        starboard.cap(sheet, right.front(), inward, false);
        starboard.cap(sheet, right.back(), starboard.outward(), s.roundTip);
        return;
    }
    const Half port(a, s, true);
    const auto left = port.rings();
    const auto onMirror = [](const Ring& ring) {
        return std::all_of(ring.begin(), ring.end(), [](const Vec3& p) { return p.y() == 0.0; });
    };
    if (onMirror(right.front())) {
        std::vector<Ring> whole(left.rbegin(), left.rend());
        whole.insert(whole.end(), right.begin() + (left.front() == right.front() ? 1 : 0), right.end());
        loft(whole);
        if (onMirror(right.back())) return;  // a ring, closed where its ends meet
        port.cap(sheet, left.back(), port.outward(), s.roundTip);
        starboard.cap(sheet, right.back(), starboard.outward(), s.roundTip);
        return;
    }
    for (const auto* half : {&port, &starboard}) {
        const auto& rings = half == &port ? left : right;
        loft(rings);
        half->cap(sheet, rings.front(), inward, false);
        half->cap(sheet, rings.back(), half->outward(), s.roundTip);
    }
}

void addBody(shape::Surface& to, const Body& b) {
    Sheet sheet(to, b.name);
    for (const double side : b.mirrored ? std::vector<double>{-1.0, 1.0} : std::vector<double>{1.0}) {
        std::vector<Ring> rings;
        for (const auto& t : b.stations) {
            Ring ring;
            for (int k = 0; k < kBodyPlaces; ++k) {
                const double angle = 2.0 * std::numbers::pi * (k + 0.5) / kBodyPlaces;
                const auto reach = [&](double v) { return std::copysign(std::pow(std::abs(v), 2.0 / t.power), v); };
                ring.emplace_back(b.place.x() + t.x,
                                  side * (b.place.y() + 0.5 * t.width * reach(std::cos(angle))) + 0.0,
                                  b.place.z() + t.z + 0.5 * t.height * reach(std::sin(angle)));
            }
            rings.push_back(std::move(ring));
        }
        const auto middle = [](const Ring& r) {
            Vec3 sum = Vec3::Zero();
            for (const auto& p : r) sum += p;
            return Vec3(sum / static_cast<double>(r.size()));
        };
        for (std::size_t k = 0; k + 1 < rings.size(); ++k) sheet.between(rings[k], rings[k + 1], true);
        // Seen from ahead the nose's rim runs the other way round than the tail's.
        Ring nose(rings.front().rbegin(), rings.front().rend());
        if (nose.front() != nose[1]) sheet.fan(nose, middle(nose));
        if (rings.back().front() != rings.back()[1]) sheet.fan(rings.back(), middle(rings.back()));
    }
}
}  // namespace

shape::Surface skinOf(const Aircraft& a) {
    check(a);
    shape::Surface out;
    for (const auto& s : a.surfaces) addSurface(out, a, s);
    for (const auto& b : a.bodies) addBody(out, b);
    shape::weld(out);
    shape::orientFacets(out);
    if (auto one = shape::united(out)) return std::move(*one);
    return out;
}

}  // namespace cvane::wing
