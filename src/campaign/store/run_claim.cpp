#include "campaign/store/run_claim.h"

#include <fmt/format.h>
#include <unistd.h>

#include <chrono>
#include <climits>

#include "base/child_process.h"
#include "base/errors.h"
#include "base/files.h"
#include "campaign/store/folder_lock.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

namespace {
constexpr auto kSilence = std::chrono::seconds(
    12 *
    kHeartbeatSeconds);  ///< after which a process on another host counts as gone; clocks of hosts may differ by less

void write(const fs::path& folder, const Claim& c) {
    base::replaceFile(folder / "running.json",
                      nlohmann::json{{"host", c.host}, {"pid", c.pid}, {"start", c.start}}.dump() + "\n");
}
}  // namespace

std::string hostName() {
    char name[HOST_NAME_MAX + 1] = {};
    return ::gethostname(name, HOST_NAME_MAX) == 0 ? name : "this host";
}

std::string Claim::words() const {
    return host == hostName() ? fmt::format("process {}", pid) : fmt::format("process {} on {}", pid, host);
}

std::optional<Claim> claimOn(const fs::path& folder) {
    std::error_code ec;
    if (!fs::exists(folder / "running.json", ec)) return std::nullopt;
    Claim c;
    try {
        const auto j = base::readJson(folder / "running.json");
        c = {j.value("host", hostName()), j.value("pid", 0), j.value("start", 0ull)};
    } catch (const std::exception&) {
        return std::nullopt;  // damaged: nobody can be found by it
    }
    if (c.host == hostName()) return base::isAlive(c.pid, c.start) ? std::optional(c) : std::nullopt;
    auto last = fs::last_write_time(folder / "running.json", ec);
    if (const auto beat = fs::last_write_time(folder / "heartbeat", ec); !ec) last = std::max(last, beat);
    return fs::file_time_type::clock::now() - last < kSilence ? std::optional(c) : std::nullopt;
}

void claim(const fs::path& folder) {
    const FolderLock lock(folder);
    if (const auto other = claimOn(folder))
        throw base::InputError(fmt::format("is in the hands of {}.", other->words()), folder.string(),
                               "Wait for it, or stop it there.");
    write(folder, {hostName(), static_cast<int>(::getpid()), base::processStart(::getpid())});
}

void handOver(const fs::path& folder, int pid) {
    write(folder, {hostName(), pid, base::processStart(pid)});
}

void release(const fs::path& folder) {
    std::error_code ec;
    fs::remove(folder / "running.json", ec);
    fs::remove(folder / "heartbeat", ec);
}

void beat(const fs::path& folder) {
    try {
        base::replaceFile(folder / "heartbeat", "");
    } catch (const base::InputError&) {
        // A full disk must not end the run that it tells of.
    }
}

}  // namespace cvane::campaign
