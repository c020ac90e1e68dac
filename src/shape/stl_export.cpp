#include "shape/stl_export.h"

#include <fmt/format.h>

#include <cstring>
#include <iterator>

#include "base/files.h"

namespace cvane::shape {

void writeStl(const Surface& s, const std::filesystem::path& file, double unit) {
    std::string text;
    auto out = std::back_inserter(text);
    for (std::size_t p = 0; p < s.parts.size(); ++p) {
        fmt::format_to(out, "solid {}\n", s.parts[p].name);
        for (std::size_t f = 0; f < s.facets.size(); ++f) {
            if (s.partOf[f] != static_cast<std::int32_t>(p)) continue;
            const Vec3 n = s.areaVector(f).normalized();
            fmt::format_to(out, "facet normal {:.6g} {:.6g} {:.6g}\nouter loop\n", n.x(), n.y(), n.z());
            for (int k = 0; k < 3; ++k) {
                const Vec3 c = s.corner(f, k) / unit;
                fmt::format_to(out, "vertex {:.9g} {:.9g} {:.9g}\n", c.x(), c.y(), c.z());
            }
            fmt::format_to(out, "endloop\nendfacet\n");
        }
        fmt::format_to(out, "endsolid {}\n", s.parts[p].name);
    }
    base::replaceFile(file, text);
}

void writeBinaryStl(const Surface& s, const std::filesystem::path& file, double unit) {
    std::string bytes(84 + 50 * s.facets.size(), '\0');
    const auto n = static_cast<std::uint32_t>(s.facets.size());
    std::memcpy(bytes.data() + 80, &n, 4);
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        float v[12];
        const Vec3 normal = s.areaVector(f).normalized();
        for (int k = 0; k < 3; ++k) {
            v[k] = static_cast<float>(normal[k]);
            for (int j = 0; j < 3; ++j) v[3 + 3 * k + j] = static_cast<float>(s.corner(f, k)[j] / unit);
        }
        std::memcpy(bytes.data() + 84 + 50 * f, v, sizeof v);
    }
    base::replaceFile(file, bytes);
}

}  // namespace cvane::shape
