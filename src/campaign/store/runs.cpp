#include "campaign/store/runs.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <mutex>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/methods/runner.h"
#include "campaign/store/keys.h"
#include "campaign/store/run_claim.h"
#include "campaign/store/run_order.h"
#include "campaign/store/run_standing.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

namespace {
// An order does not change what it is an order of: it is read again only when its file was written again.
RunHead headOf(const fs::path& folder) {
    struct Known {
        fs::file_time_type written;
        RunHead head;
    };
    static std::mutex mutex;
    static std::map<std::string, Known> known;
    std::error_code ec;
    auto written = fs::last_write_time(folder / "run.json", ec);
    // One whose order is gone still has what it has computed.
    if (ec) written = fs::last_write_time(folder / "result.json", ec);
    if (ec) return {};
    const std::lock_guard lock(mutex);
    if (const auto it = known.find(folder.string()); it != known.end() && it->second.written == written)
        return it->second.head;
    RunHead h;
    try {
        h = {readHead(folder), folder, 1};
    } catch (const base::InputError&) {
        h.folder = folder;  // of a damaged order its folder's name says the key
        h.key = folder.filename().string().substr(0, folder.filename().string().find('-'));
    }
    const std::string name = folder.filename().string();
    if (const auto dash = name.rfind('-'); name.starts_with(h.key + "-") &&
                                           name.find_first_not_of("0123456789", dash + 1) == std::string::npos &&
                                           name.size() - dash < 8)
        h.attempt = std::stoi(name.substr(dash + 1));
    known[folder.string()] = {written, h};
    return h;
}

fs::file_time_type lastTouched(const RunHead& r) {
    std::error_code ec;
    const auto result = fs::last_write_time(r.folder / "result.json", ec);
    return ec ? fs::file_time_type::min() : result;
}
}  // namespace

std::vector<RunHead> runsOf(const Campaign& c) {
    std::vector<RunHead> out;
    std::error_code ec;
    for (const auto& entry : fs::directory_iterator(c.folder() / "runs", ec))
        if (auto h = headOf(entry.path()); !h.folder.empty()) out.push_back(std::move(h));
    std::sort(out.begin(), out.end(),
              [](const auto& a, const auto& b) { return a.key != b.key ? a.key < b.key : a.attempt < b.attempt; });
    return out;
}

std::vector<RunHead> runsOf(const Campaign& c, const Point& p) {
    std::vector<RunHead> out;
    const auto key = runKey(c, p);
    std::error_code ec;
    // Attempts are numbered without gaps, save where one was cleaned up: look on for a while.
    constexpr int kGap = 20;
    for (int attempt = 1, missing = 0; missing < kGap; ++attempt) {
        const fs::path folder = c.folder() / "runs" / (attempt == 1 ? key : fmt::format("{}-{}", key, attempt));
        auto h = headOf(folder);
        missing = h.folder.empty() ? missing + 1 : 0;
        if (h.folder.empty()) continue;
        h.attempt = attempt;
        out.push_back(std::move(h));
    }
    return out;
}

namespace {
const RunHead& chosenOf(const std::vector<RunHead>& own, const Runner& method, const Settings& now) {
    for (auto r = own.rbegin(); r != own.rend(); ++r)
        if (isClaimed(r->folder)) return *r;
    const RunHead* withResult = nullptr;
    for (auto r = own.rbegin(); r != own.rend(); ++r) {
        const auto standing = standingOf(r->folder);
        if (standing.ended() ? method.whyItGoesOn(standing, now).empty()
                             : method.asksThis(standing, now) || !standing.damage.empty())
            return *r;
        if (standing.ended() && !withResult) withResult = &*r;
    }
    return withResult ? *withResult : own.back();
}
}  // namespace

std::optional<ShownRun> shownRun(const Campaign& c, const Point& p) {
    if (auto own = runsOf(c, p); !own.empty())
        return ShownRun{chosenOf(own, runnerOf(p.method), c.settings), true, true};
    const auto same = caseKey(c, p);
    std::optional<ShownRun> best;
    const auto better = [&](const ShownRun& r) {
        return !best || (r.sameCase != best->sameCase ? r.sameCase : lastTouched(r) > lastTouched(*best));
    };
    for (const auto& run : runsOf(c)) {
        const ShownRun r{run, false, run.caseKey == same};
        if ((r.sameCase || r.point == p) && better(r)) best = r;
    }
    return best;
}

fs::path runFolder(const Campaign& c, const Point& p) {
    if (const auto shown = shownRun(c, p)) return shown->folder;
    return c.folder() / "runs" / runKey(c, p);
}

fs::path newRunFolder(const Campaign& c, const Point& p) {
    const fs::path runs = c.folder() / "runs";
    std::error_code ec;
    fs::create_directories(runs, ec);
    const auto key = runKey(c, p);
    for (int attempt = 1; !ec && attempt < 100000; ++attempt) {
        const fs::path folder = runs / (attempt == 1 ? key : fmt::format("{}-{}", key, attempt));
        if (fs::create_directory(folder, ec)) return folder;  // false without an error: it is there
        // One without an order was left by a start that failed: nothing is in it.
        if (!ec && !fs::exists(folder / "run.json", ec) && !fs::exists(folder / "running.json", ec)) return folder;
    }
    throw base::InputError(fmt::format("cannot be made ({}).", ec.message()), runs.string(),
                           "Choose a folder that you may write to.");
}

}  // namespace cvane::campaign
