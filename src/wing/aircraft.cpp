#include "wing/aircraft.h"

#include <fmt/format.h>

#include <cmath>
#include <set>

#include "base/errors.h"
#include "base/text.h"
#include "section/outline/families.h"

namespace cvane::wing {
namespace {
constexpr double kMostAngle_deg = 90.0, kMostControl_deg = 60.0, kLargest = 1000.0;  // [m]

[[noreturn]] void fail(const std::string& where, const std::string& what, const std::string& todo) {
    throw base::InputError(what, where, todo);
}

void checkFinite(const std::string& where, const char* what, double v, double most, const char* unit) {
    if (!(std::abs(v) <= most))
        fail(where, fmt::format("{} is {:g} {}.", what, v, unit), fmt::format("Give up to {:g} {}.", most, unit));
}

void checkSection(const Aircraft& a, const std::string& where, const std::string& name) {
    if (a.sections.contains(name)) return;
    if (!section::looksLikeCode(name))
        fail(where,
             fmt::format("the section \"{}\" is neither a code nor one of the file's own.", base::printable(name)),
             "Give a code such as 4412, or its coordinates under \"sections\".");
    section::sectionFromCode(name);
}

void checkStations(const Aircraft& a, const LiftingSurface& s) {
    if (s.stations.size() < 2) fail(s.name, "the surface has fewer than two stations.", "Give its root and its tip.");
    for (std::size_t i = 0; i < s.stations.size(); ++i) {
        const Station& t = s.stations[i];
        const auto where = fmt::format("{}, station {}", s.name, i + 1);
        if (!(t.chord > 0.0 && t.chord <= kLargest))
            fail(where, fmt::format("the chord is {:g} m.", t.chord), "Give more than 0 m.");
        checkFinite(where, "the leading edge", t.leading, kLargest, "m");
        checkFinite(where, "the place along the span", t.along, kLargest, "m");
        checkFinite(where, "the twist", t.twist_deg, kMostAngle_deg, "deg");
        checkFinite(where, "the dihedral", t.dihedral_deg, 180.0, "deg");
        if (i > 0 && !(t.along > s.stations[i - 1].along))
            fail(where,
                 fmt::format("it lies at {:g} m along the span and the one before at {:g} m.", t.along,
                             s.stations[i - 1].along),
                 "Put stations in order from the root to the tip, no two at one place.");
        if (i + 1 < s.stations.size() && (t.strips < 1 || t.strips > 400))
            fail(where, fmt::format("the panel has {} strips.", t.strips), "Give 1 to 400.");
        checkSection(a, where, t.section);
    }
    if (s.stations.front().along != 0.0)
        fail(fmt::format("{}, station 1", s.name), "the root does not lie at 0 m along the span.",
             "Let it begin at 0.");
}

void checkControls(const LiftingSurface& s) {
    const double tip = s.stations.back().along;
    for (const Control& c : s.controls) {
        const auto where = fmt::format("{}, control \"{}\"", s.name, base::printable(c.name));
        if (!(c.from >= 0.0 && c.to <= tip * (1.0 + 1e-9) && c.from < c.to))
            fail(where, fmt::format("it runs from {:g} to {:g} m on a surface of {:g} m.", c.from, c.to, tip),
                 "Let it lie within the surface, its inner end first.");
        if (!(c.hinge > 0.05 && c.hinge < 0.98))
            fail(where, fmt::format("its hinge lies at {:g} chords.", c.hinge), "Give 0.05 to 0.98.");
        checkFinite(where, "its angle", c.angle_deg, kMostControl_deg, "deg");
        for (const Control& other : s.controls)
            if (&other < &c && c.from < other.to - 1e-9 && other.from < c.to - 1e-9)
                fail(where, fmt::format("it overlaps \"{}\".", base::printable(other.name)),
                     "Part them along the span.");
    }
}

void checkBody(const Body& b) {
    if (b.stations.size() < 2) fail(b.name, "the body has fewer than two frames.", "Give its nose and its tail.");
    for (std::size_t i = 0; i < b.stations.size(); ++i) {
        const BodyStation& t = b.stations[i];
        const auto where = fmt::format("{}, frame {}", b.name, i + 1);
        checkFinite(where, "its place", t.x, kLargest, "m");
        if (i > 0 && !(t.x > b.stations[i - 1].x))
            fail(where, fmt::format("it lies at x {:g} m, not behind the one before.", t.x),
                 "Put frames in order, nose first.");
        if (!(t.width >= 0.0 && t.height >= 0.0 && t.width <= kLargest && t.height <= kLargest))
            fail(where, fmt::format("it is {:g} m wide and {:g} m high.", t.width, t.height), "Give 0 or more.");
        const bool end = i == 0 || i + 1 == b.stations.size();
        if (!end && !(t.width > 0.0 && t.height > 0.0))
            fail(where, "a frame between nose and tail has no size.", "Give it a width and a height.");
        if (!(t.power >= 1.0 && t.power <= 20.0))
            fail(where, fmt::format("its power is {:g}.", t.power), "Give 1 to 20; 2 is an ellipse.");
    }
}

void checkPropeller(const Propeller& p) {
    constexpr double kMostThrust = 1e7, kMostTurns = 1e6;  // [N], [1/min]
    const auto where = fmt::format("propeller \"{}\"", base::printable(p.name));
    if (!(p.diameter > p.hub && p.hub >= 0.0 && p.diameter <= kLargest))
        fail(where, fmt::format("its diameter is {:g} m and that of its hub {:g} m.", p.diameter, p.hub),
             "Give a diameter above the hub's.");
    if (!(p.axis.norm() > 0.0 && p.axis.norm() < 1e6))
        fail(where, "its axis has no direction.", "Give the way in which it pushes the air, as 1 0 0.");
    for (int k = 0; k < 3; ++k) checkFinite(where, "its place", p.centre[k], kLargest, "m");
    checkFinite(where, "its thrust", p.thrust, kMostThrust, "N");
    checkFinite(where, "its speed of turning", p.rpm, kMostTurns, "rpm");
    if (p.mirrored && p.centre.y() == 0.0)
        fail(where, "it is mirrored and stands in the mirror plane.", "Move it to starboard, or do not mirror it.");
}
}  // namespace

std::vector<Propeller> propellersOf(const Aircraft& a) {
    std::vector<Propeller> out;
    for (const Propeller& p : a.propellers) {
        out.push_back(p);
        if (!p.mirrored) continue;
        Propeller port = p;
        port.name += ", port";
        port.centre.y() = -p.centre.y();
        port.axis.y() = -p.axis.y() + 0.0;
        port.rpm = -p.rpm + 0.0;
        out.push_back(port);
    }
    return out;
}

std::size_t panelsOf(const Aircraft& a) {
    double all = 0.0;
    for (const auto& s : a.surfaces) {
        double strips = 0.0;
        for (std::size_t i = 0; i + 1 < s.stations.size(); ++i) strips += s.stations[i].strips;
        // A control's ends part a panel that they fall into.
        strips += 2.0 * static_cast<double>(s.controls.size());
        all += strips * s.rows * (s.mirrored ? 2.0 : 1.0);
    }
    return static_cast<std::size_t>(all);
}

void check(const Aircraft& a) {
    const std::string where = a.name.empty() ? "the aircraft" : a.name;
    if (a.surfaces.empty()) fail(where, "there is no lifting surface.", "Give one at least.");
    std::set<std::string> names;
    for (const auto& s : a.surfaces) {
        if (s.name.empty() || !names.insert(s.name).second)
            fail(where, fmt::format("two parts are called \"{}\", or one has no name.", base::printable(s.name)),
                 "Give each a name of its own.");
        if (s.rows < 1 || s.rows > 200)
            fail(s.name, fmt::format("there are {} rows along the chord.", s.rows), "Give 1 to 200.");
        checkFinite(s.name, "the incidence", s.incidence_deg, kMostAngle_deg, "deg");
        checkFinite(s.name, "the roll", s.roll_deg, 180.0, "deg");
        checkStations(a, s);
        checkControls(s);
    }
    for (const auto& b : a.bodies) {
        if (b.name.empty() || !names.insert(b.name).second)
            fail(where, fmt::format("two parts are called \"{}\", or one has no name.", base::printable(b.name)),
                 "Give each a name of its own.");
        checkBody(b);
    }
    for (const auto& p : a.propellers) {
        if (p.name.empty() || !names.insert(p.name).second)
            fail(where, fmt::format("two parts are called \"{}\", or one has no name.", base::printable(p.name)),
                 "Give each a name of its own.");
        checkPropeller(p);
    }
    if (!(a.mass >= 0.0 && a.mass < 1e7)) fail(where, fmt::format("its mass is {:g} kg.", a.mass), "Give 0 or more.");
    if (const auto n = panelsOf(a); n > kMostPanels)
        fail(where,
             fmt::format("its lattice would have {} panels, whose equations take {:.3g} GB.", n,
                         8e-9 * static_cast<double>(n) * static_cast<double>(n)),
             fmt::format("Ask for {} or fewer: fewer strips, or fewer rows.", kMostPanels));
}

}  // namespace cvane::wing
