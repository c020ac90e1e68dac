#include "campaign/plan/points.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <tuple>

#include "air/plate_layer.h"
#include "base/errors.h"
#include "base/text.h"
#include "base/units.h"
#include "campaign/plan/propellers.h"
#include "grid/limits.h"

namespace cvane::campaign {
namespace {
constexpr std::size_t kMostPoints = 2000;
}

std::string Condition::name() const {
    // Two decimals, and more where these would give two points one folder.
    const auto text = [](double v) {
        const auto two = fmt::format("{:.2f}", v + 0.0);
        return std::abs(std::stod(two) - v) < 1e-9 ? two : fmt::format("{:.9g}", v);
    };
    return fmt::format("v{}_a{}_b{}", text(speed), text(alpha_deg), text(beta_deg));
}

std::string Point::name() const {
    std::string out = condition.name();
    if (!configuration.empty() || !setUp.empty())
        out += fmt::format("@{}@{}", shownName(configuration), shownName(setUp));
    if (method != Method::Field) out += fmt::format("@{}", nameOf(method).id);
    return out;
}

namespace {
[[noreturn]] void fail(const std::string& what, const std::string& todo) {
    throw base::InputError(what, "schedule", todo);
}

void addProduct(std::vector<Condition>& out, const std::vector<double>& speeds, const std::vector<double>& alphas_deg,
                const std::vector<double>& betas_deg) {
    if (speeds.empty() || alphas_deg.empty() || betas_deg.empty())
        fail("one of the lists is empty.", "Type at least one speed, alpha and beta.");
    if (static_cast<double>(speeds.size()) * static_cast<double>(alphas_deg.size()) *
            static_cast<double>(betas_deg.size()) >
        kMostPoints)
        fail(fmt::format("there are more than {} points.", kMostPoints), "Shorten the lists.");
    for (const double v : speeds)
        for (const double b : betas_deg)
            for (const double a : alphas_deg) out.push_back({v, a, b});
}

void checkRange(const Condition& c) {
    if (!(c.speed > 0.0 && c.speed <= 3000.0))
        fail(fmt::format("the speed {} m/s cannot be run.", c.speed), "Type speeds above 0 and up to 3000 m/s.");
    for (const double a : {c.alpha_deg, c.beta_deg})
        if (!(std::abs(a) <= 90.0))
            fail(fmt::format("the angle {} deg is out of range.", a), "Type angles from -90 to 90 degrees.");
}

bool isIn(const std::vector<Condition>& all, const Condition& c) {
    return std::find(all.begin(), all.end(), c) != all.end();
}

// Whether the lists make it, left out or not.
bool isOfLists(const Schedule& s, const Condition& c) {
    const auto in = [](const std::vector<double>& v, double x) { return std::find(v.begin(), v.end(), x) != v.end(); };
    return in(s.speeds, c.speed) && in(s.alphas_deg, c.alpha_deg) && in(s.betas_deg, c.beta_deg);
}

// In the order in which they are run, each once.
void arrange(std::vector<Condition>& all) {
    for (const Condition& c : all) checkRange(c);
    // Of angles the smaller first, and of two as large the positive one.
    const auto order = [](const Condition& c) {
        return std::tuple(c.speed, std::abs(c.beta_deg), -c.beta_deg, std::abs(c.alpha_deg), -c.alpha_deg);
    };
    std::sort(all.begin(), all.end(), [&](const auto& a, const auto& b) { return order(a) < order(b); });
    all.erase(std::unique(all.begin(), all.end()), all.end());
}
}  // namespace

std::vector<Condition> conditionsOf(const Schedule& s) {
    std::vector<Condition> out;
    addProduct(out, s.speeds, s.alphas_deg, s.betas_deg);
    std::erase_if(
        out, [&](const Condition& c) { return std::find(s.leftOut.begin(), s.leftOut.end(), c) != s.leftOut.end(); });
    out.insert(out.end(), s.also.begin(), s.also.end());
    if (out.empty()) fail("all conditions are left out.", "Take one back.");
    arrange(out);
    return out;
}

void replaceCondition(Schedule& s, const Condition& from, const Condition& to) {
    const auto all = conditionsOf(s);
    if (std::find(all.begin(), all.end(), from) == all.end())
        throw base::InputError("is no condition of the schedule.", from.name(), "");
    if (from == to) return;
    if (std::find(all.begin(), all.end(), to) != all.end())
        throw base::InputError("is a condition of the schedule already.", to.name(), "Select that point.");
    Schedule next = s;
    if (s.speeds.size() * s.alphas_deg.size() * s.betas_deg.size() == 1 && s.also.empty() && s.leftOut.empty()) {
        next.speeds = {to.speed};
        next.alphas_deg = {to.alpha_deg};
        next.betas_deg = {to.beta_deg};
    } else {
        std::erase(next.also, from);
        next.leftOut.push_back(from);
        std::erase(next.leftOut, to);
        next.also.push_back(to);
        // Of what the lists do not make there is nothing to leave out, and of what they make nothing to add.
        const auto made = [&](const Condition& c) { return isOfLists(s, c); };
        std::erase_if(next.leftOut, [&](const auto& c) { return !made(c); });
        std::erase_if(next.also, made);
    }
    conditionsOf(next);
    s = std::move(next);
}

namespace {
std::vector<std::string> namesOf(const std::vector<Variant>& variants) {
    std::vector<std::string> names{""};
    for (const auto& v : variants) names.push_back(v.name);
    return names;
}
}  // namespace

void checkVariantNamed(const std::vector<Variant>& variants, const std::string& name, const char* by) {
    const auto names = namesOf(variants);
    if (std::find(names.begin(), names.end(), name) == names.end())
        fail(
            fmt::format("{} names \"{}\", which is no configuration or set-up of its kind.", by, base::printable(name)),
            "Correct the name, or take it out.");
}

std::vector<Point> pointsOf(const Settings& s) {
    const auto& schedule = s.schedule;
    const auto everywhere = conditionsOf(schedule);
    for (const auto& p : schedule.single) {
        checkVariantNamed(s.configurations, p.configuration, "a single point");
        checkVariantNamed(s.setUps, p.setUp, "a single point");
    }
    for (const auto& g : schedule.groups) {
        if (g.configuration != "base") checkVariantNamed(s.configurations, g.configuration, "a group of points");
        if (g.setUp != "base") checkVariantNamed(s.setUps, g.setUp, "a group of points");
    }
    const auto asksFor = [](const std::string& asked, const std::string& name) {
        return asked.empty() || asked == shownName(name);
    };
    std::vector<Point> points;
    for (const auto& c : namesOf(s.configurations))
        for (const auto& t : namesOf(s.setUps)) {
            auto here = everywhere;
            for (const auto& g : schedule.groups)
                if (g.on && asksFor(g.configuration, c) && asksFor(g.setUp, t))
                    addProduct(here, g.speeds, g.alphas_deg, g.betas_deg);
            for (const auto& p : schedule.single)
                if (p.configuration == c && p.setUp == t) here.push_back(p.condition);
            arrange(here);
            for (const Method m : listOf(schedule.methods))
                for (const auto& w : here) points.push_back({w, c, t, m});
            if (points.size() > kMostPoints)
                fail(fmt::format("there are more than {} points.", kMostPoints),
                     "Shorten the lists, or take out configurations or set-ups.");
        }
    return points;
}

std::string whyNotInTunnel(const grid::Tunnel& t, bool pitches, bool yaws) {
    if (t.floor != grid::Floor::None && pitches)
        return "Alpha other than 0 would blow through the ground. Set alpha to 0, and pitch the model instead.";
    if (t.halfModel && !t.mirrored && yaws)
        return "A half model cannot have sideslip. Set beta to 0, or use the full model.";
    if (t.closed && (pitches || yaws))
        return "The wind of a closed tunnel blows along its axis. Set alpha and beta to 0 and turn the model, or open "
               "the sides.";
    return {};
}

void checkCondition(const Settings& s, const Condition& c) {
    checkRange(c);
    if (const auto why = whyNotInTunnel(s.tunnel, isAngle(c.alpha_deg), isAngle(c.beta_deg)); !why.empty())
        throw base::InputError(why, c.name(), "");
}

namespace {
void refuseSecond(const Settings& s, const Point& p) {
    for (const Point& q : pointsOf(s))
        if (q == p) throw base::InputError("is a point of the schedule already.", p.name(), "Select that point.");
}

bool hasOneBuild(const Settings& s) {
    return s.configurations.empty() && s.setUps.empty();
}
}  // namespace

void addPoint(Settings& s, const Point& p) {
    checkCondition(s, p.condition);
    refuseSecond(s, p);
    if (!hasOneBuild(s))
        s.schedule.single.push_back({p.condition, p.configuration, p.setUp});
    else if (isOfLists(s.schedule, p.condition))
        std::erase(s.schedule.leftOut, p.condition);
    else
        s.schedule.also.push_back(p.condition);
}

bool isOfEveryBuild(const Settings& s, const Point& p) {
    return !hasOneBuild(s) && isIn(conditionsOf(s.schedule), p.condition);
}

void movePoint(Settings& s, const Point& p, const Condition& to) {
    checkCondition(s, to);
    refuseSecond(s, {to, p.configuration, p.setUp, p.method});
    if (isIn(conditionsOf(s.schedule), p.condition)) {
        replaceCondition(s.schedule, p.condition, to);
        return;
    }
    for (auto& one : s.schedule.single)
        if (one == SinglePoint{p.condition, p.configuration, p.setUp}) {
            one.condition = to;
            return;
        }
    throw base::InputError("is of a group of points.", p.name(), "Change the group in Schedule, or add the condition.");
}

double fastestSpeed(const Schedule& s) {
    double fastest = 0.0;
    for (const Condition& c : conditionsOf(s)) fastest = std::max(fastest, c.speed);
    for (const auto& g : s.groups)
        if (g.on)
            for (const double v : g.speeds) fastest = std::max(fastest, v);
    return fastest;
}

std::vector<Condition> conditionsOfFirstFlow(const Schedule& schedule) {
    auto all = conditionsOf(schedule);
    const double fastest =
        std::max_element(all.begin(), all.end(), [](auto& a, auto& b) { return a.speed < b.speed; })->speed;
    std::erase_if(all, [&](const Condition& c) { return c.speed != fastest; });
    const auto by = [&](auto&& of) {
        return *std::min_element(all.begin(), all.end(), [&](auto& a, auto& b) { return of(a) < of(b); });
    };
    // The one nearest to straight ahead first: the others start from it.
    std::vector<Condition> out;
    for (const auto& c :
         {by([](const Condition& c) { return std::abs(c.alpha_deg) + std::abs(c.beta_deg); }),
          by([](const Condition& c) { return c.alpha_deg; }), by([](const Condition& c) { return -c.alpha_deg; }),
          by([](const Condition& c) { return c.beta_deg; }), by([](const Condition& c) { return -c.beta_deg; })})
        if (std::find(out.begin(), out.end(), c) == out.end()) out.push_back(c);
    return out;
}

std::vector<air::Gas> gasesOf(const AirSettings& s) {
    const auto common = air::commonGases();
    std::vector<air::Gas> all(common.begin(), common.end());
    all.insert(all.end(), s.ownGases.begin(), s.ownGases.end());
    return all;
}

air::Air airOf(const AirSettings& s) {
    if (s.gas == "air" && !s.pressure && !s.temperature)
        return air::standardAtmosphere(s.altitude, s.temperatureOffset);
    const auto known = gasesOf(s);
    const auto gas = std::find_if(known.begin(), known.end(), [&](const air::Gas& g) { return g.name == s.gas; });
    if (gas == known.end())
        throw base::InputError(fmt::format("there is no gas \"{}\".", base::printable(s.gas)), "air",
                               "The command \"gases\" lists them; a gas of your own stands in air.own_gases.");
    // A liquid is not of the atmosphere.
    const air::Air standard = gas->isLiquid ? air::Air{} : air::standardAtmosphere(s.altitude, s.temperatureOffset);
    return air::stateOf(*gas, s.pressure.value_or(standard.pressure), s.temperature.value_or(standard.temperature));
}

air::FreeStream windOf(const Settings& s, const Condition& p) {
    return {p.speed, p.alpha_deg * base::degree, p.beta_deg * base::degree, airOf(s.air)};
}

bool isCompressible(const Settings& s, const air::FreeStream& wind) {
    if (s.flow.compressible == flow::Compressible::Never || wind.air.isLiquid) return false;
    return s.flow.compressible == flow::Compressible::Always || wind.mach() > kIncompressible;
}

double firstHeightFor(double yPlus, const air::FreeStream& wind, double length) {
    const double Re = std::max(wind.reynolds(length), 1e4);
    const double cf = 0.455 / std::pow(std::log(0.06 * Re), 2);
    const double uTau = wind.speed * std::sqrt(0.5 * cf);
    return 2.0 * yPlus * wind.air.kinematicViscosity() / uTau;  // y+ is that of the cell's centre
}

bool heightsFollowWind(const Settings& s) {
    return s.targetYPlus > 0.0 || s.tunnel.floor == grid::Floor::Fixed;
}

Vec3 keptHeightsWind(const Settings& s) {
    return s.schedule.heightsWind.value_or(Vec3(fastestSpeed(s.schedule), s.air.altitude, s.air.temperatureOffset));
}

air::FreeStream heightsWindOf(const Settings& s) {
    const Vec3 w = keptHeightsWind(s);
    if (!(w.x() > 0.0))
        fail(fmt::format("first heights for a wind of {} m/s cannot be.", w.x()),
             "Type a speed above 0 in first_heights_wind, or null.");
    AirSettings air = s.air;
    air.altitude = w.y(), air.temperatureOffset = w.z();
    return {w.x(), 0.0, 0.0, airOf(air)};
}

double groundLayerOf(const Settings& s, double length) {
    const auto wind = heightsWindOf(s);
    return air::plateLayerThickness(s.tunnel.groundLayerRun() * length, wind.speed, wind.air.kinematicViscosity());
}

namespace {
// The law of the wall holds in the inner fifth of a layer: three cells that grow by 1.3 shall stand there at the tail.
// What cells that are longer along a span save goes into the height: with three times longer ones three cells stand
// there at a quarter of the chord already. On a wing at Re 330,000 thicker ones leave a lift that goes on changing with
// the cells, on a car thinner ones take the cells from its surface (docs/validation/trust-bands-over-three-grids.md).
constexpr double kMostOfLayer = 0.05;
}  // namespace

std::function<double(const Vec3&)> layerOnModel(const Settings& s, double nose) {
    const auto wind = heightsWindOf(s);
    return [nose, V = wind.speed, nu = wind.air.kinematicViscosity()](const Vec3& x) {
        return air::plateLayerThickness(x.x() - nose, V, nu);
    };
}

std::string extentSentence(const Settings& s) {
    if (isHalfOfBudget(s))
        return "The model is its own mirror image: points without sideslip run as its starboard half, with half of the "
               "cells.";
    if (s.tunnel.mirrored) return "The model is its own mirror image, and so is its grid.";
    if (s.modelExtent == ModelExtent::HalfWhereSymmetric)
        return "The model, or what is set of its parts and places, is not its own mirror image: it runs whole.";
    return {};
}

grid::GridSettings gridSettingsOf(const Settings& s, double length, const Vec3& stretch) {
    grid::GridSettings g = s.grid;
    g.stretch = stretch;
    if (isHalfOfBudget(s)) g.cellBudget = grid::halfOfBudget(g.cellBudget);
    if (s.targetYPlus > 0.0) {
        const auto wind = heightsWindOf(s);
        g.firstHeight = firstHeightFor(s.targetYPlus, wind, length);
        if (flow::isTurbulent(s.flow.model))
            g.firstHeight = std::min(g.firstHeight,
                                     kMostOfLayer / stretch.maxCoeff() *
                                         air::plateLayerThickness(length, wind.speed, wind.air.kinematicViscosity()));
    }
    // Grids know parts by the names that they came with.
    g.finerParts.clear();
    for (const auto& [part, levels] : s.grid.finerParts) g.finerParts[s.model.idOf(part)] = levels;
    if (s.tunnel.floor == grid::Floor::Fixed && flow::isTurbulent(s.flow.model))
        g.groundLayer = groundLayerOf(s, length);
    // A disc needs some twelve cells across to be more than a dot, a block eight along its shortest side.
    for (const auto& d : discsInTunnel(s)) {
        const Vec3 half = d.axis.norm() > 0.0 ? Vec3(0.2 * d.outer * d.axis.normalized()) : Vec3::Zero();
        if (d.outer > 0.0)
            g.finerPlaces.push_back(
                {grid::FinerPlace::Shape::Cylinder, d.centre - half, d.centre + half, 1.1 * d.outer, d.outer / 6.0});
    }
    for (const auto& b : s.devices.blocks) {
        const double least = (b.to - b.from).cwiseAbs().minCoeff();
        if (least > 0.0) g.finerPlaces.push_back({grid::FinerPlace::Shape::Box, b.from, b.to, 0.0, least / 8.0});
    }
    g.wakeAlong = air::FreeStream{1.0, s.wakeAlpha_deg * base::degree, s.wakeBeta_deg * base::degree, {}}.dragAxis();
    return g;
}

std::string listText(const std::vector<double>& v) {
    std::string t;
    for (const double x : v) t += fmt::format("{}{:g}", t.empty() ? "" : ", ", x);
    return t;
}

}  // namespace cvane::campaign
