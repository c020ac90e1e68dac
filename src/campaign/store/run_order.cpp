#include "campaign/store/run_order.h"

#include <fmt/format.h>

#include <cmath>

#include "base/errors.h"
#include "base/files.h"
#include "base/units.h"
#include "campaign/store/run_order_before_3.h"
#include "flow/case_json.h"

namespace cvane::campaign {
namespace fs = std::filesystem;
using nlohmann::json;

namespace {
constexpr int kSchema = 3;

// What was noted of the head of an order; orders of before lack parts of it.
OrderHead headFrom(const json& j) {
    OrderHead o;
    o.key = j.at("key").get<std::string>();
    o.caseKey = j.value("case_key", "");
    o.solver = j.value("solver", 0);
    const json p = j.value("point", json::object());
    o.point.configuration = p.value("configuration", "");
    o.point.setUp = p.value("set_up", "");
    o.point.method = methodNamed(p.value("method", nameOf(Method::Field).id));
    o.point.condition = {p.value("speed_m_s", 0.0), p.value("alpha_deg", 0.0), p.value("beta_deg", 0.0)};
    return o;
}
}  // namespace

json toJson(const OrderHead& o) {
    return {{"schema", kSchema},
            {"key", o.key},
            {"case_key", o.caseKey},
            {"solver", o.solver},
            {"point",
             {{"configuration", o.point.configuration},
              {"set_up", o.point.setUp},
              {"method", nameOf(o.point.method).id},
              {"speed_m_s", o.point.condition.speed},
              {"alpha_deg", o.point.condition.alpha_deg},
              {"beta_deg", o.point.condition.beta_deg}}}};
}

OrderHead readHead(const fs::path& folder) {
    const fs::path file = folder / "run.json";
    const json j = base::readCheckedJson(file, 2);
    try {
        auto head = headFrom(j);
        // Orders of before did not note the condition as it was typed.
        if (!j.contains("point")) head.point.condition = readOrder(folder).point.condition;
        return head;
    } catch (const std::exception&) {
        throw base::InputError("is not a run order.", file.string(), "Start the point again.");
    }
}

void writeOrder(const RunOrder& o, const fs::path& folder) {
    const auto relative = [&](const fs::path& p) {
        return p.empty() ? std::string() : fs::relative(p, folder).string();
    };
    json j = toJson(static_cast<const OrderHead&>(o));
    j.update({{"grid", relative(o.grid)},
              {"coarse_grid", relative(o.coarseGrid)},
              {"coarsest_grid", relative(o.coarsestGrid)},
              {"neighbour", relative(o.neighbour)},
              {"second_neighbour", relative(o.secondNeighbour)},
              {"case", flow::toJson(o.flowCase)}});
    if (o.weightsOnly) j["weights_only"] = true;
    if (o.cellsFollowFlow) j["cells_follow_flow"] = true;
    base::replaceJson(folder / "run.json", j);
}

RunOrder readOrder(const fs::path& folder) {
    const fs::path file = folder / "run.json";
    const json j = base::readCheckedJson(file, 2);
    try {
        RunOrder o(headFrom(j));
        if (o.point.method != Method::Field)
            throw base::InputError(
                fmt::format("was computed by the {}, which has no field.", nameOf(o.point.method).shown),
                o.point.name(), "Choose a point of the field.");
        const auto absolute = [&](const char* name) {
            const fs::path p = j.at(name).get<std::string>();
            if (p.empty() || p.is_relative()) return p.empty() ? p : (folder / p).lexically_normal();
            // Of schema 1: where it was when the campaign stood there; now beside its runs.
            std::error_code ec;
            return fs::exists(p, ec)
                       ? p
                       : folder.parent_path().parent_path() / "grids" / p.parent_path().filename() / p.filename();
        };
        o.grid = absolute("grid");
        o.coarseGrid = absolute("coarse_grid");
        if (j.contains("coarsest_grid")) o.coarsestGrid = absolute("coarsest_grid");
        o.neighbour = j.at("neighbour").get<std::string>().empty() ? fs::path() : absolute("neighbour");
        if (j.contains("second_neighbour")) o.secondNeighbour = absolute("second_neighbour");
        o.weightsOnly = j.value("weights_only", false);
        o.cellsFollowFlow = j.value("cells_follow_flow", false);
        const json p = j.value("point", json::object());
        o.flowCase =
            j.at("schema").get<int>() < 3 ? flowCaseBefore3(j, file.string()) : flow::caseFromJson(j.at("case"));
        const auto angle = [](double radians) { return std::round(radians / base::degree * 1e9) / 1e9 + 0.0; };
        o.point.condition = {p.value("speed_m_s", o.flowCase.wind.speed),
                             p.value("alpha_deg", angle(o.flowCase.wind.alpha)),
                             p.value("beta_deg", angle(o.flowCase.wind.beta))};
        return o;
    } catch (const base::InputError&) {
        throw;
    } catch (const std::exception& e) {
        throw base::InputError("is not a run order.", file.string(), "Start the point again.");
    }
}

namespace {
constexpr const char* kAskedAnew = "asked.json";
}

void askAnew(const fs::path& folder, const readout::Asked& a) {
    base::replaceJson(folder / kAskedAnew, {{"tolerance_CD_relative", a.toleranceCD},
                                            {"tolerance_CL", a.toleranceCL},
                                            {"most_iterations", a.mostIterations},
                                            {"least_iterations", a.leastIterations}});
}

std::optional<readout::Asked> newlyAsked(const fs::path& folder) {
    std::error_code ec;
    const fs::path file = folder / kAskedAnew;
    if (!fs::exists(file, ec)) return std::nullopt;
    try {
        const auto j = base::readJson(file);
        fs::remove(file, ec);
        return readout::Asked{j.at("tolerance_CD_relative"), j.at("tolerance_CL"), j.at("most_iterations"),
                              j.at("least_iterations")};
    } catch (const std::exception&) {
        fs::remove(file, ec);
        return std::nullopt;
    }
}

}  // namespace cvane::campaign
