#include "lifting/runs.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/errors.h"
#include "base/text.h"
#include "base/units.h"
#include "lifting/bodies.h"
#include "lifting/slipstream.h"
#include "wing/layout.h"
#include "wing/measures.h"

namespace cvane::lifting {
using base::degree;

namespace {
constexpr double kMostTrim_deg = 30.0, kTrimmed = 1e-6;
constexpr double kSmall = 1e-3;                  // of a derivative's step: [rad], or of a rate
constexpr double kWakeLength = 2.0;              // of wakes that follow the flow [spans]
constexpr int kWakePieces = 24, kWakeSteps = 4;  // after three the lift stays to six digits
constexpr int kMostTries = 12, kMostStripSteps = 60;

/// An aircraft with its lattices, of which one is made anew only where it must be.
class Lab {
  public:
    Lab(const wing::Aircraft& aircraft, const Asked& asked, const air::Reference& reference)
        : aircraft_(aircraft), asked_(asked), reference_(reference) {}

    wing::Aircraft& aircraft() { return aircraft_; }
    /// The flow of an angle is its own mirror image.
    bool isSymmetric() const { return asked_.beta == 0.0 && wing::isSymmetric(aircraft_); }
    /// The controls have been turned.
    void forget() { known_.reset(); }

    const VortexLattice& lattice(const air::FreeStream& wind, bool whole) {
        const bool symmetric = !whole && isSymmetric();
        Surroundings s;
        s.symmetric = symmetric;
        s.mach = asked_.compressible ? wind.mach() : 0.0;
        if (asked_.wake != Wake::Axis || asked_.height) s.wake = windOf(wind).dragAxis();
        if (asked_.height) s.ground = reference_.momentCentre.z() - *asked_.height;
        const Made made{s.wake, s.mach, asked_.height ? wind.alpha : 0.0, symmetric};
        if (known_ && made_ == made) return *known_;
        auto lattice = wing::latticeOf(aircraft_, symmetric);
        if (asked_.height) pitch(lattice, wind.alpha, *s.ground);
        known_ = std::make_unique<VortexLattice>(lattice, s);
        for (int k = 0; asked_.wake == Wake::Flow && k < kWakeSteps; ++k) {
            s.wakePaths = known_->carriedWakes({windOf(wind), Vec3::Zero(), reference_.momentCentre},
                                               kWakeLength * reference_.span, kWakePieces);
            known_ = std::make_unique<VortexLattice>(lattice, s);
        }
        made_ = made;
        return *known_;
    }
    /// The wind as the lattice sees it: over a ground the model is pitched instead.
    air::FreeStream windOf(air::FreeStream wind) const {
        if (asked_.height) wind.alpha = 0.0;
        return wind;
    }

  private:
    void pitch(wing::Lattice& lattice, double alpha, double ground) const {
        const Mat3 turn = Eigen::AngleAxisd(alpha, Vec3::UnitY()).toRotationMatrix();
        const Vec3& c = reference_.momentCentre;
        for (auto& p : lattice.patches)
            for (auto& n : p.nodes) {
                n = c + turn * (n - c);
                if (!(n.z() > ground))
                    throw base::InputError(fmt::format("the {} reaches into the ground at alpha {:.3g} deg.",
                                                       aircraft_.surfaces[p.surface].name, alpha / degree),
                                           "height", "Give a larger one.");
            }
        for (auto& s : lattice.strips) {
            s.quarter = c + turn * (s.quarter - c);
            s.across = turn * s.across;
            s.chordwise = turn * s.chordwise;
        }
    }
    struct Made {
        Vec3 wake;
        double mach, pitch;
        bool symmetric;
        bool operator==(const Made&) const = default;
    };
    wing::Aircraft aircraft_;
    const Asked& asked_;
    const air::Reference& reference_;
    std::unique_ptr<VortexLattice> known_;
    Made made_{};
};

Attitude attitudeOf(const air::FreeStream& wind, const air::Reference& reference, const wing::Aircraft& aircraft) {
    Attitude out{wind, Vec3::Zero(), reference.momentCentre};
    if (Slipstream s(wing::propellersOf(aircraft), wind); !s.empty())
        out.beside = [s = std::move(s)](const Vec3& place) { return s.at(place); };
    return out;
}

// Strips' lift as their sections have it: what flows through a strip beside its surface is changed until the section,
// at the angle that the strip then sees, has the lift that the lattice gives it.
Loads heldToSections(const VortexLattice& lattice, const PolarBook& book, const Attitude& attitude,
                     const air::Reference& reference) {
    const auto& strips = lattice.lattice().strips;
    const double V = attitude.wind.speed, nu = attitude.wind.air.kinematicViscosity();
    std::vector<double> bend(strips.size(), 0.0), through(strips.size()), zero;
    for (const auto& s : strips) zero.push_back(book.thinZeroLift(s));
    Loads loads = lattice.at(attitude, reference);
    for (int step = 0; step < kMostStripSteps; ++step) {
        double worst = 0.0;
        for (std::size_t k = 0; k < strips.size(); ++k) {
            const double cl = loads.strips[k].cl;
            const double sees = cl / (2.0 * std::numbers::pi) + zero[k] - bend[k];
            const double off = book.liftAt(strips[k], sees, V * strips[k].chord / nu) - cl;
            worst = std::max(worst, std::abs(off));
            bend[k] += 0.3 * off / (2.0 * std::numbers::pi);
            through[k] = V * bend[k];
        }
        if (worst < 2e-4) break;
        loads = lattice.at(attitude, reference, through);
    }
    return loads;
}

// Moments about hinge lines, trailing edge down.
std::map<std::string, double> hingeMoments(const wing::Aircraft& a, const VortexLattice& lattice, const Loads& loads) {
    std::map<std::string, double> out;
    for (const auto& p : lattice.lattice().patches) {
        const auto& strip = lattice.lattice().strips[p.firstStrip];
        if (!strip.control) continue;
        const auto& surface = a.surfaces[p.surface];
        const auto& control = surface.controls[*strip.control];
        const auto rows = wing::rowEdges(surface);
        const int hinge =
            static_cast<int>(std::lower_bound(rows.begin(), rows.end() - 1, control.hinge - 1e-9) - rows.begin());
        const Vec3 at = p.node(hinge, 0), axis = (p.node(hinge, p.strips) - at).normalized();
        double& moment = out[p.port ? control.name + ", port" : control.name];
        for (int i = hinge; i < p.rows; ++i)
            for (int j = 0; j < p.strips; ++j) {
                const Vec3 middle = 0.25 * (p.node(i, j) + p.node(i, j + 1) + p.node(i + 1, j) + p.node(i + 1, j + 1));
                moment += (middle - at).cross(loads.panelForce[p.panel(i, j)]).dot(axis);
            }
    }
    return out;
}

// Of all bodies, which add to what the surfaces feel.
BodyLoad bodiesOf(const wing::Aircraft& a, const air::FreeStream& wind, const air::Reference& reference) {
    BodyLoad all;
    for (const auto& b : a.bodies) {
        const auto load = loadOf(b, wind, reference.momentCentre);
        all.force += load.force;
        all.moment += load.moment;
    }
    return all;
}

/// One angle at one speed with the controls as they are.
Row solve(Lab& lab, const Asked& asked, const PolarBook& book, const air::FreeStream& wind,
          const air::Reference& reference) {
    Row row;
    row.wind = wind;
    const auto& lattice = lab.lattice(wind, false);
    const auto seen = lab.windOf(wind);
    const auto attitude = attitudeOf(seen, reference, lab.aircraft());
    const auto loads =
        asked.holdStrips ? heldToSections(lattice, book, attitude, reference) : lattice.at(attitude, reference);
    row.coefficients = loads.coefficients;
    row.inducedNear = loads.coefficients.CD;
    row.inducedFar = loads.inducedFar;
    row.liftNear = loads.coefficients.CL;
    row.liftFar = loads.liftFar;
    row.efficiency = loads.efficiency;
    row.deltaCp = loads.deltaCp;
    row.wakes = lattice.wakePaths();
    row.hinge = hingeMoments(lab.aircraft(), lattice, loads);
    const auto& strips = lattice.lattice().strips;
    const bool symmetric = lab.isSymmetric();
    const double q = wind.dynamicPressure(), both = symmetric ? 2.0 : 1.0;
    Vec3 force = Vec3::Zero(), moment = Vec3::Zero();
    double area = 0.0, stalled = 0.0;
    for (std::size_t k = 0; k < strips.size(); ++k) {
        StripRow s{strips[k], loads.strips[k], wind.reynolds(strips[k].chord), 0.0, false};
        const double own = strips[k].chord * strips[k].width;
        // In a slipstream the section meets faster air.
        const double faster =
            attitude.beside ? (seen.velocity() + attitude.beside(strips[k].quarter)).norm() / seen.speed : 1.0;
        if (asked.sectionDrag || asked.holdStrips) {
            const auto says = book.of(strips[k], s.load.cl / (faster * faster), faster * s.reynolds);
            s.cd = faster * faster * says.cd;
            s.stalled = says.stalled;
        }
        const Vec3 drag = asked.sectionDrag ? Vec3(q * own * s.cd * seen.dragAxis()) : Vec3::Zero();
        force += drag;
        moment += (strips[k].quarter - reference.momentCentre).cross(drag);
        area += own;
        if (s.stalled) stalled += own;
        row.surfaceForce[lab.aircraft().surfaces[strips[k].surface].name] += both * s.load.force;
        row.strips.push_back(std::move(s));
    }
    row.stalledShare = stalled / area;
    if (symmetric) {
        force *= 2.0;
        moment = Vec3(0.0, 2.0 * moment.y(), 0.0);
        for (auto& [name, f] : row.surfaceForce) f.y() = 0.0;
    }
    const auto bodies = bodiesOf(lab.aircraft(), seen, reference);
    const auto more = air::coefficients(force + bodies.force, moment + bodies.moment, seen, reference);
    row.profile = more.CD;
    for (const auto m : air::kAllCoefficients) row.coefficients.*m += more.*m;
    // Far behind induced drag is of the circulation alone; near the surface it is the small rest of large forces.
    row.coefficients.CD = row.inducedFar + row.profile;
    return row;
}

double* angleNamed(wing::Aircraft& a, const std::string& name) {
    for (auto& s : a.surfaces) {
        for (auto& c : s.controls)
            if (c.name == name) return &c.angle_deg;
        if (s.name == name) return &s.incidence_deg;
    }
    throw base::InputError(fmt::format("there is no control or surface \"{}\".", base::printable(name)), "trim",
                           "Name one that the aircraft has.");
}

class Sweep {
  public:
    Sweep(const wing::Aircraft& aircraft, const Asked& asked, const air::Reference& reference,
          std::shared_ptr<PolarShelf> shelf)
        : asked_(asked),
          reference_(reference),
          lab_(aircraft, asked, reference),
          book_(lab_.aircraft(), asked.transition, std::move(shelf)) {}

    Row at(double alpha, double& speed) {
        if (asked_.trimBy.empty()) return held(alpha, speed);
        double& angle = *angleNamed(lab_.aircraft(), asked_.trimBy);
        const double first = angle;
        const auto off = [&](double to) {
            if (to != angle) lab_.forget();
            angle = to;
            return held(alpha, speed);
        };
        double a = angle, b = angle - 1.0;
        Row rowA = off(a), row = off(b);
        for (int k = 0; k < kMostTries && std::abs(row.coefficients.Cm) > kTrimmed; ++k) {
            const double slope = (row.coefficients.Cm - rowA.coefficients.Cm) / (b - a);
            const double next = b - row.coefficients.Cm / slope;
            if (!(std::abs(slope) > 1e-9) || !(std::abs(next) <= kMostTrim_deg)) {
                row.reached = false;
                row.why = fmt::format("\"{}\" does not bring Cm to 0 within {:.0f} deg.", asked_.trimBy, kMostTrim_deg);
                angle = first;
                lab_.forget();
                return row;
            }
            a = b, rowA = row;
            b = next;
            row = off(b);
        }
        row.trimAngle_deg = angle;
        return row;
    }
    Lab& lab() { return lab_; }
    base::Progress progress;

  private:
    Row solveAt(const air::FreeStream& wind) {
        if (asked_.sectionDrag || asked_.holdStrips)
            book_.prepare(lab_.lattice(wind, false).lattice(), wind.speed, asked_.air.kinematicViscosity(), progress);
        return solve(lab_, asked_, book_, wind, reference_);
    }
    Row held(double alpha, double& speed) {
        air::FreeStream wind{speed, alpha, asked_.beta, asked_.air};
        Row row = solveAt(wind);
        if (!asked_.holdMass) return row;
        for (int k = 0; k < kMostTries; ++k) {
            const double weight = *asked_.holdMass * kGravity;
            if (!(row.coefficients.CL > 1e-3)) {
                row.reached = false;
                row.why = "There is no lift that could carry it.";
                return row;
            }
            const double next = std::sqrt(2.0 * weight / (asked_.air.density * reference_.area * row.coefficients.CL));
            const bool there = std::abs(next - wind.speed) < 1e-6 * next;
            if (next > 0.9 * asked_.air.soundSpeed) {
                row.reached = false;
                row.why = fmt::format("It would need {:.4g} m/s.", next);
                return row;
            }
            wind.speed = next;
            if (there) break;
            row = solveAt(wind);
        }
        speed = wind.speed;
        return row;
    }
    const Asked& asked_;
    const air::Reference& reference_;
    Lab lab_;
    PolarBook book_;  ///< of the aircraft as its controls are turned
};

Derivatives derivativesAt(Lab& lab, const air::FreeStream& wind, const air::Reference& reference) {
    Derivatives out;
    const auto base = lab.windOf(wind);
    const auto difference = [&](const VortexLattice& of, const auto& change, double step) {
        Attitude up = attitudeOf(base, reference, lab.aircraft()), down = up;
        change(up, step);
        change(down, -step);
        auto a = of.at(up, reference), b = of.at(down, reference);
        const auto bodies = [&](Loads& l, const Attitude& at) {
            if (at.rates != Vec3::Zero()) return;
            const auto load = bodiesOf(lab.aircraft(), at.wind, reference);
            l.force += load.force;
            l.moment += load.moment;
            l.coefficients = air::coefficients(l.force, l.moment, at.wind, reference);
        };
        bodies(a, up);
        bodies(b, down);
        return std::pair(a, b);
    };
    const auto slope = [](const std::pair<Loads, Loads>& ab, double step) {
        air::Coefficients c;
        for (const auto m : air::kAllCoefficients)
            c.*m = (ab.first.coefficients.*m - ab.second.coefficients.*m) / (2.0 * step);
        return c;
    };
    const auto& whole = lab.lattice(wind, true);
    const auto alpha = difference(
        whole, [](Attitude& a, double h) { a.wind.alpha += h; }, kSmall);
    out.alpha = slope(alpha, kSmall);
    out.beta = slope(difference(
                         whole, [](Attitude& a, double h) { a.wind.beta += h; }, kSmall),
                     kSmall);
    const double lengths[3] = {reference.span, reference.length, reference.span};
    air::Coefficients* rates[3] = {&out.roll, &out.pitch, &out.yaw};
    for (int axis = 0; axis < 3; ++axis) {
        const double rate = kSmall * 2.0 * wind.speed / lengths[axis];
        *rates[axis] = slope(difference(
                                 whole, [&](Attitude& a, double h) { a.rates[axis] += h * rate / kSmall; }, kSmall),
                             kSmall);
    }
    // About the neutral point the moment does not change with the angle: shift along x alone.
    const double moment = alpha.first.moment.y() - alpha.second.moment.y(),
                 across = alpha.first.force.z() - alpha.second.force.z();
    out.neutralPoint = reference.momentCentre;
    out.neutralPoint.x() -= moment / across;
    out.staticMargin = (out.neutralPoint.x() - reference.momentCentre.x()) / reference.length;
    for (auto& s : lab.aircraft().surfaces)
        for (auto& c : s.controls) {
            constexpr double kStep_deg = 0.5;
            const double was = c.angle_deg;
            const auto turned = [&](double by) {
                c.angle_deg = was + by;
                lab.forget();
                return lab.lattice(wind, true).at(attitudeOf(base, reference, lab.aircraft()), reference);
            };
            const auto down = turned(kStep_deg), up = turned(-kStep_deg);
            c.angle_deg = was;
            out.controls[c.name] = slope({down, up}, kStep_deg * degree);
        }
    lab.forget();
    return out;
}

void checkAsked(const wing::Aircraft& a, const Asked& asked) {
    if (asked.alphas.empty()) throw base::InputError("no angle is given.", "alpha", "Give one at least.");
    for (const double alpha : asked.alphas)
        if (!(std::abs(alpha) <= 30.0 * degree))
            throw base::InputError(fmt::format("alpha is {:.4g} deg.", alpha / degree), "alpha", "Give -30 to 30 deg.");
    if (!(std::abs(asked.beta) <= 30.0 * degree))
        throw base::InputError(fmt::format("beta is {:.4g} deg.", asked.beta / degree), "beta", "Give -30 to 30 deg.");
    if (!(asked.speed > 0.0 && asked.speed <= 300.0))
        throw base::InputError(fmt::format("the speed is {:g} m/s.", asked.speed), "speed",
                               "Give above 0 and up to 300 m/s.");
    if (asked.holdMass && !(*asked.holdMass > 0.0))
        throw base::InputError("no mass is given that the lift could carry.", "hold-mass",
                               "Give it in kg, or in the aircraft's file.");
    if (asked.height && !(*asked.height > 0.0))
        throw base::InputError(fmt::format("the height over ground is {:g} m.", *asked.height), "height",
                               "Give more than 0 m.");
    auto copy = a;
    if (!asked.trimBy.empty()) angleNamed(copy, asked.trimBy);
}

std::vector<std::string> remarksOn(const wing::Aircraft& a, const Asked& asked, const Outcome& out) {
    std::vector<std::string> remarks;
    if (!a.bodies.empty())
        remarks.push_back(
            "Bodies by slender-body theory and a plate's friction, each by itself: they do not bend the flow about the "
            "wings, and wings do not lift on them.");
    if (!a.propellers.empty())
        remarks.push_back(
            "Propellers as even discs by momentum theory: their thrust is in no coefficient, their slipstreams are "
            "straight and do not bend wakes, and induced drag is that of the circulation in still air.");
    if (!asked.sectionDrag)
        remarks.push_back("Without the sections' drag: CD is induced drag and bodies' friction alone.");
    if (!asked.holdStrips)
        for (const auto& r : out.rows)
            if (r.stalledShare > 0.0) {
                remarks.push_back(
                    fmt::format("From alpha {:.3g} deg on strips carry more than their sections can; hold strips to "
                                "their sections to see the stall.",
                                r.wind.alpha / degree));
                break;
            }
    const double mach = out.rows.empty() ? 0.0 : out.rows.front().wind.mach();
    if (!asked.compressible && mach > 0.3)
        remarks.push_back(fmt::format("Mach {:.2f}: the air's elasticity is left out; ask for it.", mach));
    return remarks;
}
}  // namespace

std::optional<double> angleOfLift(const std::vector<Row>& rows, double CL) {
    for (std::size_t k = 0; k + 1 < rows.size(); ++k) {
        const auto &a = rows[k], &b = rows[k + 1];
        const double from = a.coefficients.CL - CL, to = b.coefficients.CL - CL;
        if (!a.reached || !b.reached || from * to > 0.0 || from == to) continue;
        return a.wind.alpha + from / (from - to) * (b.wind.alpha - a.wind.alpha);
    }
    return std::nullopt;
}

wing::Aircraft turnedTo(wing::Aircraft aircraft, const std::string& name, double angle_deg) {
    if (!name.empty()) *angleNamed(aircraft, name) = angle_deg;
    return aircraft;
}

Outcome run(const wing::Aircraft& aircraft, const Asked& asked, const base::Progress& progress,
            std::shared_ptr<PolarShelf> shelf) {
    wing::check(aircraft);
    checkAsked(aircraft, asked);
    Outcome out;
    out.reference = wing::referenceOf(aircraft);
    if (!shelf) shelf = std::make_shared<PolarShelf>();
    Sweep sweep(aircraft, asked, out.reference, shelf);
    sweep.progress = progress;
    double speed = asked.speed;
    for (std::size_t k = 0; k < asked.alphas.size(); ++k) {
        base::report(progress, static_cast<double>(k) / static_cast<double>(asked.alphas.size()),
                     fmt::format("alpha {:.4g} deg", asked.alphas[k] / degree));
        out.rows.push_back(sweep.at(asked.alphas[k], speed));
    }
    out.lattice = sweep.lab().lattice(out.rows.back().wind, false).lattice();
    if (asked.holdStrips && out.rows.size() > 2) {
        const auto most = std::max_element(out.rows.begin(), out.rows.end(), [](const Row& a, const Row& b) {
            return a.coefficients.CL < b.coefficients.CL;
        });
        if (most != out.rows.begin() && most + 1 != out.rows.end()) out.greatestLift = most->coefficients.CL;
    }
    if (asked.derivatives && !asked.height)
        out.derivatives = derivativesAt(sweep.lab(), out.rows.front().wind, out.reference);
    out.remarks = remarksOn(aircraft, asked, out);
    return out;
}

}  // namespace cvane::lifting
