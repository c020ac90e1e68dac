#include "campaign/run_files.h"

#include <fmt/format.h>

#include <fstream>
#include <sstream>

#include "base/child_process.h"
#include "base/errors.h"
#include "base/files.h"
#include "base/units.h"
#include "campaign/grid_stage.h"

namespace cvane::campaign {
namespace fs = std::filesystem;
using nlohmann::json;

void writeOrder(const RunOrder& o, const fs::path& folder) {
    Settings carrier;  // tunnel and flow settings take the form they have in campaign.json
    carrier.tunnel = o.flowCase.tunnel;
    carrier.flow = o.flowCase.settings;
    carrier.devices.roughParts = o.flowCase.rough;
    carrier.devices.discs = o.flowCase.discs;
    carrier.devices.blocks = o.flowCase.blocks;
    const auto list = [](const Vec3& v) { return json{v.x(), v.y(), v.z()}; };
    json moving = json::array();
    for (const auto& m : o.flowCase.moving) moving.push_back({{"part", m.part}, {"velocity_m_s", list(m.velocity)}, {"spin_rad_s", list(m.spin)}, {"centre_m", list(m.centre)}});
    const json all = toJson(carrier);
    const auto& w = o.flowCase.wind;
    const auto& r = o.flowCase.reference;
    const json j = {{"schema", 1},
                    {"key", o.key},
                    {"grid", o.grid.string()},
                    {"coarse_grid", o.coarseGrid.string()},
                    {"neighbour", o.neighbour.string()},
                    {"tunnel", all["tunnel"]},
                    {"flow", all["flow"]},
                    {"devices", all["devices"]},
                    {"ground_layer_from_m", o.flowCase.groundLayerFrom ? json(*o.flowCase.groundLayerFrom) : json(nullptr)},
                    {"moving", moving},
                    {"wind",
                     {{"speed_m_s", w.speed},
                      {"alpha_deg", w.alpha / base::degree},
                      {"beta_deg", w.beta / base::degree},
                      {"temperature_K", w.air.temperature},
                      {"pressure_Pa", w.air.pressure},
                      {"density_kg_m3", w.air.density},
                      {"viscosity_Pa_s", w.air.viscosity},
                      {"sound_speed_m_s", w.air.soundSpeed}}},
                    {"reference", {{"area_m2", r.area}, {"length_m", r.length}, {"span_m", r.span}, {"moment_centre_m", {r.momentCentre.x(), r.momentCentre.y(), r.momentCentre.z()}}}}};
    base::replaceFile(folder / "run.json", j.dump(2) + "\n");
}

RunOrder readOrder(const fs::path& folder) {
    const fs::path file = folder / "run.json";
    const json j = base::readJson(file);
    try {
        RunOrder o;
        o.key = j.at("key").get<std::string>();
        o.grid = j.at("grid").get<std::string>();
        o.coarseGrid = j.at("coarse_grid").get<std::string>();
        o.neighbour = j.at("neighbour").get<std::string>();
        const Settings carrier = settingsFromJson({{"schema", j.at("schema")}, {"tunnel", j.at("tunnel")}, {"flow", j.at("flow")}, {"devices", j.at("devices")}}, file.string());
        o.flowCase.tunnel = carrier.tunnel;
        o.flowCase.settings = carrier.flow;
        o.flowCase.rough = carrier.devices.roughParts;
        o.flowCase.discs = carrier.devices.discs;
        o.flowCase.blocks = carrier.devices.blocks;
        if (const auto from = j.find("ground_layer_from_m"); from != j.end() && !from->is_null()) o.flowCase.groundLayerFrom = from->get<double>();
        const auto vectorOf = [](const json& v) { return Vec3(v.at(0).get<double>(), v.at(1).get<double>(), v.at(2).get<double>()); };
        for (const json& m : j.at("moving"))
            o.flowCase.moving.push_back({m.at("part").get<std::string>(), vectorOf(m.at("velocity_m_s")), vectorOf(m.at("spin_rad_s")), vectorOf(m.at("centre_m"))});
        const json& w = j.at("wind");
        o.flowCase.wind = {w.at("speed_m_s").get<double>(), w.at("alpha_deg").get<double>() * base::degree, w.at("beta_deg").get<double>() * base::degree,
                           {w.at("temperature_K").get<double>(), w.at("pressure_Pa").get<double>(), w.at("density_kg_m3").get<double>(), w.at("viscosity_Pa_s").get<double>(),
                            w.at("sound_speed_m_s").get<double>()}};
        const json& r = j.at("reference");
        const auto m = r.at("moment_centre_m").get<std::vector<double>>();
        o.flowCase.reference = {r.at("area_m2").get<double>(), r.at("length_m").get<double>(), r.at("span_m").get<double>(), Vec3(m.at(0), m.at(1), m.at(2))};
        return o;
    } catch (const std::exception& e) {
        throw base::InputError("is not a run order.", file.string(), "Start the point again.");
    }
}

fs::path runFolder(const Campaign& c, const Point& p) { return c.folder() / "runs" / p.name(); }

std::string runKey(const Campaign& c, const Point& p, const air::Reference& r) {
    const auto j = toJson(c.settings);
    auto flow = j["flow"];
    // How long, how gently and how exactly it is iterated does not change what is computed: a run goes on when these are changed.
    for (const char* how : {"checkpoint_seconds", "most_iterations", "least_iterations", "tolerance_CD_relative", "tolerance_CL", "relaxation", "precision"}) flow.erase(how);
    const json on = {{"grid", gridKey(c)}, {"flow", flow}, {"closed", c.settings.tunnel.closed}, {"devices", j["devices"]}, {"air", j["air"]}, {"point", p.name()}, {"reference", {r.area, r.length, r.span, r.momentCentre.x(), r.momentCentre.y(), r.momentCentre.z()}}};
    return base::settingsKey(on.dump());
}

std::string nameOf(PointState s) {
    switch (s) {
        case PointState::Waiting: return "waiting";
        case PointState::Running: return "running";
        case PointState::Stopped: return "stopped";
        case PointState::Settled: return "settled";
        case PointState::Unsteady: return "unsteady";
        case PointState::Diverged: return "diverged";
        case PointState::OutOfDate: return "out of date";
    }
    return "";
}

namespace {
// A finished point is taken up again when the settings now ask for more than it was given. Empty: it stays as it is.
std::string whyItGoesOn(const readout::Result& r, const flow::FlowSettings& then, const flow::FlowSettings& now) {
    constexpr double kMore = 1.0 - 1e-9;
    if (r.verdict == flow::Verdict::Unsteady && now.mostIterations > r.iterations) return fmt::format("It may go on: {} iterations more are allowed now.", now.mostIterations - r.iterations);
    if (r.verdict == flow::Verdict::Settled && (now.toleranceCD < kMore * then.toleranceCD || now.toleranceCL < kMore * then.toleranceCL)) return "It was settled to a looser tolerance than is asked for now.";
    return {};
}
}  // namespace

PointReport reportOf(const Campaign& c, const Point& p, const air::Reference& reference) {
    PointReport out;
    out.point = p;
    const fs::path folder = runFolder(c, p);
    std::error_code ec;
    if (!fs::exists(folder / "run.json", ec)) return out;
    std::string key;
    flow::FlowSettings then;  // with which it ran
    try {
        const RunOrder order = readOrder(folder);
        key = order.key;
        then = order.flowCase.settings;
    } catch (const base::InputError& e) {
        out.message = e.what();
    }
    const bool current = key == runKey(c, p, reference);
    bool running = false;
    if (fs::exists(folder / "running.json", ec)) {
        try {
            const json r = base::readJson(folder / "running.json");
            running = base::isAlive(r.value("pid", 0), r.value("start", 0ull));
        } catch (const base::InputError&) {
        }
    }
    // The last line that the solver wrote: an iteration, or why it gave up.
    std::string notice;
    std::ifstream in(folder / "progress.jsonl", std::ios::binary);
    if (in) {
        in.seekg(0, std::ios::end);
        const auto size = static_cast<std::streamoff>(in.tellg());
        in.seekg(std::max<std::streamoff>(0, size - 4000));
        for (std::string line; std::getline(in, line);) {
            const json j = json::parse(line, nullptr, false);
            if (j.is_discarded() || !j.is_object()) continue;
            if (j.contains("iteration")) {
                out.coarse = j.value("coarse", false);
                out.iterations = j.value("iteration", 0);
                out.mostIterations = j.value("most", 1);
                out.CL = j["CL"].is_number() ? j["CL"].get<double>() : 0.0;
                out.CD = j["CD"].is_number() ? j["CD"].get<double>() : 0.0;
                out.secondsLeft = j.value("left_s", 0.0);
                out.message.clear();
            }
            if (j.contains("notice")) notice = j.value("notice", "");
            if (j.contains("error")) out.message = j.value("error", "");
        }
    }
    if (out.message.empty()) out.message = notice;
    if (running) {
        out.state = PointState::Running;
        return out;
    }
    if (fs::exists(folder / "result.json", ec)) {
        try {
            out.result = readout::resultFromJson(base::readJson(folder / "result.json"), (folder / "result.json").string());
        } catch (const base::InputError& e) {
            out.message = e.what();
        }
    }
    if (!current)
        out.state = out.result ? PointState::OutOfDate : PointState::Waiting;
    else if (!out.result || out.result->verdict == flow::Verdict::Running) {
        out.state = PointState::Stopped;
        // On a full disk the solver cannot even write down why it gave up.
        constexpr std::uintmax_t kLeast = 256 * 1024;
        if (const auto space = fs::space(folder, ec); !ec && space.available < kLeast)
            out.message = fmt::format("no space is left in {}. Free some and run it again; it goes on from its last checkpoint.", folder.string());
    } else if (const auto more = whyItGoesOn(*out.result, then, c.settings.flow); !more.empty()) {
        out.state = PointState::Stopped;
        out.message = more;
    } else
        out.state = out.result->verdict == flow::Verdict::Settled ? PointState::Settled : out.result->verdict == flow::Verdict::Unsteady ? PointState::Unsteady : PointState::Diverged;
    return out;
}

const std::vector<double>* Monitor::column(const std::string& name) const {
    for (std::size_t i = 0; i < names.size(); ++i)
        if (names[i] == name) return &columns[i];
    return nullptr;
}

Monitor readMonitor(const fs::path& folder) {
    Monitor m;
    std::ifstream in(folder / "monitor.csv");
    std::string line;
    if (!std::getline(in, line)) return m;
    std::istringstream head(line);
    for (std::string name; std::getline(head, name, ',');) m.names.push_back(name);
    m.columns.resize(m.names.size());
    while (std::getline(in, line)) {
        std::vector<double> row;
        const char* c = line.c_str();
        for (char* end = nullptr; row.size() < m.names.size(); c = end + 1) {
            row.push_back(std::strtod(c, &end));
            if (*end != ',') break;
        }
        if (row.size() != m.names.size()) continue;  // a line that is still being written
        for (std::size_t i = 0; i < row.size(); ++i) m.columns[i].push_back(row[i]);
    }
    return m;
}

}  // namespace cvane::campaign
