#include "campaign/methods/panel_runner.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>

#include "base/errors.h"
#include "base/files.h"
#include "base/units.h"
#include "campaign/methods/wind_order.h"
#include "campaign/steps/model_stage.h"
#include "campaign/steps/rank_files.h"
#include "campaign/steps/solver_words.h"
#include "campaign/store/model_source.h"
#include "campaign/store/panel_walls.h"
#include "panels/layer.h"
#include "panels/mirrored.h"
#include "panels/panel_flow.h"
#include "panels/suitable.h"

namespace cvane::campaign {
namespace fs = std::filesystem;
using base::degree;
using nlohmann::json;

namespace {
constexpr int kPanelVersion = 2;
constexpr const char* kModelFile = "model.cbor";
constexpr double kFewer = 3.0;  // panels of the coarse set, for the band

json askedJson(const PanelSettings& p) {
    return {{"count", p.count},
            {"wakes", p.wakes},
            {"wake_turn_deg", p.wakeTurn_deg},
            {"no_wake_near_m", p.noWakeNear.value_or(std::vector<double>())},
            {"friction", p.friction}};
}
/// One set of panels with its forces.
struct Found {
    panels::Panels panels;
    panels::PanelFlow flow;
    panels::PanelLayer layer;
    air::Coefficients coefficients;
    double inducedFar = 0.0, inducedNear = 0.0, liftFar = 0.0;
    Vec3 force = Vec3::Zero(), friction = Vec3::Zero(), moment = Vec3::Zero();
};
Found found(const shape::Surface& skin, int count, const air::FreeStream& wind, const air::Reference& reference,
            const panels::Around& around, bool friction, const base::Progress& progress) {
    panels::Panelling panelling;
    panelling.count = static_cast<std::size_t>(count);
    const auto part = [&](double from, double share) {
        return [&progress, from, share](double f, std::string_view doing) {
            return !progress || progress(from + share * f, doing);
        };
    };
    Found out{panels::Panels(panels::remeshedAlike(skin, panelling, part(0.0, 0.2))), {}, {}, {}};
    out.flow = panels::flowPast(out.panels, wind, reference.momentCentre, around, part(0.2, 0.7));
    base::report(progress, 0.9, "boundary layers");
    out.layer = panels::layerOn(out.panels, out.flow, wind, reference.momentCentre, around.mirrors.inY);
    if (friction) out.friction = out.layer.force;
    const double qS = wind.dynamicPressure() * reference.area;
    const Vec3 along = wind.dragAxis();
    out.inducedNear = out.flow.force.dot(along) / qS;
    out.inducedFar = out.flow.inducedDrag / qS;
    out.liftFar = out.flow.farForce.dot(wind.liftAxis()) / qS;
    // Pressure's drag of flat panels is not that of the flow: what the wakes carry away stands in its place.
    out.force = out.flow.force - (out.flow.force.dot(along) - out.flow.inducedDrag) * along;
    out.moment = out.flow.moment + (friction ? out.layer.moment : Vec3::Zero().eval());
    out.coefficients = air::coefficients(out.force + out.friction, out.moment, wind, reference);
    return out;
}

readout::Result panelResult(const Found& fine, const std::optional<Found>& coarse, const air::FreeStream& wind,
                            const air::Reference& reference, bool friction, const std::vector<std::string>& remarks) {
    readout::Result r;
    r.verdict = flow::Verdict::Settled;
    r.wind = wind;
    r.reference = reference;
    r.iterations = fine.flow.iterations;
    r.cells = static_cast<int>(fine.panels.size());
    r.total.name = "whole model";
    r.total.pressureForce = fine.force;
    r.total.frictionForce = fine.friction;
    r.total.moment = fine.moment;
    r.total.coefficients = r.coefficients = fine.coefficients;
    r.pressureShareOfDrag = fine.coefficients.CD != 0.0 ? fine.inducedFar / fine.coefficients.CD : 0.0;
    const auto& parts = fine.panels.surface.parts;
    for (std::size_t p = 0; p < parts.size(); ++p) {
        readout::PartBalance b;
        b.name = parts[p].name;
        b.pressureForce = fine.flow.partForce[p];
        if (friction) b.frictionForce = fine.layer.partForce[p];
        b.moment = fine.flow.partMoment[p] + (friction ? fine.layer.partMoment[p] : Vec3::Zero().eval());
        b.coefficients = air::coefficients(b.force(), b.moment, wind, reference);
        r.parts.push_back(std::move(b));
    }
    // What is second order changes by an eighth of what a third of the panels changes, were it regular; it is not.
    if (coarse)
        for (const auto member : air::kAllCoefficients)
            r.band.*member = std::abs(fine.coefficients.*member - coarse->coefficients.*member);
    r.band.CD = std::max(r.band.CD, std::abs(fine.inducedNear - fine.inducedFar));
    if (!fine.flow.edges.empty()) r.band.CL = std::max(r.band.CL, std::abs(fine.coefficients.CL - fine.liftFar));
    // The one that takes most from the numbers comes first.
    if (fine.layer.separatedArea > 0.02) {
        std::optional<Vec3> place;
        for (std::size_t i = 0; i < fine.panels.size() && !place; ++i)
            if (fine.layer.separated[i]) place = fine.panels.middle[i];
        r.findings.push_back({fmt::format("The boundary layer separates before {:.0f} % of the surface: pressures "
                                          "there, and a drag without that of the wake behind, "
                                          "are not to be believed. The field has both.",
                                          100.0 * fine.layer.separatedArea),
                              place});
    }
    if (fine.flow.edges.empty())
        r.findings.push_back(
            {"No wake leaves it: no edge is sharp enough and faces downstream, so there is no lift but by its ends and "
             "no induced drag.",
             std::nullopt});
    if (!fine.flow.crossed.empty())
        r.findings.push_back({fmt::format("A wake runs straight through the surface behind it at {} panels: pressures "
                                          "and forces there are not to be believed. Say "
                                          "where no wake shall leave (panels.no_wake_near_m), or run it in the field.",
                                          fine.flow.crossed.size()),
                              fine.panels.middle[fine.flow.crossed.front()]});
    if (fine.flow.residual > 1e-4)
        r.findings.push_back(
            {fmt::format("The potential is solved for to {:.0e} only.", fine.flow.residual), std::nullopt});
    for (const auto& remark : remarks) r.findings.push_back({remark, std::nullopt});
    return r;
}
}  // namespace

int PanelRunner::version() const {
    return kPanelVersion;
}

json PanelRunner::caseOf(const Campaign& c, const Condition& condition) const {
    json on = {{"wind", windJson(windOf(c.settings, condition))}, {"asked", askedJson(c.settings.panels)}};
    on["model"] = modelSum(c);
    on["unit"] = c.settings.model.aircraft ? std::string() : c.settings.model.unit;
    const auto& p = c.settings.model.placement;
    on["placed"] = {p.rotation_deg.x() + 0.0, p.rotation_deg.y() + 0.0, p.rotation_deg.z() + 0.0,
                    p.shift.x() + 0.0,        p.shift.y() + 0.0,        p.shift.z() + 0.0};
    for (std::size_t i = 0; i < c.settings.model.parts.size(); ++i)
        if (!c.settings.model.parts[i].inTheAir) on["hidden"].push_back(i);
    if (c.settings.modelExtent == ModelExtent::Half) on["half"] = true;
    if (c.settings.tunnel.floor != grid::Floor::None)
        on["ground"] = {c.settings.tunnel.rideHeight, c.settings.model.rideHeight.value_or(0.0),
                        c.settings.model.rideHeight.has_value()};
    return on;
}

void PanelRunner::prepare(const Campaign& c, const Point& p) const {
    const auto wind = windOf(c.settings, p.condition);
    if (wind.mach() >= 1.0)
        throw base::InputError(fmt::format("panels end at Mach 1, and its wind has Mach {:.2f}.", wind.mach()),
                               p.name(), "Run it in the field.");
    if (c.settings.tunnel.floor != grid::Floor::None && isAngle(p.condition.alpha_deg))
        throw base::InputError("its wind blows through the ground.", p.name(),
                               "Turn the model instead, or take the ground out.");
}

std::size_t PanelRunner::size(const Campaign&) const {
    return 0;
}

void PanelRunner::writeOrder(const Campaign& c, const OrderHead& head, const Beginning&, int,
                             const std::function<std::vector<fs::path>()>&, const fs::path& folder) const {
    json j = toJson(head);
    j["wind"] = windJson(windOf(c.settings, head.point.condition));
    j["asked"] = askedJson(c.settings.panels);
    const bool half = c.settings.modelExtent == ModelExtent::Half;
    const auto placed = modelForGrid(c);
    const auto reference = ownReference(measure(placed, half), half);
    const auto& m = reference.momentCentre;
    j["reference"] = {{"area_m2", reference.area},
                      {"length_m", reference.length},
                      {"span_m", reference.span},
                      {"moment_centre_m", {m.x(), m.y(), m.z()}}};
    if (half) j["half"] = true;
    if (const auto ground = groundOf(c)) j["ground_m"] = *ground;
    std::error_code ec;
    fs::remove(folder / "result.json", ec);
    writeCbor(surfaceJson(shape::withoutHiddenParts(placed)), folder / kModelFile);
    base::replaceJson(folder / "run.json", j);
}

void PanelRunner::solve(const fs::path& folder, const flow::Ranks& ranks) const {
    const auto began = std::chrono::steady_clock::now();
    together(ranks, [&] {
        const json j = base::readCheckedJson(folder / "run.json", 2);
        const auto wind = windFrom(j.at("wind"));
        const auto& ref = j.at("reference");
        const auto& m = ref.at("moment_centre_m");
        const air::Reference reference{ref.at("area_m2"), ref.at("length_m"), ref.at("span_m"),
                                       Vec3(m.at(0), m.at(1), m.at(2))};
        const json& asked = j.at("asked");
        const auto suitable = panels::suitableFor(
            surfaceFrom(readCbor(folder / kModelFile), (folder / kModelFile).string()), j.value("half", false));
        panels::Around around;
        around.wakes = asked.at("wakes");
        around.wakeTurn = asked.at("wake_turn_deg").get<double>() * degree;
        const auto without = asked.at("no_wake_near_m").get<std::vector<double>>();
        around.without = pointsFrom(without);
        around.compressible = wind.mach() > kIncompressible && !wind.air.isLiquid;
        if (j.contains("ground_m")) around.mirrors.ground = j["ground_m"].get<double>();
        const int count = asked.at("count");
        const bool friction = asked.at("friction");
        const auto told = [](double from, double share) {
            return [from, share](double f, std::string_view doing) {
                say({{"iteration", 0}, {"most", 1}, {"share", from + share * f}, {"doing", std::string(doing)}});
                return true;
            };
        };
        std::optional<Found> coarse;
        if (count >= 600)
            coarse = found(suitable.surface, static_cast<int>(count / kFewer), wind, reference, around, friction,
                           told(0.0, 0.2));
        const auto fine = found(suitable.surface, count, wind, reference, around, friction, told(0.2, 0.8));
        auto result = panelResult(fine, coarse, wind, reference, friction, suitable.remarks);
        // Walls as those of a field, so that all that reads one reads the other.
        std::vector<std::size_t> order;
        const auto faces = facesOf(fine.panels.surface, order);
        readout::WallField wall;
        for (std::size_t f = 0; f < order.size(); ++f) {
            const std::size_t i = order[f];
            const double size = fine.flow.velocity[i].norm();
            wall.face.push_back(static_cast<grid::FaceIndex>(f));
            wall.Cp.push_back(fine.flow.cp[i]);
            wall.Cf.push_back(size > 0.0 && friction ? (fine.layer.cf[i] / size * fine.flow.velocity[i]).eval()
                                                     : Vec3::Zero().eval());
            wall.yPlus.push_back(0.0);
        }
        readout::writeWallField(wall, grid::measuredFaces(faces), folder / "wall.csv");
        json file = surfaceJson(fine.panels.surface);
        file["potential_m2_s"] = fine.flow.potential;
        std::vector<int> separated(fine.layer.separated.begin(), fine.layer.separated.end());
        file["separated"] = separated;
        std::vector<Vec3> ends;
        for (const auto& e : fine.flow.edges) ends.insert(ends.end(), {e.a, e.b});
        file["wake_edges_m"] = flat(ends);
        file["wake_jumps_m2_s"] = fine.flow.jump;
        writeCbor(file, folder / kPanelsFile);
        for (const char* name : {"wall.csv", kPanelsFile}) result.sums[name] = base::sumOfFile(folder / name);
        result.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
        base::replaceJson(folder / "result.json", readout::toJson(result));
        say({{"finished", flow::nameOf(result.verdict)}});
    });
}

}  // namespace cvane::campaign
