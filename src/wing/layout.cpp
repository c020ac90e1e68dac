#include "wing/layout.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/errors.h"
#include "base/units.h"
#include "section/outline/families.h"
#include "section/outline/spline.h"

namespace cvane::wing {
using base::degree;
using section::Vec2;

namespace {
constexpr int kSidePlaces = 400;  // of a side between which straight lines do
constexpr double kSame = 1e-9;    // [m]
}  // namespace

section::Contour outlineOf(const Aircraft& a, const std::string& name) {
    if (const auto own = a.sections.find(name); own != a.sections.end()) return section::onUnitChord(own->second);
    return section::onUnitChord(section::sectionFromCode(name));
}

Profile::Profile(const section::Contour& contour) {
    const section::Spline line(contour.points);
    // The foremost point parts the sides.
    double nose = 0.0, least = 1e300;
    for (const double s : line.knots())
        if (line.at(s).x() < least) least = line.at(s).x(), nose = s;
    const auto knot = std::lower_bound(line.knots().begin(), line.knots().end(), nose) - line.knots().begin();
    const auto last = static_cast<std::ptrdiff_t>(line.knots().size()) - 1;
    const double before = line.knots()[static_cast<std::size_t>(std::max<std::ptrdiff_t>(knot - 1, 0))],
                 after = line.knots()[static_cast<std::size_t>(std::min(knot + 1, last))];
    nose = line.extreme(Vec2(-1.0, 0.0), before, after);
    for (int k = 0; k <= kSidePlaces; ++k) {
        // Close at the nose, where the outline turns.
        const double t = static_cast<double>(k) / kSidePlaces, u = t * t;
        upper_.push_back(line.at(nose * (1.0 - u)));
        lower_.push_back(line.at(nose + (line.length() - nose) * u));
    }
    // A base thinner than can be told from an edge is one.
    if ((upper_.back() - lower_.back()).norm() < section::kSharpGap)
        upper_.back() = lower_.back() = 0.5 * (upper_.back() + lower_.back());
}

Vec2 Profile::at(const std::vector<Vec2>& side, double along) {
    const double x = side.front().x() + along * (side.back().x() - side.front().x());
    if (along <= 0.0) return side.front();
    if (along >= 1.0) return side.back();
    const auto beyond = std::find_if(side.begin() + 1, side.end(), [&](const Vec2& p) { return p.x() >= x; });
    if (beyond == side.end()) return side.back();
    const Vec2 &b = *beyond, &a = *(beyond - 1);
    const double share = b.x() > a.x() ? std::clamp((x - a.x()) / (b.x() - a.x()), 0.0, 1.0) : 0.0;
    return a + share * (b - a);
}

std::vector<double> spaced(int n, Spacing spacing) {
    std::vector<double> out;
    for (int k = 0; k <= n; ++k) {
        const double t = static_cast<double>(k) / n;
        switch (spacing) {
            case Spacing::Equal:
                out.push_back(t);
                break;
            case Spacing::BothEnds:
                out.push_back(0.5 * (1.0 - std::cos(std::numbers::pi * t)));
                break;
            case Spacing::Inner:
                out.push_back(1.0 - std::cos(0.5 * std::numbers::pi * t));
                break;
            case Spacing::Outer:
                out.push_back(std::sin(0.5 * std::numbers::pi * t));
                break;
        }
    }
    out.back() = 1.0;
    return out;
}

std::vector<double> stripEdges(const LiftingSurface& s, const std::vector<double>& breaks) {
    std::vector<double> out{0.0};
    for (std::size_t i = 0; i + 1 < s.stations.size(); ++i) {
        const double from = s.stations[i].along, to = s.stations[i + 1].along;
        std::vector<double> ends{from};
        for (const double b : breaks)
            if (b > from + kSame && b < to - kSame) ends.push_back(b);
        ends.push_back(to);
        if (ends.size() == 2) {
            for (const double t : spaced(s.stations[i].strips, s.stations[i].spacing))
                if (t > 0.0) out.push_back(from + t * (to - from));
            continue;
        }
        for (std::size_t k = 0; k + 1 < ends.size(); ++k) {
            const double length = ends[k + 1] - ends[k];
            const int n = std::max(1, static_cast<int>(std::lround(s.stations[i].strips * length / (to - from))));
            for (int j = 1; j <= n; ++j) out.push_back(ends[k] + length * j / n);
        }
    }
    return out;
}

std::vector<double> rowEdges(const LiftingSurface& s) {
    auto rows = spaced(s.rows, s.rowSpacing);
    std::vector<double> hinges;
    for (const auto& c : s.controls)
        if (std::find(hinges.begin(), hinges.end(), c.hinge) == hinges.end()) hinges.push_back(c.hinge);
    std::vector<bool> taken(rows.size(), false);
    for (const double hinge : hinges) {
        std::size_t best = 0;
        for (std::size_t k = 1; k + 1 < rows.size(); ++k)
            if (!taken[k] && (best == 0 || std::abs(rows[k] - hinge) < std::abs(rows[best] - hinge))) best = k;
        if (best == 0) break;  // more hinges than rows: the rest turn by the rows that lie behind them
        rows[best] = hinge;
        taken[best] = true;
    }
    std::sort(rows.begin(), rows.end());
    return rows;
}

Layout::Layout(const Aircraft& a, const LiftingSurface& s, bool port) : surface_(s), port_(port) {
    std::vector<std::string> names;
    const Mat3 turn = (Eigen::AngleAxisd(s.roll_deg * degree, Vec3::UnitX())).toRotationMatrix();
    const Mat3 pitch = Eigen::AngleAxisd(s.incidence_deg * degree, Vec3::UnitY()).toRotationMatrix();
    const Vec3 pivot(0.25 * s.stations.front().chord, 0.0, 0.0);
    const auto outward = [&](std::size_t panel) {
        const double d = s.stations[panel].dihedral_deg * degree;
        return Vec3(0.0, std::cos(d), std::sin(d));
    };
    // The root of a flat mirrored surface is a cut by the mirror plane.
    const bool onMirror = s.mirrored && std::abs(s.place.y()) < kSame && std::abs(s.roll_deg) < kSame;
    Vec3 at = Vec3::Zero();
    for (std::size_t i = 0; i < s.stations.size(); ++i) {
        const Station& t = s.stations[i];
        if (i > 0) at += (t.along - s.stations[i - 1].along) * outward(i - 1);
        const Vec3 in = i > 0      ? outward(i - 1)
                        : onMirror ? Vec3::UnitY().eval()
                                   : outward(0),
                   out = i + 1 < s.stations.size() ? outward(i) : outward(i - 1);
        const Vec3 across = i == 0 && onMirror ? Vec3::UnitY().eval() : (in + out).normalized();
        const Vec3 normal = Vec3::UnitX().cross(across);
        const double twist = t.twist_deg * degree;
        Rib rib;
        rib.chord = t.chord;
        rib.chordwise = std::cos(twist) * Vec3::UnitX() - std::sin(twist) * normal;
        rib.normal = std::cos(twist) * normal + std::sin(twist) * Vec3::UnitX();
        const Vec3 quarter = at + Vec3(t.leading + 0.25 * t.chord, 0.0, 0.0);
        rib.leading = quarter - 0.25 * t.chord * rib.chordwise;
        rib.leading = s.place + turn * (pivot + pitch * (rib.leading - pivot));
        rib.chordwise = turn * (pitch * rib.chordwise);
        rib.normal = turn * (pitch * rib.normal);
        auto known = std::find(names.begin(), names.end(), t.section);
        rib.profile = static_cast<std::size_t>(known - names.begin());
        if (known == names.end()) {
            names.push_back(t.section);
            profiles_.emplace_back(outlineOf(a, t.section));
        }
        ribs_.push_back(rib);
        breaks_.push_back(t.along);
    }
    for (const auto& c : s.controls) breaks_.insert(breaks_.end(), {c.from, c.to});
    std::sort(breaks_.begin(), breaks_.end());
    breaks_.erase(std::unique(breaks_.begin(), breaks_.end(), [](double x, double y) { return y - x < kSame; }),
                  breaks_.end());
}

std::size_t Layout::panelAt(double along) const {
    std::size_t i = 0;
    while (i + 2 < surface_.stations.size() && along >= surface_.stations[i + 1].along) ++i;
    return i;
}

const Control* Layout::controlAt(double along) const {
    for (const auto& c : surface_.controls)
        if (along > c.from && along < c.to) return &c;
    return nullptr;
}

namespace {
// Turns what lies behind the hinge. On the side that is pressed together points stay on their side of the plane half
// way.
Vec2 turned(const Vec2& p, const Vec2& mean, const Vec2& hinge, double angle) {
    const double depth = (p - mean).y(), press = -depth * std::tan(0.5 * angle);
    const double behind = p.x() - hinge.x();
    if (behind <= 0.0) return behind > -press ? Vec2(hinge.x() - press, p.y()) : p;
    const double kept = std::max(behind, press);
    const Vec2 local(kept, p.y() - hinge.y());
    return hinge + Vec2(local.x() * std::cos(angle) + local.y() * std::sin(angle),
                        -local.x() * std::sin(angle) + local.y() * std::cos(angle));
}
}  // namespace

Vec3 Layout::onRib(std::size_t i, Line line, double x, const Control* control) const {
    const Rib& r = ribs_[i];
    const Profile& profile = profiles_[r.profile];
    Vec2 p = line == Line::Upper ? profile.upper(x) : line == Line::Lower ? profile.lower(x) : profile.mean(x);
    if (control && control->angle_deg != 0.0) {
        const double angle = control->angle_deg * degree * (port_ && control->against ? -1.0 : 1.0);
        p = turned(p, profile.mean(x), profile.mean(control->hinge), angle);
    }
    return r.leading + r.chord * (p.x() * r.chordwise + p.y() * r.normal);
}

Vec3 Layout::at(Line line, double along, double x, double within) const {
    const std::size_t i = panelAt(within);
    const double from = surface_.stations[i].along, to = surface_.stations[i + 1].along;
    const double share = (along - from) / (to - from);
    const Control* control = controlAt(within);
    return (1.0 - share) * onRib(i, line, x, control) + share * onRib(i + 1, line, x, control);
}

double Layout::chord(double along) const {
    const std::size_t i = panelAt(along);
    const Station &a = surface_.stations[i], &b = surface_.stations[i + 1];
    return a.chord + (along - a.along) / (b.along - a.along) * (b.chord - a.chord);
}

Vec3 Layout::quarter(double along) const {
    const std::size_t i = panelAt(along);
    const Station &a = surface_.stations[i], &b = surface_.stations[i + 1];
    const double share = (along - a.along) / (b.along - a.along);
    const auto of = [&](const Rib& r) { return Vec3(r.leading + 0.25 * r.chord * r.chordwise); };
    return (1.0 - share) * of(ribs_[i]) + share * of(ribs_[i + 1]);
}

std::pair<Vec3, Vec3> Layout::hinge(const Control& c) const {
    const double middle = 0.5 * (c.from + c.to);
    const auto on = [&](double along) {
        const std::size_t i = panelAt(along >= c.to ? std::nextafter(c.to, middle) : along);
        const double from = surface_.stations[i].along, to = surface_.stations[i + 1].along,
                     share = (along - from) / (to - from);
        return Vec3((1.0 - share) * onRib(i, Line::Mean, c.hinge, nullptr) +
                    share * onRib(i + 1, Line::Mean, c.hinge, nullptr));
    };
    return {on(c.from), on(c.to)};
}

}  // namespace cvane::wing
