#include "campaign/store/panel_walls.h"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/store/run_standing.h"

namespace cvane::campaign {

grid::Grid facesOf(const shape::Surface& s, std::vector<std::size_t>& order) {
    grid::Grid g;
    g.points = s.points;
    g.faceStart = {0};
    order.clear();
    for (std::size_t part = 0; part < s.parts.size(); ++part) {
        grid::Patch patch;
        patch.name = s.parts[part].name;
        patch.part = static_cast<int>(part);
        patch.first = g.faces();
        for (std::size_t f = 0; f < s.facets.size(); ++f) {
            if (s.partOf[f] != static_cast<std::int32_t>(part)) continue;
            order.push_back(f);
            // Faces turn into the model.
            for (const int k : {0, 2, 1}) g.facePoints.push_back(s.facets[f][static_cast<std::size_t>(k)]);
            g.faceStart.push_back(static_cast<std::int64_t>(g.facePoints.size()));
            g.owner.push_back(-1);
        }
        patch.count = g.faces() - patch.first;
        if (patch.count > 0) g.patches.push_back(patch);
    }
    return g;
}

std::vector<double> flat(const std::vector<Vec3>& points) {
    std::vector<double> out;
    for (const auto& p : points) out.insert(out.end(), {p.x(), p.y(), p.z()});
    return out;
}

std::vector<Vec3> pointsFrom(const std::vector<double>& numbers) {
    std::vector<Vec3> out;
    for (std::size_t k = 0; k + 2 < numbers.size(); k += 3)
        out.emplace_back(numbers[k], numbers[k + 1], numbers[k + 2]);
    return out;
}

void writeCbor(const nlohmann::json& j, const std::filesystem::path& file) {
    const auto bytes = nlohmann::json::to_cbor(j);
    base::replaceFile(file, std::string_view(reinterpret_cast<const char*>(bytes.data()), bytes.size()));
}

nlohmann::json readCbor(const std::filesystem::path& file) {
    return nlohmann::json::from_cbor(base::readFile(file), true, false);
}

nlohmann::json surfaceJson(const shape::Surface& s) {
    std::vector<std::int32_t> facets;
    for (const auto& f : s.facets) facets.insert(facets.end(), f.begin(), f.end());
    auto parts = nlohmann::json::array();
    for (const auto& p : s.parts) parts.push_back(p.name);
    return {{"points_m", flat(s.points)}, {"facets", facets}, {"part_of", s.partOf}, {"parts", parts}};
}

shape::Surface surfaceFrom(const nlohmann::json& j, const std::string& where) {
    shape::Surface s;
    try {
        s.points = pointsFrom(j.at("points_m").get<std::vector<double>>());
        const auto facets = j.at("facets").get<std::vector<std::int32_t>>();
        s.partOf = j.at("part_of").get<std::vector<std::int32_t>>();
        for (const auto& name : j.at("parts")) s.parts.push_back({name.get<std::string>()});
        for (std::size_t k = 0; k + 2 < facets.size(); k += 3)
            s.facets.push_back({facets[k], facets[k + 1], facets[k + 2]});
        const auto within = [](std::int32_t n, std::size_t count) {
            return n >= 0 && static_cast<std::size_t>(n) < count;
        };
        bool good = s.partOf.size() == s.facets.size();
        for (const auto& f : s.facets)
            for (const auto c : f) good = good && within(c, s.points.size());
        for (const auto p : s.partOf) good = good && within(p, s.parts.size());
        if (!good) throw std::out_of_range("surface");
    } catch (const std::exception&) {
        throw base::InputError("is damaged.", where, "Run the point again.");
    }
    return s;
}

PanelWalls readPanelWalls(const std::filesystem::path& run) {
    const auto file = run / kPanelsFile;
    const auto stored = readCbor(file);
    const auto s = surfaceFrom(stored, file.string());
    PanelWalls out;
    const auto separated = stored.value("separated", std::vector<int>());
    if (separated.size() == s.facets.size()) {
        out.separated.points = s.points;
        out.separated.parts = {{"separated"}};
        for (std::size_t f = 0; f < s.facets.size(); ++f)
            if (separated[f]) out.separated.facets.push_back(s.facets[f]);
        out.separated.partOf.assign(out.separated.facets.size(), 0);
    }
    std::vector<std::size_t> order;
    out.grid = std::make_shared<const grid::Grid>(facesOf(s, order));
    out.geometry = std::make_shared<const grid::Geometry>(grid::measuredFaces(*out.grid));
    out.wall = readout::readWallField(run / "wall.csv");
    if (out.wall.face.size() != s.facets.size())
        throw base::InputError("does not belong to its panels.", (run / "wall.csv").string(), "Run the point again.");
    const auto standing = standingOf(run);
    if (standing.result) out.wind = standing.result->wind;
    return out;
}

}  // namespace cvane::campaign
