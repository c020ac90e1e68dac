#include "lifting/vortex_lattice.h"

#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "base/errors.h"
#include "lifting/ring_equations.h"

namespace cvane::lifting {
namespace {
using Motion = Eigen::Matrix<double, 6, 1>;

Eigen::Index index(std::size_t i) {
    return static_cast<Eigen::Index>(i);
}

// The six motions of unit strength: the wind along x, y, z [m/s], and turning about x, y, z [rad/s].
const std::vector<Parity> kParityOfMotions = {Parity::Even, Parity::Odd,  Parity::Even,
                                              Parity::Odd,  Parity::Even, Parity::Odd};
Motion motionOf(const Attitude& a) {
    const Vec3 v = a.wind.velocity();
    // Rolling with the starboard wing down is about x forwards, yawing to starboard about z downwards.
    const Vec3 turn(-a.rates.x(), a.rates.y(), -a.rates.z());
    // Of a body that turns about its centre; about the origin there is a shift besides.
    const Vec3 shift = turn.cross(a.centre);
    Motion m;
    m << v + shift, turn;
    return m;
}
Vec3 onset(const Motion& m, const Vec3& place) {
    return m.head<3>() - m.tail<3>().cross(place);
}
}  // namespace

Vec3 VortexLattice::onset(const Attitude& a, const Motion& m, const Vec3& place) {
    const Vec3 v = lifting::onset(m, place);
    return a.beside ? Vec3(v + a.beside(place)) : v;
}

VortexLattice::VortexLattice(wing::Lattice lattice, const Surroundings& surroundings)
    : lattice_(std::move(lattice)), around_(surroundings) {
    if (!(around_.mach >= 0.0 && around_.mach < 0.95))
        throw base::InputError(fmt::format("the Mach number is {:.3g}.", around_.mach), "the lifting surface",
                               "Give one below 0.95: the rule of Prandtl and Glauert ends before the speed of sound.");
    layRings();
    solveMotions();
}

// The destructor of the equations is not known to the header.
VortexLattice::~VortexLattice() = default;

void VortexLattice::layRings() {
    std::vector<Filament> all, wakes, rays;
    for (const auto& p : lattice_.patches) {
        // Fronts of rings on the panels' quarter lines; the last ring ends at the trailing edge.
        const auto corner = [&](int i, int j) {
            if (i == p.rows) return p.node(i, j);
            return Vec3(p.node(i, j) + 0.25 * (p.node(i + 1, j) - p.node(i, j)));
        };
        const auto ring = [&](int i, int j) {
            return i < 0 || j < 0 || j >= p.strips ? -1 : static_cast<int>(p.panel(i, j));
        };
        for (int i = 0; i < p.rows; ++i)
            for (int j = 0; j <= p.strips; ++j) {
                all.push_back({corner(i, j), corner(i + 1, j), false, false, ring(i, j - 1), ring(i, j)});
                if (j < p.strips) {
                    all.push_back({corner(i, j), corner(i, j + 1), false, true, ring(i, j), ring(i - 1, j)});
                    const Vec3 a = p.node(i + 1, j + 1) - p.node(i, j), b = p.node(i, j + 1) - p.node(i + 1, j),
                               n = a.cross(b);
                    if (!(n.norm() > 0.0))
                        throw base::InputError("a panel has no area.", "the lifting surfaces", "Look at its stations.");
                    area_.push_back(0.5 * n.norm());
                    normal_.push_back(n.normalized());
                    const double t = lattice_.strips[p.firstStrip + static_cast<std::size_t>(j)].middle;
                    control_.push_back((1.0 - t) * (0.25 * p.node(i, j) + 0.75 * p.node(i + 1, j)) +
                                       t * (0.25 * p.node(i, j + 1) + 0.75 * p.node(i + 1, j + 1)));
                    strip_.push_back(p.firstStrip + static_cast<std::size_t>(j));
                }
                if (i + 1 < p.rows) continue;
                const int with = ring(i, j - 1), against = ring(i, j);
                Vec3 from = corner(p.rows, j);
                trailing_.push_back(from);
                if (!around_.wakePaths.empty())
                    for (const Vec3& to : around_.wakePaths.at(trailing_.size() - 1)) {
                        if ((to - from).squaredNorm() > 0.0) wakes.push_back({from, to, false, false, with, against});
                        from = to;
                    }
                rays.push_back({from, around_.wake, true, false, with, against});
            }
    }
    for (const auto& f : all) {
        const double t = f.across ? lattice_.strips[strip_[static_cast<std::size_t>(f.with)]].middle : 0.5;
        middle_.push_back((1.0 - t) * f.from + t * f.to);
    }
    all.insert(all.end(), wakes.begin(), wakes.end());
    all.insert(all.end(), rays.begin(), rays.end());
    field_ = std::make_unique<VortexField>(
        std::move(all), Space{around_.symmetric, around_.ground.has_value(), around_.ground.value_or(0.0),
                              std::sqrt(1.0 - around_.mach * around_.mach)});
}

Eigen::VectorXd VortexLattice::velocityThrough(const Motion& m) const {
    Eigen::VectorXd out(index(control_.size()));
    for (std::size_t i = 0; i < control_.size(); ++i) out[index(i)] = lifting::onset(m, control_[i]).dot(normal_[i]);
    return out;
}

void VortexLattice::solveMotions() {
    // An image in y = 0 is there already, or there is none as long as wakes leave to one side.
    const bool mirrored = !around_.symmetric && around_.wake.y() == 0.0 && around_.wakePaths.empty();
    equations_ = std::make_unique<RingEquations>(*field_, control_, normal_, middle_,
                                                 mirrored ? mirrorPairs(lattice_) : std::nullopt);
    Eigen::MatrixXd b(index(control_.size()), 6);
    for (int m = 0; m < 6; ++m) b.col(m) = -velocityThrough(Motion::Unit(m));
    circulation_ = equations_->solve(b, kParityOfMotions);
    induced_ = equations_->inducedBy(circulation_, kParityOfMotions);
}

Loads VortexLattice::at(const Attitude& attitude, const air::Reference& reference) const {
    if (attitude.beside) return at(attitude, reference, std::vector<double>(lattice_.strips.size(), 0.0));
    const Motion m = motionOf(attitude);
    return loadsOf(m, circulation_ * m, induced_ * m, attitude, reference);
}

Loads VortexLattice::at(const Attitude& attitude, const air::Reference& reference,
                        const std::vector<double>& throughStrip) const {
    const Motion m = motionOf(attitude);
    Eigen::VectorXd b = -velocityThrough(m);
    for (std::size_t i = 0; i < control_.size(); ++i) {
        b[index(i)] -= throughStrip[strip_[i]];
        if (attitude.beside) b[index(i)] -= attitude.beside(control_[i]).dot(normal_[i]);
    }
    const Eigen::MatrixXd circulation = equations_->solve(b, {Parity::Neither});
    const Eigen::MatrixXd induced = equations_->inducedBy(circulation, {Parity::Neither});
    return loadsOf(m, circulation.col(0), induced.col(0), attitude, reference);
}

namespace {
// To starboard, on either half.
Vec3 starboardOf(const wing::Strip& strip) {
    return strip.port ? Vec3(-strip.across) : strip.across;
}
}  // namespace

Loads VortexLattice::loadsOf(const Motion& m, const Eigen::VectorXd& circulation, const Eigen::VectorXd& induced,
                             const Attitude& attitude, const air::Reference& reference) const {
    Loads out;
    out.strips.resize(lattice_.strips.size());
    out.panelForce.assign(control_.size(), Vec3::Zero());
    const auto& filaments = field_->filaments();
    const double density = attitude.wind.air.density;
    std::vector<double> weight(lattice_.strips.size(), 0.0);
    const auto push = [&](int panel, const Vec3& force, const Vec3& where) {
        const auto s = strip_[static_cast<std::size_t>(panel)];
        out.panelForce[static_cast<std::size_t>(panel)] += force;
        out.strips[s].force += force;
        out.strips[s].moment += (where - lattice_.strips[s].quarter).cross(force);
        out.force += force;
        out.moment += (where - reference.momentCentre).cross(force);
    };
    for (std::size_t b = 0; b < middle_.size(); ++b) {
        const Filament& f = filaments[b];
        const double strength = strengthOf(f, circulation);
        const Vec3 v = induced.segment<3>(3 * index(b)), length = f.to - f.from;
        const Vec3 force = density * strength * (onset(attitude, m, middle_[b]) + v).cross(length);
        if (f.across) {
            push(f.with, force, middle_[b]);
            const auto k = strip_[static_cast<std::size_t>(f.with)];
            const wing::Strip& strip = lattice_.strips[k];
            out.strips[k].downwash -= v.dot(strip.chordwise.cross(starboardOf(strip)).normalized());
            weight[k] += 1.0;
            continue;
        }
        // Between two strips it pushes both alike.
        const double share = f.with >= 0 && f.against >= 0 ? 0.5 : 1.0;
        for (const int panel : {f.with, f.against})
            if (panel >= 0) push(panel, share * force, middle_[b]);
    }
    const Vec3 wind = attitude.wind.velocity();
    const double q = attitude.wind.dynamicPressure();
    for (std::size_t s = 0; s < out.strips.size(); ++s) {
        StripLoad& load = out.strips[s];
        const auto& strip = lattice_.strips[s];
        const Vec3 lift = wind.cross(starboardOf(strip)).normalized();
        load.cl = load.force.dot(lift) / (q * strip.chord * strip.width);
        if (weight[s] > 0.0) load.downwash /= weight[s];
    }
    for (const auto& p : lattice_.patches)
        for (int j = 0; j < p.strips; ++j)
            out.strips[p.firstStrip + static_cast<std::size_t>(j)].circulation =
                circulation[index(p.panel(p.rows - 1, j))];
    for (std::size_t i = 0; i < control_.size(); ++i)
        out.deltaCp.push_back(out.panelForce[i].dot(normal_[i]) / (q * area_[i]));
    if (around_.symmetric) {
        out.force = Vec3(2.0 * out.force.x(), 0.0, 2.0 * out.force.z());
        out.moment = Vec3(0.0, 2.0 * out.moment.y(), 0.0);
    }
    out.coefficients = air::coefficients(out.force, out.moment, attitude.wind, reference);
    addFar(out, circulation, attitude, reference);
    return out;
}

void VortexLattice::addFar(Loads& out, const Eigen::VectorXd& circulation, const Attitude& attitude,
                           const air::Reference& reference) const {
    const Vec3& d = around_.wake;
    struct Trace {
        Vec3 place;
        double strength;
    };
    std::vector<Trace> traces;
    const auto& filaments = field_->filaments();
    const std::size_t firstRay = field_->pieces();
    for (std::size_t r = 0; r < trailing_.size(); ++r) {
        const auto& f = filaments[firstRay + r];
        const double strength = strengthOf(f, circulation);
        const auto add = [&](Vec3 place, double by) { traces.push_back({place - place.dot(d) * d, by * strength}); };
        // Wakes that are carried about have the same impulse: the trace is that of straight ones.
        const Vec3& p = trailing_[r];
        add(p, 1.0);
        if (around_.symmetric) add(Vec3(p.x(), -p.y(), p.z()), -1.0);
        if (!around_.ground) continue;
        const Vec3 below(p.x(), p.y(), 2.0 * *around_.ground - p.z());
        add(below, -1.0);
        if (around_.symmetric) add(Vec3(below.x(), -below.y(), below.z()), 1.0);
    }
    Vec3 lift = Vec3::Zero();
    double drag = 0.0;
    for (const auto& p : lattice_.patches)
        for (int j = 0; j < p.strips; ++j) {
            const double strength = circulation[index(p.panel(p.rows - 1, j))];
            Vec3 a = p.node(p.rows, j), b = p.node(p.rows, j + 1);
            a -= a.dot(d) * d;
            b -= b.dot(d) * d;
            const double t = lattice_.strips[p.firstStrip + static_cast<std::size_t>(j)].middle;
            const Vec3 middle = (1.0 - t) * a + t * b;
            Vec3 v = Vec3::Zero();
            for (const auto& t : traces) {
                const Vec3 r = middle - t.place;
                if (const double r2 = r.squaredNorm(); r2 > 0.0)
                    v += t.strength / (2.0 * std::numbers::pi * r2) * d.cross(r);
            }
            const Vec3 up = d.cross(b - a);
            drag -= 0.5 * attitude.wind.air.density * strength * v.dot(up);
            lift += attitude.wind.air.density * attitude.wind.speed * strength * up;
        }
    const double both = around_.symmetric ? 2.0 : 1.0, qS = attitude.wind.dynamicPressure() * reference.area;
    out.inducedFar = both * drag / qS;
    if (around_.symmetric) lift.y() = 0.0;
    out.liftFar = both * lift.dot(attitude.wind.liftAxis()) / qS;
    const double aspect = reference.span * reference.span / reference.area;
    // Without lift there is nothing that the efficiency could be of.
    out.efficiency = out.inducedFar > 1e-12 ? out.liftFar * out.liftFar / (std::numbers::pi * aspect * out.inducedFar)
                                            : std::nan("");
}

std::vector<std::pair<Vec3, double>> VortexLattice::wakeOf(const Loads& loads) const {
    std::vector<std::pair<Vec3, double>> out;
    for (std::size_t r = 0; r < trailing_.size(); ++r) {
        const auto& f = field_->filaments()[field_->pieces() + r];
        const auto of = [&](int ring) {
            return ring < 0 ? 0.0 : loads.strips[strip_[static_cast<std::size_t>(ring)]].circulation;
        };
        out.emplace_back(trailing_[r], of(f.with) - of(f.against));
    }
    return out;
}

// Each piece lies along the velocity in the middle of the piece that is there now.
std::vector<std::vector<Vec3>> VortexLattice::carriedWakes(const Attitude& attitude, double length, int pieces) const {
    constexpr double kCore = 0.02;  // of the wakes' length
    const Motion m = motionOf(attitude);
    const Eigen::VectorXd rings = circulation_ * m;
    const Eigen::VectorXd strength = strengthsOf(field_->filaments(), rings);
    std::vector<std::vector<Vec3>> out(trailing_.size());
    const auto n = static_cast<std::ptrdiff_t>(trailing_.size());
    const double piece = length / pieces;
#pragma omp parallel for schedule(dynamic)
    for (std::ptrdiff_t r = 0; r < n; ++r) {
        const auto at = static_cast<std::size_t>(r);
        const auto* now = around_.wakePaths.empty() ? nullptr : &around_.wakePaths[at];
        Vec3 end = trailing_[at], was = end;
        for (int k = 0; k < pieces; ++k) {
            const Vec3 next = now ? (*now)[static_cast<std::size_t>(k)] : Vec3(was + piece * around_.wake);
            const Vec3 middle = 0.5 * (was + next);
            const Vec3 v = lifting::onset(m, middle) + field_->withCore(middle, strength, kCore * length);
            end += piece * v.normalized();
            out[at].push_back(end);
            was = next;
        }
    }
    return out;
}

}  // namespace cvane::lifting
