#pragma once
#include <sys/types.h>

#include <filesystem>
#include <string>
#include <vector>

namespace cvane::base {

/// Starts a program in a session of its own, output and errors appended to a file, so that it outlives its starter.
/// @return process id.  Throws InputError when the program cannot be started.
pid_t startDetached(const std::vector<std::string>& command, const std::filesystem::path& outputFile,
                    const std::vector<std::string>& environment);

/// Kernel start time of a process in clock ticks since boot, 0 when there is none that lives. With the id it names one
/// process for good: an id alone is used again by the system.
unsigned long long processStart(pid_t pid);

/// True while that process lives (a finished child of ours is collected on the way and counts as gone).
bool isAlive(pid_t pid, unsigned long long start);

/// Folder of the running executable.
std::filesystem::path programFolder();

}  // namespace cvane::base
