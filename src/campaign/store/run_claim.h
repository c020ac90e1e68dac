#pragma once
#include <filesystem>
#include <optional>
#include <string>

namespace cvane::campaign {

/// Who works in a folder of runs or grids: a process on a host, as running.json there says.
struct Claim {
    std::string host;
    int pid = 0;
    unsigned long long start =
        0;                      ///< of that process, in the kernel's ticks; with the id it names one process for good
    std::string words() const;  ///< "process 312 on node7"
};

/// The process that works there; empty when there is none, or none that lives. Of a process on another host its
/// heartbeat tells.
std::optional<Claim> claimOn(const std::filesystem::path& folder);
inline bool isClaimed(const std::filesystem::path& folder) {
    return claimOn(folder).has_value();
}

/// Takes a folder for this process until `handOver` or the end of its life. Two programs, on one host or two, cannot
/// both. Throws InputError: another works there, it cannot be written.
void claim(const std::filesystem::path& folder);
/// Puts another process of this host in this one's place: the solver that it has started.
void handOver(const std::filesystem::path& folder, int pid);
void release(const std::filesystem::path& folder);

/// Says that the process that works there lives; to be called every kHeartbeatSeconds.
void beat(const std::filesystem::path& folder);
inline constexpr int kHeartbeatSeconds = 10;

std::string hostName();

}  // namespace cvane::campaign
