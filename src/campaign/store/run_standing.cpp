#include "campaign/store/run_standing.h"

#include <fmt/format.h>

#include <map>
#include <mutex>
#include <utility>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/methods/runner.h"
#include "campaign/store/run_order.h"
#include "campaign/store/stored_grid.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

namespace {
constexpr double kMore = 1.0 - 1e-9;

Standing read(const fs::path& folder) {
    Standing s;
    std::error_code ec;
    try {
        s.asked = readout::askedBy(readOrder(folder).flowCase.settings);
    } catch (const base::InputError&) {
        // What it was asked by is not known then, but its result may be whole.
    }
    const fs::path file = folder / "result.json";
    if (!fs::exists(file, ec)) return s;
    try {
        s.result = readout::resultFromJson(base::readCheckedJson(file, 2), file.string());
    } catch (const base::InputError& e) {
        s.damage = e.what();
        return s;
    }
    // One of before that was to go on and did not: a copy of its result was put beside it when it began to.
    const bool wasToGoOn = fs::exists(folder / fmt::format("result.{}.json", s.result->iterations), ec);
    s.askedIsKnown = s.result->asked || !wasToGoOn;
    if (s.result->asked) s.asked = *s.result->asked;
    return s;
}

// Writing times and sizes of the files that a standing hangs on.
std::vector<std::pair<fs::file_time_type, std::uintmax_t>> marksOf(const fs::path& folder) {
    std::vector<std::pair<fs::file_time_type, std::uintmax_t>> out;
    for (const char* name : {"run.json", "result.json"}) {
        std::error_code ec, no;
        const auto written = fs::last_write_time(folder / name, ec);
        out.emplace_back(ec ? fs::file_time_type::min() : written, ec ? 0 : fs::file_size(folder / name, no));
    }
    return out;
}
}  // namespace

Standing standingOf(const fs::path& folder) {
    static std::mutex mutex;
    static std::map<std::string, std::pair<decltype(marksOf(folder)), Standing>> known;
    const auto marks = marksOf(folder);
    {
        const std::lock_guard lock(mutex);
        if (const auto it = known.find(folder.string()); it != known.end() && it->second.first == marks)
            return it->second.second;
    }
    auto s = read(folder);
    const std::lock_guard lock(mutex);
    known[folder.string()] = {marks, s};
    return s;
}

bool asksThis(const Standing& s, const flow::FlowSettings& now) {
    const auto same = [](double a, double b) { return a >= kMore * b && b >= kMore * a; };
    return same(s.asked.toleranceCD, now.toleranceCD) && same(s.asked.toleranceCL, now.toleranceCL);
}

bool answers(const Standing& s, const flow::FlowSettings& now) {
    return s.ended() && whyItGoesOn(s, now).empty();
}

std::string whyItGoesOn(const Standing& s, const flow::FlowSettings& now) {
    if (!s.ended()) return "It has not come to its end.";
    const auto& r = *s.result;
    if (!s.askedIsKnown)
        return fmt::format("It was {} by other tolerances before it was to go on. Run it: it goes on from there.",
                           flow::nameOf(r.verdict));
    const bool looser = now.toleranceCD < kMore * s.asked.toleranceCD || now.toleranceCL < kMore * s.asked.toleranceCL;
    const bool tighter = s.asked.toleranceCD < kMore * now.toleranceCD || s.asked.toleranceCL < kMore * now.toleranceCL;
    const auto was = fmt::format("to {:.3g} of CD and {:.3g} of CL", s.asked.toleranceCD, s.asked.toleranceCL);
    switch (r.verdict) {
        case flow::Verdict::Settled:
            if (looser)
                return fmt::format(
                    "It was settled {}, which is looser than is asked for now. Run it: it goes on from there, and "
                    "this result stays.",
                    was);
            if (r.asked && r.iterations < now.leastIterations)
                return fmt::format("It was settled after {} iterations; {} at least are asked for now.", r.iterations,
                                   now.leastIterations);
            return {};
        case flow::Verdict::Unsteady:
            if (now.mostIterations > r.iterations)
                return fmt::format("It may go on: {} iterations more are allowed now.",
                                   now.mostIterations - r.iterations);
            if (tighter)
                return fmt::format(
                    "It did not settle {}; looser tolerances are asked for now. Run it: whether it has settled by "
                    "these shows within an iteration, and this result stays.",
                    was);
            return {};
        case flow::Verdict::Diverged:
            return looser || tighter ? fmt::format(
                                           "It blew up when it was to settle {}. Run it by the present "
                                           "tolerances.",
                                           was)
                                     : std::string();
        case flow::Verdict::Running:
            break;
    }
    return {};
}

void checkRunFile(const fs::path& folder, const std::string& name) {
    const auto s = standingOf(folder);
    const char* todo = "Run the point again: its files are made anew, in a run of their own.";
    if (!s.damage.empty()) throw base::InputError(s.damage, "", "");
    // Beside a provisional result stands what the last iteration that was kept has left.
    if (s.result && s.result->provisional()) return;
    if (!s.result || s.result->sums.empty()) {
        if (s.ended() && name == "flow.cgns") checkStored(folder / name, todo);
        return;
    }
    const auto sum = s.result->sums.find(name);
    if (sum == s.result->sums.end()) return;
    if (base::sumOfFile(folder / name) != sum->second)
        throw base::InputError("is damaged (its checksum does not fit).", (folder / name).string(), todo);
}

std::string wallFileName(const std::string& onGrid) {
    return onGrid.empty() ? "wall.csv" : onGrid + "-wall.csv";
}

ValueFiles valueFilesOf(const fs::path& folder) {
    const auto order = readOrder(folder);
    const auto s = standingOf(folder);
    const std::string on = s.result ? s.result->readings().onGrid : std::string();
    return {on.empty()       ? order.grid
            : on == "coarse" ? order.coarseGrid
                             : order.coarsestGrid,
            folder / wallFileName(on), folder / (on.empty() ? "checkpoint.bin" : on + ".bin")};
}

std::string damageOf(const fs::path& folder) {
    const auto s = standingOf(folder);
    if (!s.damage.empty()) return s.damage;
    if (!s.ended() || s.result->verdict == flow::Verdict::Diverged) return {};
    try {
        runnerOf(readHead(folder).point.method).checkFiles(folder, *s.result);
    } catch (const base::InputError& e) {
        return e.what();
    }
    return {};
}

}  // namespace cvane::campaign
