#include "section/outline/edit.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <regex>
#include <sstream>

#include "base/errors.h"

namespace cvane::section {
namespace {

void inside(double v, double low, double high, const char* what, const std::string& name) {
    if (!(v >= low && v <= high))
        throw base::InputError(fmt::format("{} is {:g}.", what, v), name, fmt::format("Give {:g} to {:g}.", low, high));
}

/// The place that was at `from` comes to `to`: x = x'^p.
double power(double from, double to) {
    return std::log(from) / std::log(to);
}

}  // namespace

Contour edited(const Contour& contour, const SectionEdit& e) {
    const Contour unit = onUnitChord(contour);
    const Figures f = measure(unit);
    if (e.thickness) inside(*e.thickness, 0.005, 0.6, "the thickness", contour.name);
    if (e.camber) inside(*e.camber, -0.25, 0.25, "the camber", contour.name);
    if (e.thicknessAt) inside(*e.thicknessAt, 0.05, 0.95, "the place of the thickness", contour.name);
    if (e.camberAt) inside(*e.camberAt, 0.05, 0.95, "the place of the camber", contour.name);
    if (e.noseRadius) inside(*e.noseRadius, 1e-5, 0.3, "the nose radius", contour.name);
    const bool flat = std::abs(f.camber) < 1e-5;
    const double thick = e.thickness ? *e.thickness / f.thickness : 1.0;
    const double bend = e.camber && !flat ? *e.camber / f.camber : 1.0;
    const double pt = e.thicknessAt ? power(std::clamp(f.thicknessAt, 0.01, 0.99), *e.thicknessAt) : 1.0;
    const double pc = e.camberAt && !flat ? power(std::clamp(f.camberAt, 0.01, 0.99), *e.camberAt) : 1.0;
    const double radius = f.noseRadius * thick * thick;
    const double nose = e.noseRadius ? std::sqrt(*e.noseRadius / std::max(radius, 1e-6)) - 1.0 : 0.0;
    // Depth over sqrt(x) is smooth at the nose, where the depth itself is steep. Within 1 % of the nose it is led to
    // that of the nose's radius, and the mean line to the nose: across the chord line a cambered nose shows other
    // depths.
    constexpr double kNose = 0.01;
    std::vector<Vec2> depth{{0.0, std::sqrt(2.0 * f.noseRadius)}}, mean{{0.0, 0.0}};
    for (const Vec2& p : f.halfDepth)
        if (p.x() > kNose) depth.push_back({p.x(), p.y() / std::sqrt(p.x())});
    for (const Vec2& p : f.meanLine)
        if (p.x() > kNose) mean.push_back(p);
    const double addedCamber = e.camber && flat ? *e.camber : 0.0, at = e.camberAt.value_or(0.4);
    std::vector<Ordinate> stations;
    for (const double x : cosinePlaces(120)) {
        const double xt = x > 0.0 ? std::pow(x, pt) : 0.0, xc = x > 0.0 ? std::pow(x, pc) : 0.0;
        const double half = thick * heightAt(depth, xt) * std::sqrt(xt) * (1.0 + nose * std::exp(-x / 0.04));
        // A section without camber gets two parabolas that meet at the place.
        const double arcs = x < at ? addedCamber / (at * at) * (2.0 * at * x - x * x)
                                   : addedCamber / ((1.0 - at) * (1.0 - at)) * (1.0 - 2.0 * at + 2.0 * at * x - x * x);
        stations.push_back({x, bend * heightAt(mean, xc) + arcs, 0.0, half});
    }
    return fromOrdinates(contour.name, stations);
}

Contour between(const Contour& first, const Contour& second, double share) {
    inside(share, 0.0, 1.0, "the share of the second section", first.name);
    const Figures a = measure(onUnitChord(first)), b = measure(onUnitChord(second));
    std::vector<Ordinate> stations;
    for (std::size_t i = 0; i < a.meanLine.size(); ++i)
        stations.push_back({a.meanLine[i].x(), (1.0 - share) * a.meanLine[i].y() + share * b.meanLine[i].y(), 0.0,
                            (1.0 - share) * a.halfDepth[i].y() + share * b.halfDepth[i].y()});
    return fromOrdinates(
        fmt::format("{:g} % {} + {:g} % {}", 100.0 * (1.0 - share), first.name, 100.0 * share, second.name), stations);
}

std::optional<Mix> mixFrom(const std::string& code) {
    static const std::regex form("mix:(.+)\\+(.+),([^,]+)");
    std::smatch m;
    if (!std::regex_match(code, m, form)) {
        if (code.starts_with("mix:"))
            throw base::InputError("does not say what is mixed.", code,
                                   "Write mix:4412+0012,30 for 30 % of the second.");
        return {};
    }
    std::istringstream in(m[3].str());
    double percent = -1.0;
    if (!(in >> percent) || !in.eof() || !(percent >= 0.0 && percent <= 100.0))
        throw base::InputError("has no share of the second section in per cent.", code,
                               "Write mix:4412+0012,30 for 30 % of the second.");
    return Mix{m[1], m[2], 0.01 * percent};
}

Contour withFlap(const Contour& contour, double hinge, double angle) {
    inside(hinge, 0.3, 0.95, "the hinge x/c", contour.name);
    inside(angle * 57.29577951308232, -45.0, 45.0, "the flap's angle [deg]", contour.name);
    const Contour unit = onUnitChord(contour);
    if (std::abs(angle) < 1e-6) return unit;
    const Figures f = measure(unit);
    const Vec2 centre(hinge, heightAt(f.meanLine, hinge));
    const double c = std::cos(angle), s = std::sin(angle);
    const auto turned = [&](const Vec2& p) -> Vec2 {  // nose-down positive: the tail goes down
        const Vec2 d = p - centre;
        return centre + Vec2(c * d.x() + s * d.y(), -s * d.x() + c * d.y());
    };
    TwoSides sides = sidesOf(unit);
    for (auto* side : {&sides.upper, &sides.lower}) {
        const bool opens = (side == &sides.upper) == (angle > 0.0);
        std::vector<Vec2> fore, aft;
        for (const Vec2& p : *side) (p.x() <= hinge ? fore : aft).push_back(p);
        const double half = heightAt(f.halfDepth, hinge);
        const Vec2 at(hinge, centre.y() + (side == &sides.upper ? half : -half));
        if ((fore.back() - at).norm() > 1e-6) fore.push_back(at);
        std::vector<Vec2> back;
        back.reserve(aft.size());
        for (const Vec2& p : aft) back.push_back(turned(p));
        std::vector<Vec2> out;
        if (opens) {
            out = fore;
            const Vec2 arm = at - centre;
            const int parts = std::max(3, static_cast<int>(std::abs(angle) / 0.06));
            for (int i = 1; i <= parts; ++i) {
                const double a = angle * i / parts, ca = std::cos(a), sa = std::sin(a);
                out.push_back(centre + Vec2(ca * arm.x() + sa * arm.y(), -sa * arm.x() + ca * arm.y()));
            }
            out.insert(out.end(), back.begin(), back.end());
        } else {
            // The halves overlap by the same length on both sides of the hinge: the middle plane, at half the angle.
            const Vec2 normal(std::cos(0.5 * angle), -std::sin(0.5 * angle));
            for (const Vec2& p : fore)
                if ((p - centre).dot(normal) < -2e-3) out.push_back(p);
            for (const Vec2& p : back)
                if ((p - centre).dot(normal) > 2e-3) out.push_back(p);
        }
        *side = out;
    }
    return fromSides(
        fmt::format("{} flap {:g} deg at {:g} %", contour.name, std::round(angle * 5729.577951) / 100.0, 100.0 * hinge),
        sides.upper, sides.lower);
}

}  // namespace cvane::section
