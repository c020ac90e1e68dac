#include "shape/source.h"

#include <fmt/format.h>

#include <map>
#include <mutex>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "shape/import.h"

namespace cvane::shape {
namespace fs = std::filesystem;

std::string SurfaceFile::sum() const {
    // A file is read once for each time it was written.
    static std::mutex mutex;
    static std::map<std::string, std::pair<std::pair<fs::file_time_type, std::uintmax_t>, std::string>> known;
    std::error_code ec;
    const std::pair now{fs::last_write_time(file_, ec), fs::file_size(file_, ec)};
    const std::lock_guard lock(mutex);
    auto& entry = known[file_.string()];
    if (entry.second.empty() || entry.first != now) entry = {now, base::sumOfFile(file_)};
    return entry.second;
}

Surface SurfaceFile::surface() const {
    return readSurface(file_, unit_);
}

namespace {
void withoutSignOfZero(nlohmann::json& j) {
    if (j.is_structured())
        for (auto& part : j) withoutSignOfZero(part);
    else if (j.is_number())
        j = j.get<double>() + 0.0;
}
}  // namespace

std::string sumOf(const nlohmann::json& numbers) {
    auto j = numbers;
    withoutSignOfZero(j);
    return fmt::format("{:08x}", base::checksum(j.dump()));
}

}  // namespace cvane::shape
