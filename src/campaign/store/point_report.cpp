#include "campaign/store/point_report.h"

#include <fmt/format.h>

#include <fstream>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/store/run_claim.h"
#include "flow/version.h"
#include "readout/re_reference.h"

namespace cvane::campaign {
namespace fs = std::filesystem;
using nlohmann::json;

std::string nameOf(PointState s) {
    switch (s) {
        case PointState::Waiting:
            return "waiting";
        case PointState::Running:
            return "running";
        case PointState::Stopped:
            return "stopped";
        case PointState::Settled:
            return "settled";
        case PointState::Unsteady:
            return "unsteady";
        case PointState::Diverged:
            return "diverged";
        case PointState::OutOfDate:
            return "out of date";
    }
    return "";
}

namespace {
// A finished point is taken up again when the settings now ask for more than it was given. Empty: it stays as it is.
std::string whyItGoesOn(const readout::Result& r, const flow::FlowSettings& then, const flow::FlowSettings& now) {
    constexpr double kMore = 1.0 - 1e-9;
    if (r.verdict == flow::Verdict::Unsteady && now.mostIterations > r.iterations)
        return fmt::format("It may go on: {} iterations more are allowed now.", now.mostIterations - r.iterations);
    if (r.verdict == flow::Verdict::Settled &&
        (now.toleranceCD < kMore * then.toleranceCD || now.toleranceCL < kMore * then.toleranceCL))
        return "It was settled to a looser tolerance than is asked for now.";
    return {};
}

// What the solver's output says: the last iteration, and why it gave up.
struct LastWords {
    std::string notice;
    bool ended = false;  ///< it has said that it ends
};
LastWords readProgress(const fs::path& folder, PointReport& out) {
    LastWords last;
    std::ifstream in(folder / "progress.jsonl", std::ios::binary);
    if (!in) return last;
    in.seekg(0, std::ios::end);
    const auto size = static_cast<std::streamoff>(in.tellg());
    in.seekg(std::max<std::streamoff>(0, size - 4000));
    const auto numberIn = [](const json& j, const char* name, double otherwise) {
        const auto it = j.find(name);
        return it != j.end() && it->is_number() ? it->get<double>() : otherwise;
    };
    for (std::string line; std::getline(in, line);) {
        const json j = json::parse(line, nullptr, false);
        if (j.is_discarded() || !j.is_object()) continue;
        if (j.contains("iteration")) {
            out.coarse = j.contains("coarse") && j["coarse"] == true;
            out.iterations = static_cast<int>(numberIn(j, "iteration", 0.0));
            out.mostIterations = static_cast<int>(numberIn(j, "most", 1.0));
            out.CL = numberIn(j, "CL", 0.0);
            out.CD = numberIn(j, "CD", 0.0);
            out.secondsLeft = numberIn(j, "left_s", 0.0);
            out.message.clear();
            last.ended = false;
        }
        const auto textIn = [&](const char* name) {
            return j.contains(name) && j[name].is_string() ? j[name].get<std::string>() : std::string();
        };
        if (j.contains("notice")) last.notice = textIn("notice");
        if (j.contains("error")) out.message = textIn("error");
        last.ended = last.ended || j.contains("error") || j.contains("stopped") || j.contains("finished");
    }
    return last;
}
}  // namespace

PointReport progressIn(const fs::path& folder) {
    PointReport out;
    readProgress(folder, out);
    return out;
}

PointReport reportOf(const Campaign& base, const Point& p, const air::Reference& reference) {
    const Campaign c = base.of(p);
    PointReport out;
    out.point = p;
    const auto shown = shownRun(c, p);
    if (!shown) return out;
    const fs::path& folder = out.folder = shown->folder;
    std::error_code ec;
    RunOrder order;
    try {
        order = readOrder(folder);
    } catch (const base::InputError& e) {
        out.message = e.what();
    }
    const bool current = shown->current;
    const LastWords last = readProgress(folder, out);
    if (order.flowCase.reference.area > 0.0 && reference.area > 0.0) {
        out.CL *= order.flowCase.reference.area / reference.area;
        out.CD *= order.flowCase.reference.area / reference.area;
    }
    const bool running = isClaimed(folder);
    if (out.message.empty()) out.message = last.notice;
    if (running && current) {
        out.state = PointState::Running;
        return out;
    }
    if (fs::exists(folder / "result.json", ec)) {
        try {
            out.result = readout::onReference(readout::resultFromJson(base::readCheckedJson(folder / "result.json", 2),
                                                                      (folder / "result.json").string()),
                                              reference);
            // Runs know parts by the names that they came with.
            for (auto& part : out.result->parts) part.name = c.settings.model.nameOf(part.name);
        } catch (const base::InputError& e) {
            out.message = e.what();
        }
    }
    if (!current) {
        out.state = out.result ? PointState::OutOfDate : PointState::Waiting;
        if (out.state == PointState::Waiting)
            out.folder.clear();
        else
            out.message = shown->sameCase
                              ? fmt::format(
                                    "Computed by an earlier solver (version {}, this is {}). Run the point to have it "
                                    "by this one; the old result stays.",
                                    shown->solver, flow::kSolverVersion)
                          : shown->solver == 0 ? "Computed by an earlier solver, perhaps with other settings. Run the "
                                                 "point to have it by this one; the old result stays."
                                               : "Computed with other settings. It comes back when they go back.";
    } else if (!out.result || out.result->verdict == flow::Verdict::Running) {
        out.state = PointState::Stopped;
        // On a full disk the solver cannot even write down why it gave up.
        constexpr std::uintmax_t kLeast = std::uintmax_t{256} * 1024;
        if (const auto space = fs::space(folder, ec); !ec && space.available < kLeast)
            out.message =
                fmt::format("no space is left in {}. Free some and run it again; it goes on from its last checkpoint.",
                            folder.string());
        else if (!last.ended && out.message.empty())
            out.message =
                "The solver ended without a word: it was killed, or the machine went down. Run the point again; it "
                "goes on from its last checkpoint.";
    } else if (const auto more = whyItGoesOn(*out.result, order.flowCase.settings, c.settings.flow); !more.empty()) {
        out.state = PointState::Stopped;
        out.message = more;
    } else
        out.state = out.result->verdict == flow::Verdict::Settled    ? PointState::Settled
                    : out.result->verdict == flow::Verdict::Unsteady ? PointState::Unsteady
                                                                     : PointState::Diverged;
    return out;
}

}  // namespace cvane::campaign
