#include "campaign/store/holdings.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/errors.h"
#include "campaign/store/keys.h"
#include "campaign/store/run_claim.h"
#include "campaign/store/run_standing.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

namespace {
std::uintmax_t sizeOf(const fs::path& folder) {
    std::uintmax_t bytes = 0;
    std::error_code ec;
    for (const auto& entry : fs::recursive_directory_iterator(folder, ec)) {
        std::error_code each;
        if (const auto n = entry.is_regular_file(each) ? entry.file_size(each) : 0; !each) bytes += n;
    }
    return bytes;
}
}  // namespace

std::string Holding::words() const {
    const char* why = use == Use::Present   ? "of the present settings"
                      : use == Use::Earlier ? "an earlier run of the same"
                                            : "of other settings or an earlier solver";
    return fmt::format("{:>9.1f} MB  {}  {}  {}{}{}", 1e-6 * static_cast<double>(bytes),
                       kind == Kind::Run ? "run " : "grid", name, why,
                       kind == Kind::Run ? fmt::format(", {}", point.name()) : "", atWork ? ", at work" : "");
}

std::vector<Holding> holdingsOf(const Campaign& base) {
    std::set<std::string> runKeys, gridKeys;
    std::map<std::string, int> shownAttempts;  // by key; of a run that has not come to its end none is an earlier one
    std::string configuration, setUp;
    std::optional<Campaign> seen;
    bool yaws = false;
    for (const Point& p : pointsOf(base.settings)) {
        if (!seen || p.configuration != configuration || p.setUp != setUp || isAngle(p.condition.beta_deg) != yaws)
            seen = base.of(p);
        yaws = isAngle(p.condition.beta_deg);
        configuration = p.configuration;
        setUp = p.setUp;
        runKeys.insert(runKey(*seen, p));
        if (const auto shown = shownRun(*seen, p); shown && shown->current)
            shownAttempts[shown->key] = standingOf(shown->folder).ended() ? shown->attempt : 0;
        gridKeys.insert(gridKey(*seen));
    }
    std::vector<Holding> out;
    const auto runs = runsOf(base);
    for (const auto& r : runs) {
        const auto shown = shownAttempts.find(r.key);
        const bool later =
            shown != shownAttempts.end()
                ? r.attempt < shown->second
                : std::any_of(runs.begin(), runs.end(), [&](const auto& x) {
                      return x.key == r.key && !r.key.empty() && x.attempt > r.attempt && standingOf(x.folder).ended();
                  });
        const auto use = later                     ? Holding::Use::Earlier
                         : runKeys.contains(r.key) ? Holding::Use::Present
                                                   : Holding::Use::Other;
        out.push_back({Holding::Kind::Run, use, r.folder, r.folder.filename().string(), r.point, r.solver,
                       sizeOf(r.folder), isClaimed(r.folder)});
    }
    // A grid of a campaign of before stands behind a link under its present key.
    std::set<fs::path> present;
    std::error_code ec;
    for (const auto& key : gridKeys)
        if (const auto real = fs::canonical(base.folder() / "grids" / key, ec); !ec) present.insert(real);
    for (const auto& entry : fs::directory_iterator(base.folder() / "grids", ec)) {
        if (entry.is_symlink() || !entry.is_directory()) continue;
        const auto use =
            present.contains(fs::canonical(entry.path(), ec)) ? Holding::Use::Present : Holding::Use::Other;
        out.push_back({Holding::Kind::Grid,
                       use,
                       entry.path(),
                       entry.path().filename().string(),
                       {},
                       0,
                       sizeOf(entry.path()),
                       isClaimed(entry.path())});
    }
    std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.bytes > b.bytes; });
    return out;
}

void remove(const Campaign& c, const Holding& h) {
    const auto parent = h.folder.parent_path();
    if (parent != c.folder() / "runs" && parent != c.folder() / "grids")
        throw base::InputError("is not of this campaign.", h.folder.string(), "");
    if (isClaimed(h.folder)) throw base::InputError("is at work.", h.name, "Stop it first, or let it end.");
    std::error_code ec;
    fs::remove_all(h.folder, ec);
    if (ec)
        throw base::InputError(fmt::format("cannot be deleted ({}).", ec.message()), h.folder.string(),
                               "Check its permissions.");
    for (const auto& entry : fs::directory_iterator(parent, ec))
        if (entry.is_symlink() && !fs::exists(entry.path())) fs::remove(entry.path(), ec);  // led to what is gone
}

}  // namespace cvane::campaign
