#include "campaign/methods/lifting_runner.h"

#include <fmt/format.h>

#include <chrono>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/methods/wind_order.h"
#include "campaign/steps/rank_files.h"
#include "campaign/steps/solver_words.h"
#include "campaign/store/section_store.h"
#include "lifting/tables.h"
#include "wing/aircraft_json.h"
#include "wing/measures.h"

namespace cvane::campaign {
namespace fs = std::filesystem;
using nlohmann::json;

namespace {
constexpr int kVersion = 1;
constexpr const char* kStrips = "strips.csv";

// Of the sections as the campaign's polars have it.
json transitionJson(const SectionSettings& s) {
    const double n = s.nCritical.empty() ? lifting::Transition().nCritical : s.nCritical.front();
    return {{"n_critical", n}, {"trip_upper", s.tripUpper}, {"trip_lower", s.tripLower}};
}

// That of the campaign whose run this is, so that no point waits for a polar that another has computed.
std::shared_ptr<lifting::PolarShelf> shelfOf(const fs::path& run) {
    const auto campaign = run.parent_path().parent_path();
    std::error_code ec;
    return std::make_shared<lifting::PolarShelf>(fs::exists(campaign / "campaign.json", ec) ? stripPolars(campaign)
                                                                                            : fs::path());
}

readout::Result resultOf(const wing::Aircraft& aircraft, const air::FreeStream& wind, const lifting::Outcome& out) {
    const auto& row = out.rows.front();
    readout::Result r;
    r.verdict = flow::Verdict::Settled;
    r.wind = wind;
    r.reference = out.reference;
    r.iterations = 1;
    r.cells = static_cast<int>(out.lattice.panels);
    const double qS = wind.dynamicPressure() * out.reference.area;
    // The moment and what lies across the wind are those of the coefficients; drag is induced drag far behind and
    // profile drag.
    const auto& c = row.coefficients;
    const Vec3 force = qS * (c.CL * wind.liftAxis() + c.CD * wind.dragAxis() + c.CY * wind.sideAxis());
    const Vec3 friction = qS * row.profile * wind.dragAxis();
    r.total.name = "whole model";
    r.total.pressureForce = force - friction;
    r.total.frictionForce = friction;
    r.total.moment = qS * Vec3(-c.Cl * out.reference.span, c.Cm * out.reference.length, -c.Cn * out.reference.span);
    r.total.coefficients = r.coefficients = c;
    r.pressureShareOfDrag = c.CD != 0.0 ? row.inducedFar / c.CD : 0.0;
    for (const auto& s : aircraft.surfaces) {
        const auto at = row.surfaceForce.find(s.name);
        if (at == row.surfaceForce.end()) continue;
        readout::PartBalance part;
        part.name = s.name;
        part.pressureForce = at->second;
        part.coefficients = air::coefficients(at->second, Vec3::Zero(), wind, out.reference);
        r.parts.push_back(std::move(part));
    }
    r.band.CD = std::abs(row.inducedNear - row.inducedFar);
    r.band.CL = std::abs(row.liftFar - row.liftNear);
    for (const auto& remark : out.remarks) r.findings.push_back({remark, std::nullopt});
    if (row.stalledShare > 0.0)
        r.findings.push_back(
            {fmt::format("{:.0f} % of the area carries more than its sections can: it has stalled there.",
                         100.0 * row.stalledShare),
             std::nullopt});
    return r;
}
}  // namespace

int LiftingRunner::version() const {
    return kVersion;
}

json LiftingRunner::caseOf(const Campaign& c, const Condition& condition) const {
    const auto wind = windOf(c.settings, condition);
    json aircraft = c.settings.model.aircraft ? wing::toJson(*c.settings.model.aircraft) : json();
    if (aircraft.is_object()) aircraft.erase("name");
    json on = {{"aircraft", aircraft}, {"wind", windJson(wind)}, {"transition", transitionJson(c.settings.sections)}};
    if (c.settings.tunnel.floor != grid::Floor::None)
        on["ground"] = {c.settings.tunnel.rideHeight, c.settings.model.rideHeight.value_or(0.0),
                        c.settings.model.rideHeight.has_value()};
    return on;
}

void LiftingRunner::prepare(const Campaign& c, const Point& p) const {
    if (!c.settings.model.aircraft)
        throw base::InputError("its model was not built from numbers, which the lifting surface needs.", p.name(),
                               "Run it in the field, or build the wing in a campaign of its own.");
    if (!(c.settings.model.placement == shape::Placement{}))
        throw base::InputError("its model is turned or shifted, which the lifting surface does not follow.", p.name(),
                               "Take the turn and the shift back, and give place and incidence in the wing.");
}

std::size_t LiftingRunner::size(const Campaign&) const {
    return 0;
}

void LiftingRunner::writeOrder(const Campaign& c, const OrderHead& head, const Beginning&, int,
                               const std::function<std::vector<fs::path>()>&, const fs::path& folder) const {
    json j = toJson(head);
    j["aircraft"] = wing::toJson(*c.settings.model.aircraft);
    j["transition"] = transitionJson(c.settings.sections);
    j["wind"] = windJson(windOf(c.settings, head.point.condition));
    if (const auto ground = groundOf(c)) j["ground_m"] = *ground;
    std::error_code ec;
    fs::remove(folder / "result.json", ec);
    base::replaceJson(folder / "run.json", j);
}

void LiftingRunner::solve(const fs::path& folder, const flow::Ranks& ranks) const {
    const auto began = std::chrono::steady_clock::now();
    together(ranks, [&] {
        const json j = base::readCheckedJson(folder / "run.json", 2);
        const auto aircraft = wing::aircraftFrom(j.at("aircraft"), (folder / "run.json").string());
        const auto wind = windFrom(j.at("wind"));
        lifting::Asked asked;
        asked.alphas = {wind.alpha};
        asked.beta = wind.beta;
        asked.speed = wind.speed;
        asked.air = wind.air;
        const json& t = j.at("transition");
        asked.transition = {t.at("n_critical"), t.at("trip_upper"), t.at("trip_lower")};
        asked.derivatives = false;
        asked.compressible = wind.mach() > 0.3;
        if (j.contains("ground_m"))
            asked.height = wing::referenceOf(aircraft).momentCentre.z() - j["ground_m"].get<double>();
        const auto out = lifting::run(
            aircraft, asked,
            [](double share, std::string_view doing) {
                say({{"iteration", 0}, {"most", 1}, {"share", share}, {"doing", std::string(doing)}});
                return true;
            },
            shelfOf(folder));
        auto result = resultOf(aircraft, wind, out);
        base::replaceFile(folder / kStrips, lifting::stripsCsvOf(aircraft, out));
        result.sums[kStrips] = base::sumOfFile(folder / kStrips);
        result.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
        base::replaceJson(folder / "result.json", readout::toJson(result));
        say({{"finished", flow::nameOf(result.verdict)}});
    });
}

}  // namespace cvane::campaign
