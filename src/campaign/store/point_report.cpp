#include "campaign/store/point_report.h"

#include <fmt/format.h>

#include <fstream>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/methods/runner.h"
#include "campaign/store/run_claim.h"
#include "campaign/store/run_standing.h"
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
// What the solver's output says: the last iteration, and why it gave up.
struct LastWords {
    std::string notice;
    bool ended = false;  ///< it has said that it ends
};
LastWords readProgress(const fs::path& folder, PointReport& out) {
    LastWords last;
    std::error_code ec;
    if (!fs::is_regular_file(folder / "progress.jsonl", ec)) return last;
    std::ifstream in(folder / "progress.jsonl", std::ios::binary);
    if (!in) return last;
    in.seekg(0, std::ios::end);
    const auto size = static_cast<std::streamoff>(in.tellg());
    in.seekg(std::max<std::streamoff>(0, size - 4000));
    const auto numberIn = [](const json& j, const char* name, double otherwise) {
        const auto it = j.find(name);
        return it != j.end() && it->is_number() ? it->get<double>() : otherwise;
    };
    bool failed = false;
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
            out.inTime = numberIn(j, "time_step_s", 0.0) > 0.0;
            // Of several ranks one may run out of memory before the last iterations of the first have been passed on.
            if (!failed) last.ended = false;
        }
        const auto textIn = [&](const char* name) {
            return j.contains(name) && j[name].is_string() ? j[name].get<std::string>() : std::string();
        };
        if (j.contains("notice")) last.notice = textIn("notice");
        if (j.contains("error")) {
            out.message = textIn("error");
            failed = true;
        }
        last.ended = last.ended || j.contains("error") || j.contains("stopped") || j.contains("finished");
    }
    return last;
}
}  // namespace

std::string PointReport::stateWords() const {
    return nameOf(state) + (provisional() ? ", provisional" : "");
}

PointReport progressIn(const fs::path& folder) {
    PointReport out;
    readProgress(folder, out);
    return out;
}

namespace {
// A result on the present reference values and names.
readout::Result shownResult(const Campaign& c, const readout::Result& stored, const air::Reference& reference) {
    auto r = readout::onReference(stored, reference);
    // Runs know parts by the names that they came with.
    for (auto& part : r.parts) part.name = c.settings.model.nameOf(part.name);
    return r;
}

// The last run of a point that has come to an end with values; empty: none.
fs::path runBefore(const Campaign& c, const Point& p) {
    const auto own = runsOf(c, p);
    for (auto r = own.rbegin(); r != own.rend(); ++r) {
        const auto s = standingOf(r->folder);
        if (s.ended() && s.result->verdict != flow::Verdict::Diverged) return r->folder;
    }
    return {};
}

// Of a run that has not come to its end: what it has so far, else what the one has that it goes on from.
void showOnTheWay(PointReport& out, const Campaign& c, const Standing& standing, const air::Reference& reference) {
    if (standing.result) {
        out.result = shownResult(c, *standing.result, reference);
        return;
    }
    const auto before = runBefore(c, out.point);
    if (before.empty()) return;
    const auto earlier = standingOf(before);
    out.result = shownResult(c, *earlier.result, reference);
    out.folder = before;
    const auto from =
        fmt::format("Until it has values of its own those are shown that it goes on from: {} after {} iterations.",
                    flow::nameOf(earlier.result->verdict), earlier.result->iterations);
    out.message += (out.message.empty() ? "" : " ") + from;
}

std::string whyOutOfDate(const ShownRun& shown, int present) {
    if (shown.sameCase)
        return fmt::format(
            "Computed by an earlier solver (version {}, this is {}). Run the point to have it by this one; the old "
            "result stays.",
            shown.solver, present);
    return shown.solver == 0
               ? "Computed by an earlier solver, perhaps with other settings. Run the point to have it by "
                 "this one; the old result stays."
               : "Computed with other settings. It comes back when they go back.";
}

std::string whyItStopped(const fs::path& folder, const LastWords& last, const std::string& said) {
    // On a full disk the solver cannot even write down why it gave up.
    constexpr std::uintmax_t kLeast = std::uintmax_t{256} * 1024;
    std::error_code ec;
    if (const auto space = fs::space(folder, ec); !ec && space.available < kLeast)
        return fmt::format("no space is left in {}. Free some and run it again; it goes on from its last checkpoint.",
                           folder.string());
    if (!last.ended && said.empty())
        return "The solver ended without a word: it was killed, or the machine went down. Run the point again; it goes "
               "on from its last checkpoint.";
    return said;
}
}  // namespace

std::optional<fs::path> runWithValues(const Campaign& base, const Point& p) {
    const Campaign c = base.of(p);
    const auto shown = shownRun(c, p);
    if (!shown) return std::nullopt;
    if (standingOf(shown->folder).result || !shown->current) return shown->folder;
    const auto before = runBefore(c, p);
    return before.empty() ? shown->folder : before;
}

PointReport reportOf(const Campaign& base, const Point& p, const air::Reference& reference) {
    const Campaign c = base.of(p);
    PointReport out;
    out.point = p;
    out.reference = reference;
    const auto shown = shownRun(c, p);
    if (!shown) return out;
    const fs::path folder = out.folder = out.latest = shown->folder;
    double own = 0.0;  // area that the run's own lines are on
    try {
        own = runnerOf(p.method).referenceOf(folder).area;
    } catch (const base::InputError& e) {
        out.message = e.what();
    }
    const LastWords last = readProgress(folder, out);
    if (own > 0.0 && reference.area > 0.0) {
        out.CL *= own / reference.area;
        out.CD *= own / reference.area;
    }
    if (out.message.empty()) out.message = last.notice;
    const auto standing = standingOf(folder);
    if (!standing.damage.empty()) out.message = standing.damage;
    if (shown->current && isClaimed(folder)) {
        out.state = PointState::Running;
        showOnTheWay(out, c, standing, reference);
        return out;
    }
    if (!shown->current) {
        if (standing.result) out.result = shownResult(c, *standing.result, reference);
        out.state = out.result ? PointState::OutOfDate : PointState::Waiting;
        if (out.state == PointState::Waiting)
            out.folder.clear();
        else
            out.message = whyOutOfDate(*shown, runnerOf(p.method).version());
    } else if (!standing.ended()) {
        out.state = PointState::Stopped;
        out.message = whyItStopped(folder, last, out.message);
        showOnTheWay(out, c, standing, reference);
    } else {
        out.result = shownResult(c, *standing.result, reference);
        if (const auto more = runnerOf(p.method).whyItGoesOn(standing, c.settings); !more.empty()) {
            out.state = PointState::Stopped;
            out.message = more;
        } else
            out.state = standing.result->verdict == flow::Verdict::Settled    ? PointState::Settled
                        : standing.result->verdict == flow::Verdict::Unsteady ? PointState::Unsteady
                                                                              : PointState::Diverged;
    }
    return out;
}

}  // namespace cvane::campaign
