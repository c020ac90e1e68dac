#include "readout/wall_field.h"

#include <fmt/format.h>

#include <cmath>
#include <cstdlib>
#include <iterator>

#include "base/errors.h"
#include "base/files.h"

namespace cvane::readout {

namespace {
// Begins the first line, so that a file that was cut off is known by it too. Files of before it was written begin with
// the names of the columns.
constexpr std::string_view kSum = "# checksum ";
}  // namespace

void writeWallField(const WallField& w, const grid::Geometry& geo, const std::filesystem::path& file) {
    std::vector<Vec3> centres;
    std::vector<double> areas;
    for (const auto f : w.face) {
        centres.push_back(geo.faceCentre[static_cast<std::size_t>(f)]);
        areas.push_back(geo.faceArea[static_cast<std::size_t>(f)].norm());
    }
    writeWallField(w, centres, areas, file);
}

void writeWallField(const WallField& w, std::span<const Vec3> centres, std::span<const double> areas,
                    const std::filesystem::path& file) {
    std::string text = "face,x_m,y_m,z_m,area_m2,Cp,Cfx,Cfy,Cfz,y_plus\n";
    for (std::size_t i = 0; i < w.face.size(); ++i) {
        const Vec3& x = centres[i];
        fmt::format_to(std::back_inserter(text), "{},{:.7g},{:.7g},{:.7g},{:.6g},{:.6g},{:.5g},{:.5g},{:.5g},{:.4g}\n",
                       w.face[i], x.x(), x.y(), x.z(), areas[i], w.Cp[i], w.Cf[i].x(), w.Cf[i].y(), w.Cf[i].z(),
                       w.yPlus[i]);
    }
    base::replaceFile(file, fmt::format("{}{:08x}\n", kSum, base::checksum(text)) + text);
}

WallField readWallField(const std::filesystem::path& file) {
    std::string text = base::readFile(file);
    const auto damaged = [&] {
        throw base::InputError("is damaged (its checksum does not fit).", file.string(), "Run the point again.");
    };
    if (text.starts_with(kSum)) {
        const auto end = text.find('\n');
        if (end == std::string::npos) damaged();
        const auto body = std::string_view(text).substr(end + 1);
        if (text.substr(0, end) != fmt::format("{}{:08x}", kSum, base::checksum(body))) damaged();
        text.erase(0, end + 1);
    }
    if (!text.starts_with("face,")) damaged();
    if (text.find('\0') != std::string::npos)
        throw base::InputError("is damaged: it holds bytes that are no text.", file.string(), "Run the point again.");
    WallField w;
    const char* c = text.c_str();
    std::size_t line = 1;
    const auto skipLine = [&] {
        while (*c != '\0' && *c != '\n') ++c;
        if (*c == '\n') ++c;
        ++line;
    };
    skipLine();
    while (*c != '\0') {
        double v[10];
        for (int k = 0; k < 10; ++k) {
            char* end = nullptr;
            v[k] = std::strtod(c, &end);
            if (end == c || (k < 9 && *end != ','))
                throw base::InputError(fmt::format("is damaged at line {}.", line), file.string(),
                                       "Run the point again.");
            c = end + (k < 9 ? 1 : 0);
        }
        if (!(v[0] >= 0.0 && v[0] < 2147483647.0) || v[0] != std::floor(v[0]))
            throw base::InputError(fmt::format("has no face number at line {}.", line), file.string(),
                                   "Run the point again.");
        for (const double x : v)
            if (!std::isfinite(x))
                throw base::InputError(fmt::format("has something that is not a number at line {}.", line),
                                       file.string(), "Run the point again.");
        w.face.push_back(static_cast<grid::FaceIndex>(v[0]));
        w.Cp.push_back(v[5]);
        w.Cf.emplace_back(v[6], v[7], v[8]);
        w.yPlus.push_back(v[9]);
        skipLine();
    }
    return w;
}

}  // namespace cvane::readout
