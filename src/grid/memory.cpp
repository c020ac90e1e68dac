#include "grid/memory.h"

#include <sys/resource.h>
#include <unistd.h>

#include <fstream>
#include <limits>
#include <string>

namespace cvane::grid {

std::size_t availableMemory() {
    std::ifstream in("/proc/meminfo");
    std::string name, unit;
    std::size_t kib = 0;
    while (in >> name >> kib >> unit)
        if (name == "MemAvailable:") return kib * 1024;
    return std::numeric_limits<std::size_t>::max();
}

std::size_t presentMemory() {
    std::ifstream in("/proc/self/statm");
    std::size_t all = 0, resident = 0;
    return in >> all >> resident ? resident * static_cast<std::size_t>(::sysconf(_SC_PAGESIZE)) : 0;
}

std::size_t peakMemory() {
    rusage use{};
    getrusage(RUSAGE_SELF, &use);
    return 1024 * static_cast<std::size_t>(use.ru_maxrss);
}

}  // namespace cvane::grid
