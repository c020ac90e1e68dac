#include "readout/result.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "base/units.h"
#include "readout/grid_band.h"

namespace cvane::readout {
namespace {
using nlohmann::json;
using C = air::Coefficients;

// A number that is not finite has no JSON form; null says so.
json number(double v) {
    return std::isfinite(v) ? json(v) : json(nullptr);
}
double number(const json& j) {
    return j.is_null() ? std::nan("") : j.get<double>();
}

json vec(const Vec3& v) {
    return {number(v.x()), number(v.y()), number(v.z())};
}
Vec3 vec(const json& j) {
    return {number(j.at(0)), number(j.at(1)), number(j.at(2))};
}

json sixOf(const C& c) {
    json out;
    for (const auto& [name, member] : air::kNamedCoefficients) out[name] = number(c.*member);
    return out;
}
C sixFrom(const json& j) {
    C out;
    for (const auto& [name, member] : air::kNamedCoefficients) out.*member = number(j.at(name));
    return out;
}
json partJson(const PartBalance& p) {
    constexpr double lbf = 4.4482216152605;
    return {{"name", p.name},
            {"force_N", vec(Vec3(p.force()))},
            {"force_lbf", vec(Vec3(p.force() / lbf))},
            {"pressure_force_N", vec(p.pressureForce)},
            {"friction_force_N", vec(p.frictionForce)},
            {"moment_Nm", vec(p.moment)},
            {"coefficients", sixOf(p.coefficients)}};
}
PartBalance partFrom(const json& j) {
    PartBalance p;
    p.name = j.at("name").get<std::string>();
    p.pressureForce = vec(j.at("pressure_force_N"));
    p.frictionForce = vec(j.at("friction_force_N"));
    p.moment = vec(j.at("moment_Nm"));
    p.coefficients = sixFrom(j.at("coefficients"));
    return p;
}
flow::Verdict verdictFrom(const std::string& s) {
    for (const auto v : {flow::Verdict::Settled, flow::Verdict::Unsteady, flow::Verdict::Diverged})
        if (flow::nameOf(v) == s) return v;
    return flow::Verdict::Running;
}
}  // namespace

PartBalance balanceOf(const std::string& name, const flow::Load& l, const air::FreeStream& wind,
                      const air::Reference& reference) {
    return {name, l.pressure, l.friction, l.moment(), air::coefficients(l.force(), l.moment(), wind, reference)};
}

namespace {
bool isCoarser(const CoarseResult& r, int cells) {
    return r.verdict == flow::Verdict::Settled && r.cells > 0 && cells > r.cells;
}
double sizeRatio(int cells, int fewer) {
    return std::cbrt(static_cast<double>(cells) / fewer);
}

/// A result's values on its grids, the finest first: those that settled.
struct OnGrids {
    std::vector<int> cells;
    std::vector<C> values;
    std::vector<std::optional<double>> pressureDrag;  ///< part of CD
    std::vector<int> steps;                           ///< of each how many times coarser: 0, 1, 2
    bool ofOneFamily = true;

    void add(int step, int n, const C& c, std::optional<double> pressureShare) {
        steps.push_back(step);
        cells.push_back(n);
        values.push_back(c);
        pressureDrag.push_back(pressureShare ? std::optional(*pressureShare * c.CD) : std::nullopt);
    }
    /// Leaves out the grids on which another has no value.
    void keepThoseOf(const OnGrids& other) {
        for (std::size_t i = cells.size(); i-- > 0;) {
            if (std::find(other.steps.begin(), other.steps.end(), steps[i]) != other.steps.end()) continue;
            const auto at = static_cast<std::ptrdiff_t>(i);
            steps.erase(steps.begin() + at), cells.erase(cells.begin() + at), values.erase(values.begin() + at);
            pressureDrag.erase(pressureDrag.begin() + at);
        }
    }
};
OnGrids onGrids(const Result& r) {
    OnGrids out;
    out.ofOneFamily = !r.cellsFollowedFlow;
    out.add(0, r.cells, r.coefficients, r.pressureShareOfDrag);
    if (!r.coarse) return out;
    const auto add = [&](int step, const CoarseResult& c) {
        if (isCoarser(c, out.cells.back())) out.add(step, c.cells, c.coefficients, c.pressureShareOfDrag);
    };
    add(1, *r.coarse);
    // One that swings leaves the others to say what the cells do.
    if (out.ofOneFamily)
        for (const auto& c : r.coarse->coarser) add(2, c);
    return out;
}
/// @param value  on the grid of that number
template <class Value>
GridBand bandOver(const OnGrids& g, Value&& value) {
    if (!g.ofOneFamily) return gridBand(value(0), value(1));
    const double r = sizeRatio(g.cells[0], g.cells[1]);
    if (g.cells.size() == 2) return gridBand(value(0), value(1), r);
    return gridBand(value(0), value(1), value(2), r, sizeRatio(g.cells[1], g.cells[2]));
}
GridBand bandOf(const OnGrids& g, double C::*which) {
    return bandOver(g, [&](std::size_t i) { return g.values[i].*which; });
}
std::optional<DragParts> bandsOfDrag(const OnGrids& g) {
    for (const auto& p : g.pressureDrag)
        if (!p) return {};
    return DragParts{bandOver(g, [&](std::size_t i) { return *g.pressureDrag[i]; }).band,
                     bandOver(g, [&](std::size_t i) { return g.values[i].CD - *g.pressureDrag[i]; }).band};
}
C bandsOf(const OnGrids& g) {
    C out;
    for (const auto m : air::kAllCoefficients) out.*m = bandOf(g, m).band;
    if (const auto parts = bandsOfDrag(g)) out.CD = std::max(out.CD, std::hypot(parts->pressure, parts->friction));
    return out;
}
}  // namespace

int Result::gridsOfBand() const {
    const auto n = onGrids(*this).cells.size();
    return n < 2 ? 0 : static_cast<int>(n);
}

std::optional<double> Result::orderOfDrag() const {
    const auto g = onGrids(*this);
    return g.cells.size() < 2 ? std::nullopt : bandOf(g, &C::CD).order;
}

std::optional<DragParts> Result::gridBandOfDrag() const {
    const auto g = onGrids(*this);
    return g.cells.size() < 2 ? std::nullopt : bandsOfDrag(g);
}

std::optional<C> Result::gridBand() const {
    const auto g = onGrids(*this);
    if (g.cells.size() < 2) return {};
    C out = bandsOf(g);
    // Two grids may share a lift by chance. Pressures that leave the drag in doubt by so many per cent leave no other
    // coefficient better known.
    const C& now = g.values.front();
    if (const double CD = std::abs(now.CD); CD > 0.0)
        for (const auto m : air::kAllCoefficients) out.*m = std::max(out.*m, out.CD / CD * std::abs(now.*m));
    return out;
}

Asked askedBy(const flow::FlowSettings& s) {
    return {s.toleranceCD, s.toleranceCL, s.mostIterations, s.leastIterations};
}

std::string remarkOf(const Result& r) {
    // Results of before carry the whole sentence.
    if (!r.remark.empty() || !r.asked) return r.remark;
    const auto moves = fmt::format("CD still moves by +-{:.2g}, CL by +-{:.2g}", r.band.CD, r.band.CL);
    std::string out;
    if (r.averagedOver > 0)
        out = fmt::format(
            "The flow swings: CD by +-{:.2g}, CL by +-{:.2g}. Coefficients and fields are means over the last {} steps "
            "of time, known to +-{:.2g} in CD and +-{:.2g} in CL{}.",
            r.swing.CD, r.swing.CL, r.averagedOver, r.band.CD, r.band.CL,
            r.verdict == flow::Verdict::Unsteady ? ", less well than asked" : "");
    else if (r.verdict == flow::Verdict::Unsteady)
        out = fmt::format("Not settled after {} iterations: {}.", r.iterations, moves);
    if (r.provisional())
        out = fmt::format("Provisional, after {} iterations{}: {}.{}{}", r.iterations,
                          r.readings().onGrid.empty() ? "" : fmt::format(" on a coarser grid of {} cells", r.cells),
                          moves, out.empty() ? "" : " ", out);
    return out;
}

std::optional<C> bandOfDifference(const Result& a, const Result& b) {
    OnGrids x = onGrids(a);
    OnGrids y = onGrids(b);
    x.keepThoseOf(y);
    y.keepThoseOf(x);
    const std::size_t n = x.cells.size();
    if (n < 2) return {};
    x.ofOneFamily = x.ofOneFamily && y.ofOneFamily;
    for (std::size_t i = 0; i < n; ++i) {
        // The two may have unlike numbers of cells: the mean of their sizes stands for both.
        x.cells[i] = static_cast<int>(std::sqrt(static_cast<double>(x.cells[i]) * y.cells[i]));
        for (const auto m : air::kAllCoefficients) x.values[i].*m -= y.values[i].*m;
        if (x.pressureDrag[i] && y.pressureDrag[i])
            *x.pressureDrag[i] -= *y.pressureDrag[i];
        else
            x.pressureDrag[i].reset();
    }
    C out = bandsOf(x);
    for (const auto m : air::kAllCoefficients) out.*m += std::hypot(a.band.*m, b.band.*m);
    return out;
}

C Result::trust() const {
    C out = band;
    if (const auto g = gridBand())
        for (const auto m : air::kAllCoefficients) out.*m += (*g).*m;
    return out;
}

const FieldReadings& Result::readings() const {
    static const FieldReadings none;
    return field ? *field : none;
}

double Result::outsideCD() const {
    const auto& outside = readings().forceFromOutside;
    return outside ? (*outside - total.force()).dot(wind.dragAxis()) / (wind.dynamicPressure() * reference.area) : 0.0;
}
double Result::outsideCL() const {
    const auto& outside = readings().forceFromOutside;
    return outside ? (*outside - total.force()).dot(wind.liftAxis()) / (wind.dynamicPressure() * reference.area) : 0.0;
}

json toJson(const CoarseResult& r) {
    return {{"cells", r.cells},
            {"iterations", r.iterations},
            {"verdict", flow::nameOf(r.verdict)},
            {"coefficients", sixOf(r.coefficients)},
            {"pressure_share_of_drag", r.pressureShareOfDrag ? number(*r.pressureShareOfDrag) : json(nullptr)},
            {"coarser_grid", r.coarser.empty() ? json(nullptr) : toJson(r.coarser.front())}};
}

CoarseResult coarseFromJson(const json& j, const std::string& where) {
    try {
        CoarseResult r{j.at("cells").get<int>(),
                       j.at("iterations").get<int>(),
                       verdictFrom(j.at("verdict").get<std::string>()),
                       sixFrom(j.at("coefficients")),
                       {},
                       {}};
        if (j.contains("pressure_share_of_drag") && !j["pressure_share_of_drag"].is_null())
            r.pressureShareOfDrag = number(j["pressure_share_of_drag"]);
        if (j.contains("coarser_grid") && !j["coarser_grid"].is_null())
            r.coarser.push_back(coarseFromJson(j["coarser_grid"], where));
        return r;
    } catch (const json::exception&) {
        throw base::InputError("is not a result that can be read.", where, "Run the point again.");
    }
}

json toJson(const Result& r) {
    const FieldReadings& f = r.readings();
    json parts = json::array();
    for (const auto& p : r.parts) parts.push_back(partJson(p));
    json discs = json::array(), blocks = json::array();
    for (const auto& d : f.discs)
        discs.push_back({{"name", d.name},
                         {"thrust_N", number(d.thrust)},
                         {"mean_inflow_m_s", number(d.inflow)},
                         {"power_W", number(d.power)},
                         {"momentum_theory_power_W", number(d.theoryPower)},
                         {"torque_Nm", number(d.torque)}});
    for (const auto& b : f.blocks)
        blocks.push_back(
            {{"name", b.name}, {"mass_flow_kg_s", number(b.massFlow)}, {"pressure_drop_Pa", number(b.pressureDrop)}});
    const auto dragParts = r.gridBandOfDrag();
    json findings = json::array();
    for (const auto& found : r.findings)
        findings.push_back({{"what", found.what}, {"place_m", found.place ? vec(*found.place) : json(nullptr)}});
    return {
        {"schema", 2},
        {"verdict", flow::nameOf(r.verdict)},
        {"judged_by", r.asked ? json{{"tolerance_CD_relative", r.asked->toleranceCD},
                                     {"tolerance_CL", r.asked->toleranceCL},
                                     {"most_iterations", r.asked->mostIterations},
                                     {"least_iterations", r.asked->leastIterations}}
                              : json(nullptr)},
        {"remark", remarkOf(r)},
        {"own_remark", r.remark},
        {"checksums", r.sums},
        {"on_grid", f.onGrid},
        {"free_pressure_m2_s2", number(f.freePressure)},
        {"compressible", f.compressible ? json{{"highest_mach", number(f.highestMach)},
                                               {"enthalpy_imbalance", number(f.enthalpyImbalance)}}
                                        : json(nullptr)},
        {"wind",
         {{"speed_m_s", r.wind.speed},
          {"alpha_deg", r.wind.alpha / base::degree},
          {"beta_deg", r.wind.beta / base::degree},
          {"density_kg_m3", r.wind.air.density},
          {"viscosity_Pa_s", r.wind.air.viscosity},
          {"temperature_K", r.wind.air.temperature},
          {"pressure_Pa", r.wind.air.pressure},
          {"sound_speed_m_s", r.wind.air.soundSpeed},
          {"dynamic_pressure_Pa", r.wind.dynamicPressure()},
          {"reynolds", r.wind.reynolds(r.reference.length)},
          {"mach", r.wind.mach()}}},
        {"reference",
         {{"area_m2", r.reference.area},
          {"length_m", r.reference.length},
          {"span_m", r.reference.span},
          {"moment_centre_m", vec(r.reference.momentCentre)}}},
        {"half_model", r.halfModel},
        {"coefficients", sixOf(r.coefficients)},
        {"iteration_band", sixOf(r.band)},
        {"cells_followed_flow", r.cellsFollowedFlow},
        {"coarse_grid", r.coarse ? toJson(*r.coarse) : json(nullptr)},
        {"grid_band", r.gridBand() ? sixOf(*r.gridBand()) : json(nullptr)},
        {"grid_band_of_drag",
         dragParts ? json{{"pressure", number(dragParts->pressure)}, {"friction", number(dragParts->friction)}}
                   : json(nullptr)},
        {"swing", sixOf(r.swing)},
        {"averaged_over_iterations", r.averagedOver},
        {"discs", discs},
        {"porous_blocks", blocks},
        {"total", partJson(r.total)},
        {"parts", parts},
        {"pressure_share_of_drag", number(r.pressureShareOfDrag)},
        {"y_plus",
         r.field ? json{{"low", number(f.yPlusLow)}, {"median", number(f.yPlusMedian)}, {"high", number(f.yPlusHigh)}}
                 : json(nullptr)},
        {"mass_imbalance", r.field ? number(f.massImbalance) : json(nullptr)},
        {"force_from_outside_N", f.forceFromOutside ? vec(*f.forceFromOutside) : json(nullptr)},
        {"outside_less_balance", {{"CD", number(r.outsideCD())}, {"CL", number(r.outsideCL())}}},
        {"ground_displacement_m", f.groundDisplacement ? number(*f.groundDisplacement) : json(nullptr)},
        {"findings", findings},
        {"iterations", r.iterations},
        {"cells", r.cells},
        {"ranks", r.ranks},
        {"seconds", r.seconds}};
}

namespace {
FieldReadings readingsFrom(const json& j) {
    const auto given = [&](const char* name) { return j.contains(name) && !j.at(name).is_null(); };
    FieldReadings f;
    // Results of earlier builds do not have all of these.
    f.onGrid = j.value("on_grid", std::string());
    if (given("compressible")) {
        f.compressible = true;
        f.highestMach = number(j["compressible"].at("highest_mach"));
        f.enthalpyImbalance = number(j["compressible"].at("enthalpy_imbalance"));
    }
    if (given("free_pressure_m2_s2")) f.freePressure = number(j.at("free_pressure_m2_s2"));
    for (const json& d : j.value("discs", json::array()))
        f.discs.push_back({d.at("name").get<std::string>(), number(d.at("thrust_N")), number(d.at("mean_inflow_m_s")),
                           number(d.at("power_W")), number(d.at("momentum_theory_power_W")),
                           number(d.at("torque_Nm"))});
    for (const json& b : j.value("porous_blocks", json::array()))
        f.blocks.push_back(
            {b.at("name").get<std::string>(), number(b.at("mass_flow_kg_s")), number(b.at("pressure_drop_Pa"))});
    f.yPlusLow = number(j.at("y_plus").at("low"));
    f.yPlusMedian = number(j.at("y_plus").at("median"));
    f.yPlusHigh = number(j.at("y_plus").at("high"));
    f.massImbalance = number(j.at("mass_imbalance"));
    if (given("force_from_outside_N")) f.forceFromOutside = vec(j.at("force_from_outside_N"));
    if (given("ground_displacement_m")) f.groundDisplacement = number(j.at("ground_displacement_m"));
    return f;
}
}  // namespace

Result resultFromJson(const json& j, const std::string& where) {
    try {
        if (j.at("schema").get<int>() > 2)
            throw base::InputError("was written by a newer version.", where, "Open it with that version.");
        Result r;
        r.verdict = verdictFrom(j.at("verdict").get<std::string>());
        const auto given = [&](const char* name) { return j.contains(name) && !j.at(name).is_null(); };
        if (given("judged_by")) {
            const json& a = j.at("judged_by");
            r.asked = {a.at("tolerance_CD_relative").get<double>(), a.at("tolerance_CL").get<double>(),
                       a.at("most_iterations").get<int>(), a.at("least_iterations").get<int>()};
        }
        r.remark = j.at(r.asked ? "own_remark" : "remark").get<std::string>();
        r.sums = j.value("checksums", std::map<std::string, std::string>());
        const json& w = j.at("wind");
        r.wind.speed = w.at("speed_m_s").get<double>();
        r.wind.alpha = w.at("alpha_deg").get<double>() * base::degree;
        r.wind.beta = w.at("beta_deg").get<double>() * base::degree;
        r.wind.air = {w.at("temperature_K").get<double>(), w.at("pressure_Pa").get<double>(),
                      w.at("density_kg_m3").get<double>(), w.at("viscosity_Pa_s").get<double>(),
                      w.at("sound_speed_m_s").get<double>()};
        const json& f = j.at("reference");
        r.reference = {f.at("area_m2").get<double>(), f.at("length_m").get<double>(), f.at("span_m").get<double>(),
                       vec(f.at("moment_centre_m"))};
        r.halfModel = j.at("half_model").get<bool>();
        r.coefficients = sixFrom(j.at("coefficients"));
        r.band = sixFrom(j.at("iteration_band"));
        // Results of earlier builds do not have these.
        if (j.contains("swing")) r.swing = sixFrom(j.at("swing"));
        if (j.contains("coarse_grid") && !j.at("coarse_grid").is_null())
            r.coarse = coarseFromJson(j.at("coarse_grid"), where);
        r.cellsFollowedFlow = j.value("cells_followed_flow", false);
        r.averagedOver = j.value("averaged_over_iterations", 0);
        r.total = partFrom(j.at("total"));
        for (const json& p : j.at("parts")) r.parts.push_back(partFrom(p));
        r.pressureShareOfDrag = number(j.at("pressure_share_of_drag"));
        if (given("y_plus")) r.field = readingsFrom(j);
        for (const json& f : j.value("findings", json::array()))
            r.findings.push_back({f.at("what").get<std::string>(), f.at("place_m").is_null()
                                                                       ? std::nullopt
                                                                       : std::optional<Vec3>(vec(f.at("place_m")))});
        r.iterations = j.at("iterations").get<int>();
        r.cells = j.at("cells").get<int>();
        r.ranks = j.at("ranks").get<int>();
        r.seconds = j.at("seconds").get<double>();
        return r;
    } catch (const json::exception&) {
        throw base::InputError("is not a result that can be read.", where, "Run the point again.");
    }
}

}  // namespace cvane::readout
