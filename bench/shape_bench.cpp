// Import of a surface of 100,000 facets, and the areas measured on it.  shape_bench
#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <filesystem>

#include "bench/models.h"
#include "shape/health.h"
#include "shape/import.h"
#include "shape/projected_area.h"
#include "shape/stl_export.h"

using namespace cvane;

int main() {
    const auto seconds = [](auto&& what) {
        const auto t0 = std::chrono::steady_clock::now();
        what();
        return std::chrono::duration<double>(std::chrono::steady_clock::now() - t0).count();
    };
    const auto folder = std::filesystem::temp_directory_path() / "cvane_shape_bench";
    std::filesystem::create_directories(folder);
    const auto s = bench::sphere(0.5, 225);
    shape::writeStl(s, folder / "text.stl", 1.0);
    shape::writeBinaryStl(s, folder / "binary.stl", 1.0);
    shape::Surface read;
    for (const char* name : {"text.stl", "binary.stl"}) {
        const double t = seconds([&] { read = shape::readSurface(folder / name, 1.0); });
        fmt::print("{}: {:.2f} s for {} facets\n", name, t, read.facets.size());
    }
    fmt::print("health: {:.2f} s\n", seconds([&] { shape::checkHealth(read, {}); }));
    double area = 0.0;
    const double t = seconds([&] { area = shape::projectedArea(read, 0); });
    fmt::print("frontal area: {:.2f} s, off by {:.3f} %\n", t, 100.0 * (area / (0.25 * std::acos(-1.0)) - 1.0));
    std::filesystem::remove_all(folder);
}
