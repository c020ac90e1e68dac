#include "shape/import.h"

#include <assimp/scene.h>
#include <fmt/format.h>

#include <algorithm>
#include <assimp/Importer.hpp>
#include <cmath>
#include <cstdint>
#include <cstring>

#include "base/errors.h"
#include "base/files.h"
#include "base/text.h"
#include "base/units.h"
#include "shape/ply_check.h"
#include "shape/polygon.h"

namespace cvane::shape {
namespace {

enum class Format { Stl, Obj, Ply };

constexpr unsigned kMostCorners = 4096;  ///< of one polygon: beyond it ears take too long to find

// By content, because a text STL with a binary header word (and the reverse) is common.
Format formatOf(const std::string& bytes, const std::string& where) {
    if (bytes.starts_with("ply\n") || bytes.starts_with("ply\r")) return Format::Ply;
    if (bytes.size() >= 84) {
        std::uint32_t n = 0;
        std::memcpy(&n, bytes.data() + 80, 4);
        if (84 + 50 * static_cast<std::uint64_t>(n) == bytes.size()) return Format::Stl;
    }
    const auto start = bytes.find_first_not_of(" \t\r\n");
    if (start != std::string::npos && bytes.compare(start, 5, "solid") == 0) return Format::Stl;
    if (bytes.find('\0') == std::string::npos) {
        for (std::size_t at = 0; at != std::string::npos && at < bytes.size();) {
            const auto end = bytes.find('\n', at);
            if (bytes.compare(at, 2, "v ") == 0 || bytes.compare(at, 2, "o ") == 0) return Format::Obj;
            at = end == std::string::npos ? end : end + 1;
        }
    }
    if (bytes.size() >= 84 && bytes.find('\0') != std::string::npos)
        throw base::InputError("looks like a binary STL file, but its length does not fit its facet count.", where,
                               "It may be cut off: export it again.");
    throw base::InputError("is not a surface file that is understood.", where, "Export it as STL, OBJ or PLY.");
}

// A number that the reader below would silently turn into zero or skip; found here, so that the line can be named.
void checkTextStl(const std::string& text, const std::string& where) {
    std::size_t line = 1, at = 0;
    bool inFacet = false;
    while (at < text.size()) {
        auto end = text.find('\n', at);
        if (end == std::string::npos) end = text.size();
        auto p = text.find_first_not_of(" \t", at);
        if (p != std::string::npos && p < end && text.compare(p, 6, "facet ") == 0) inFacet = true;
        if (p != std::string::npos && p < end &&
            (text.compare(p, 8, "endfacet") == 0 || text.compare(p, 9, "end facet") == 0))
            inFacet = false;
        if (p != std::string::npos && p < end && text.compare(p, 6, "vertex") == 0) {
            const char* c = text.c_str() + p + 6;
            for (int k = 0; k < 3; ++k) {
                char* stop = nullptr;
                const double v = std::strtod(c, &stop);
                if (stop == c || !std::isfinite(v) || stop > text.c_str() + end)
                    throw base::InputError(fmt::format("line {} has a corner that is not three numbers.", line), where,
                                           "Export it again or correct that line.");
                c = stop;
            }
        }
        at = end + 1;
        ++line;
    }
    if (inFacet) throw base::InputError("ends within a facet.", where, "It may be cut off: export it again.");
}

// Names of the solids of a text STL in full; the reader below cuts them at the first blank.
std::vector<std::string> solidNames(const std::string& text) {
    std::vector<std::string> names;
    for (std::size_t at = 0; at < text.size();) {
        auto end = text.find('\n', at);
        if (end == std::string::npos) end = text.size();
        const auto p = text.find_first_not_of(" \t", at);
        if (p < end && text.compare(p, 6, "solid ") == 0) {
            std::string name = text.substr(p + 6, end - p - 6);
            name.erase(name.find_last_not_of(" \t\r") + 1);
            name.erase(0, name.find_first_not_of(" \t"));
            names.push_back(name);
        }
        at = end + 1;
    }
    return names;
}

void append(const aiMesh& mesh, const std::string& name, double unit, const std::string& where, Surface& s) {
    const auto base = static_cast<std::int32_t>(s.points.size());
    const auto part = static_cast<std::int32_t>(s.parts.size());
    const std::size_t before = s.facets.size();
    s.points.reserve(s.points.size() + mesh.mNumVertices);
    for (unsigned i = 0; i < mesh.mNumVertices; ++i) {
        const auto& v = mesh.mVertices[i];
        if (!std::isfinite(v.x) || !std::isfinite(v.y) || !std::isfinite(v.z))
            throw base::InputError(fmt::format("facet {} has a corner that is not a number.", before + i / 3 + 1),
                                   where, "Export it again or delete the facet.");
        s.points.emplace_back(unit * v.x, unit * v.y, unit * v.z);
    }
    std::vector<Vec3> corners;
    for (unsigned i = 0; i < mesh.mNumFaces; ++i) {
        const aiFace& f = mesh.mFaces[i];
        if (f.mNumIndices < 3 || f.mNumIndices > kMostCorners) continue;
        corners.clear();
        for (unsigned k = 0; k < f.mNumIndices; ++k) {
            if (f.mIndices[k] >= mesh.mNumVertices)
                throw base::InputError(fmt::format("facet {} has a corner that is no point.", before + i + 1), where,
                                       "Export it again or delete the facet.");
            corners.push_back(s.points[static_cast<std::size_t>(base) + f.mIndices[k]]);
        }
        const auto add = [&](std::size_t a, std::size_t b, std::size_t c) {
            const auto at = [&](std::size_t k) { return base + static_cast<std::int32_t>(f.mIndices[k]); };
            s.facets.push_back({at(a), at(b), at(c)});
            s.partOf.push_back(part);
        };
        if (corners.size() == 3)
            add(0, 1, 2);
        else
            for (const auto& t : trianglesOf(corners)) add(t[0], t[1], t[2]);
    }
    if (s.facets.size() > before) s.parts.push_back({name.empty() ? fmt::format("part {}", part + 1) : name, true});
}

// Beyond these no unit makes sense of it, and lengths lose their digits.
void checkSize(const Surface& s, const std::string& where) {
    constexpr double kFarthest = 1e5, kShortest = 1e-5;  // [m]
    for (std::size_t f = 0; f < s.facets.size(); ++f)
        for (int k = 0; k < 3; ++k)
            if (const Vec3 x = s.corner(f, k); !(x.cwiseAbs().maxCoeff() <= kFarthest))
                throw base::InputError(
                    fmt::format("facet {} has a corner {:.2g} m away.", f + 1, x.cwiseAbs().maxCoeff()), where,
                    fmt::format("Give the file's unit, or delete the facet; a model may reach {:g} m.", kFarthest));
    if (const double longest = s.bounds().size().maxCoeff(); longest < kShortest)
        throw base::InputError(fmt::format("is {:.2g} m long.", longest), where,
                               fmt::format("Give the file's unit; a model is {:g} m long at least.", kShortest));
}

}  // namespace

Surface readSurface(const std::filesystem::path& file, double unit) {
    const std::string where = file.filename().string();
    const std::string bytes = base::readFile(file);
    if (bytes.find_first_not_of(" \t\r\n") == std::string::npos)
        throw base::InputError("is empty.", where, "Export the model again.");
    const Format format = formatOf(bytes, where);
    const char* hint = format == Format::Stl ? "stl" : format == Format::Obj ? "obj" : "ply";
    const bool textStl = format == Format::Stl && bytes.find('\0') == std::string::npos;
    if (textStl) checkTextStl(bytes, where);
    if (format == Format::Ply) checkPly(bytes, where);

    Assimp::Importer importer;
    importer.SetPropertyBool("PP_FD_REMOVE", false);
    // The reader knows a text STL by its first letters only.
    const std::size_t start = textStl ? bytes.find_first_not_of(" \t\r\n") : 0;
    const aiScene* scene = importer.ReadFileFromMemory(bytes.data() + start, bytes.size() - start, 0, hint);
    if (scene == nullptr || scene->mNumMeshes == 0)
        throw base::InputError("holds no facets that can be read.", where, "Export it again as STL, OBJ or PLY.");

    // Meshes are named by the file's solids or objects through the nodes that carry them.
    std::vector<std::string> names(scene->mNumMeshes);
    const auto visit = [&](const auto& self, const aiNode& node) -> void {
        for (unsigned i = 0; i < node.mNumMeshes; ++i) names[node.mMeshes[i]] = node.mName.C_Str();
        for (unsigned i = 0; i < node.mNumChildren; ++i) self(self, *node.mChildren[i]);
    };
    visit(visit, *scene->mRootNode);

    const auto solids = textStl ? solidNames(bytes) : std::vector<std::string>{};
    Surface s;
    for (unsigned m = 0; m < scene->mNumMeshes; ++m) {
        const aiMesh& mesh = *scene->mMeshes[m];
        std::string name = mesh.mName.length > 0 ? mesh.mName.C_Str() : names[m];
        if (name.starts_with("<")) name.clear();
        if (solids.size() == scene->mNumMeshes) name = solids[m];
        append(mesh, base::printable(name), unit, where, s);
    }
    weld(s);
    if (s.facets.empty() || !(s.area() > 0.0))
        throw base::InputError("has no facet with an area.", where, "Export the model as a surface, not as lines.");
    checkSize(s, where);
    if (s.parts.size() == 1) {
        const std::string only = s.parts[0].name;
        splitByConnection(s);
        if (s.parts.size() == 1)
            s.parts[0].name = only.starts_with("part ") ? base::printable(file.stem().string()) : only;
    }
    for (std::size_t i = 0; i < s.parts.size(); ++i)
        for (std::size_t j = 0, n = 1; j < i; ++j)
            if (s.parts[i].name == s.parts[j].name) {
                s.parts[i].name += fmt::format(" ({})", ++n);
                j = 0;
            }
    return s;
}

std::string sizeRemark(const Box& bounds, double unit) {
    const double longest = bounds.size().maxCoeff();
    if (longest >= 5e-3 && longest <= 150.0) return {};
    std::string better;
    for (const auto& u : base::lengthUnits()) {
        const double size = longest / unit * u.inSI;
        if (u.inSI != unit && size >= 0.1 && size <= 20.0)
            better += fmt::format("{}{} (then {:.3g} m)", better.empty() ? "" : " or ", u.symbol, size);
    }
    return fmt::format("The longest side is {:.3g} m, which looks like a wrong unit.{}", longest,
                       better.empty() ? "" : " The file may be in " + better + ".");
}

}  // namespace cvane::shape
