// Items of a flow in few pieces, for while the view moves.
#include <algorithm>
#include <cmath>
#include <unordered_map>

#include "view/item_shape.h"

namespace cvane::view {
namespace {
constexpr std::size_t kMostTriangles = 9000;
constexpr std::size_t kMostSegments = 4000;

std::size_t trianglesOf(const ItemShape& s) {
    return s.corners.size() < 2 * s.pieces() ? 0 : s.corners.size() - 2 * s.pieces();
}

double areaOf(const ItemShape& s) {
    double area = 0.0;
    const auto place = [&](std::int32_t k) -> const Vec3& {
        return s.places[static_cast<std::size_t>(s.corners[static_cast<std::size_t>(k)])];
    };
    for (std::size_t p = 0; p < s.pieces(); ++p)
        for (auto k = s.start[p] + 1; k + 1 < s.start[p + 1]; ++k)
            area += 0.5 * (place(k) - place(s.start[p])).cross(place(k + 1) - place(s.start[p])).norm();
    return area;
}

ItemShape fewerSegments(const ItemShape& s) {
    ItemShape out;
    const auto step = static_cast<std::int32_t>(s.corners.size() / kMostSegments + 1);
    for (std::size_t p = 0; p < s.pieces(); ++p) {
        std::vector<Vec3> places;
        for (auto k = s.start[p]; k < s.start[p + 1]; ++k) {
            if ((k - s.start[p]) % step != 0 && k + 1 != s.start[p + 1]) continue;
            const auto c = static_cast<std::size_t>(s.corners[static_cast<std::size_t>(k)]);
            places.push_back(s.places[c]);
            if (!s.values.empty()) out.values.push_back(s.values[c]);
        }
        out.addPiece(places);
    }
    return out;
}

ItemShape fewerTriangles(const ItemShape& s) {
    ItemShape out;
    const double size = std::sqrt(2.0 * areaOf(s) / static_cast<double>(kMostTriangles));
    if (!(size > 0.0)) return out;
    const auto normals = normalsOf(s);
    std::unordered_map<std::uint64_t, std::int32_t> cubes;
    std::vector<std::int32_t> becomes(s.places.size());
    for (std::size_t i = 0; i < s.places.size(); ++i) {
        int axis = 0;
        normals[i].cwiseAbs().maxCoeff(&axis);
        auto key = static_cast<std::uint64_t>(2 * axis + (normals[i][axis] > 0.0));
        for (int k = 0; k < 3; ++k)
            key = (key << 20) |
                  (static_cast<std::uint64_t>(std::llround(std::floor(s.places[i][k] / size)) + (1 << 19)) & 0xfffff);
        const auto [it, isNew] = cubes.try_emplace(key, static_cast<std::int32_t>(out.places.size()));
        becomes[i] = it->second;
        if (!isNew) continue;
        out.places.push_back(s.places[i]);
        if (!s.values.empty()) out.values.push_back(s.values[i]);
    }
    const auto corner = [&](std::int32_t k) {
        return becomes[static_cast<std::size_t>(s.corners[static_cast<std::size_t>(k)])];
    };
    for (std::size_t p = 0; p < s.pieces(); ++p)
        for (auto k = s.start[p] + 1; k + 1 < s.start[p + 1]; ++k) {
            const auto a = corner(s.start[p]), b = corner(k), c = corner(k + 1);
            if (a == b || b == c || a == c) continue;
            out.corners.insert(out.corners.end(), {a, b, c});
            out.start.push_back(static_cast<std::int32_t>(out.corners.size()));
        }
    return out;
}
}  // namespace

std::vector<Vec3> normalsOf(const ItemShape& s) {
    std::vector<Vec3> out(s.places.size(), Vec3::Zero());
    const auto place = [&](std::int32_t k) -> const Vec3& {
        return s.places[static_cast<std::size_t>(s.corners[static_cast<std::size_t>(k)])];
    };
    for (std::size_t p = 0; p < s.pieces(); ++p) {
        Vec3 area = Vec3::Zero();
        for (auto k = s.start[p] + 1; k + 1 < s.start[p + 1]; ++k)
            area -= (place(k) - place(s.start[p])).cross(place(k + 1) - place(s.start[p]));
        for (auto k = s.start[p]; k < s.start[p + 1]; ++k)
            out[static_cast<std::size_t>(s.corners[static_cast<std::size_t>(k)])] += area;
    }
    for (Vec3& n : out)
        if (n.norm() > 0.0) n.normalize();
    return out;
}

std::shared_ptr<const ItemShape> coarseOf(const ItemShape& s) {
    if (s.areLines ? s.corners.size() < 2 * kMostSegments : trianglesOf(s) < 2 * kMostTriangles) return nullptr;
    auto out = std::make_shared<ItemShape>(s.areLines ? fewerSegments(s) : fewerTriangles(s));
    out->areLines = s.areLines;
    out->isFlat = s.isFlat;
    out->steps = s.steps;
    out->opacity = s.opacity;
    out->low = s.low;
    out->high = s.high;
    out->sense = s.sense;
    return out;
}

}  // namespace cvane::view
