// Items of a flow that lie on the model's walls.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <unordered_map>

#include "field/wall_lines.h"
#include "readout/pressure_station.h"
#include "view/items_inside.h"

namespace cvane::view {
using campaign::FlowItem;

namespace {
bool isOfWalls(const std::string& id) {
    return std::any_of(wallQuantities().begin(), wallQuantities().end(), [&](const auto& w) { return w.id == id; });
}

// Values that only walls have, at the points of their faces by means over these.
std::vector<double> wallValues(const field::FlowField& flow, const std::string& id) {
    const auto& wall = flow.wall();
    std::vector<double> of(wall.face.size());
    const Vec3 drag = flow.wind().dragAxis(), lift = flow.wind().liftAxis();
    for (std::size_t i = 0; i < of.size(); ++i) {
        const Vec3 push = pushOf(flow, i);
        of[i] = id == "wall_Cp"       ? wall.Cp[i]
                : id == "wall_Cf"     ? wall.Cf[i].norm()
                : id == "wall_y_plus" ? wall.yPlus[i]
                : id == "wall_drag"   ? push.dot(drag)
                                      : push.dot(lift);
    }
    return readout::toPoints(flow.mesh().grid(), flow.mesh().geometry(), wall.face, of);
}

/// An item's quantity at the grid's points, of walls or of the air; none where it asks for none.
struct OnWalls {
    std::shared_ptr<const std::vector<double>> own;
    const std::vector<double>* at = nullptr;
};
OnWalls quantityOnWalls(const FlowItem& item, const field::FlowField& flow) {
    OnWalls out;
    if (isOfWalls(item.quantity)) {
        out.own = std::make_shared<const std::vector<double>>(wallValues(flow, item.quantity));
        out.at = out.own.get();
    } else if (!item.quantity.empty()) {
        out.at = &flow.atPoints(item.quantity);
    }
    return out;
}

/// The walls' shear over q at the grid's points.
std::vector<Vec3> shearAtPoints(const field::FlowField& flow) {
    const auto& wall = flow.wall();
    std::vector<double> part(wall.face.size());
    std::vector<Vec3> shear(flow.mesh().points());
    for (int k = 0; k < 3; ++k) {
        for (std::size_t i = 0; i < part.size(); ++i) part[i] = wall.Cf[i][k];
        const auto at = readout::toPoints(flow.mesh().grid(), flow.mesh().geometry(), wall.face, part);
        for (std::size_t p = 0; p < at.size(); ++p) shear[p][k] = at[p];
    }
    return shear;
}

/// Places by the cubes of space that they lie in.
class Near {
  public:
    Near(const ItemShape& shape, double within) : shape_(shape), normals_(normalsOf(shape)), within_(within) {
        for (std::size_t i = 0; i < shape.places.size(); ++i) cubes_[keyOf(shape.places[i], 0, 0, 0)].push_back(i);
    }
    /// The nearest place whose wall looks about the same way; -1: none within the distance.
    std::ptrdiff_t find(const Vec3& x, const Vec3& normal) const {
        std::ptrdiff_t best = -1;
        double least = within_ * within_;
        for (int i = -1; i <= 1; ++i)
            for (int j = -1; j <= 1; ++j)
                for (int k = -1; k <= 1; ++k) {
                    const auto it = cubes_.find(keyOf(x, i, j, k));
                    if (it == cubes_.end()) continue;
                    for (const auto p : it->second) {
                        const double d = (shape_.places[p] - x).squaredNorm();
                        if (d > least || normals_[p].dot(normal) < 0.5) continue;
                        least = d;
                        best = static_cast<std::ptrdiff_t>(p);
                    }
                }
        return best;
    }

  private:
    std::uint64_t keyOf(const Vec3& x, int i, int j, int k) const {
        const auto one = [&](double v, int off) {
            return static_cast<std::uint64_t>(std::llround(std::floor(v / within_)) + off + (1 << 20)) & 0x1fffff;
        };
        return (one(x.x(), i) << 42) | (one(x.y(), j) << 21) | one(x.z(), k);
    }
    const ItemShape& shape_;
    std::vector<Vec3> normals_;
    double within_;
    std::unordered_map<std::uint64_t, std::vector<std::size_t>> cubes_;
};
}  // namespace

void makeWall(const FlowItem& item, const field::FlowField& flow, ItemShape& s) {
    const auto& grid = flow.mesh().grid();
    const auto own = quantityOnWalls(item, flow);
    const auto* values = own.at;
    if (values) take(titleOf(flow, item.quantity), s);
    std::vector<std::int32_t> numberOf(grid.points.size(), -1);
    for (const auto& patch : grid.patches) {
        if (patch.kind != grid::PatchKind::Wall) continue;
        for (auto f = patch.first; f < patch.first + patch.count; ++f) {
            for (const auto p : grid.polygon(f)) {
                auto& number = numberOf[static_cast<std::size_t>(p)];
                if (number < 0) {
                    number = static_cast<std::int32_t>(s.places.size());
                    s.places.push_back(grid.points[static_cast<std::size_t>(p)]);
                    if (values) s.values.push_back((*values)[static_cast<std::size_t>(p)]);
                }
                s.corners.push_back(number);
            }
            s.start.push_back(static_cast<std::int32_t>(s.corners.size()));
        }
    }
}

void makeWallArrows(const FlowItem& item, const field::FlowField& flow, ItemShape& s) {
    const auto& wall = flow.wall();
    const auto& g = flow.mesh().geometry();
    const auto own = quantityOnWalls(item, flow);
    if (own.at) take(titleOf(flow, item.quantity), s);
    s.areLines = true;
    // One arrow in each cube of space that the walls pass: on the face nearest to its middle.
    const double apart = wallsOf(flow).size().maxCoeff() / item.count, off = 0.05 * apart;
    struct Chosen {
        std::size_t face;
        double distance;
    };
    std::map<std::array<long, 3>, Chosen> cubes;
    std::vector<double> sizes;
    for (std::size_t i = 0; i < wall.face.size(); ++i) {
        const Vec3& x = g.faceCentre[static_cast<std::size_t>(wall.face[i])];
        const std::array<long, 3> cube{std::lround(x.x() / apart), std::lround(x.y() / apart),
                                       std::lround(x.z() / apart)};
        const double d = (x - apart * Vec3(double(cube[0]), double(cube[1]), double(cube[2]))).squaredNorm();
        const auto at = cubes.try_emplace(cube, Chosen{i, d}).first;
        if (d < at->second.distance) at->second = {i, d};
        sizes.push_back(wall.Cf[i].norm());
    }
    if (sizes.empty()) {
        s.trouble = "Nothing is known of the walls.";
        return;
    }
    // As long as the arrows are apart where the shear is that of most of the walls.
    const auto high = sizes.begin() + static_cast<std::ptrdiff_t>(0.9 * static_cast<double>(sizes.size() - 1));
    std::nth_element(sizes.begin(), high, sizes.end());
    if (!(*high > 0.0)) {
        s.trouble = "The walls have no shear that arrows could show.";
        return;
    }
    const double scale = apart / *high;
    for (const auto& [cube, chosen] : cubes) {
        const auto f = static_cast<std::size_t>(wall.face[chosen.face]);
        const Vec3 outwards = -g.faceArea[f].normalized(), x = g.faceCentre[f] + off * outwards;
        Vec3 way = scale * wall.Cf[chosen.face];
        if (way.norm() > 1.5 * apart) way *= 1.5 * apart / way.norm();
        addArrow(x, way, outwards, s);
        if (own.at)
            s.values.insert(s.values.end(), 5, flow.mesh().at(*own.at, flow.mesh().ofFace(wall.face[chosen.face])));
    }
}

void makeWallLines(const FlowItem& item, const field::FlowField& flow, const std::function<bool()>& wanted,
                   ItemShape& s) {
    const auto& wall = flow.wall();
    const auto shear = shearAtPoints(flow);
    const auto own = quantityOnWalls(item, flow);
    const auto* values = own.at;
    if (values) take(titleOf(flow, item.quantity), s);
    const field::WallSkin skin(flow.mesh(), wall.face);
    s.areLines = true;
    // A little off the wall, so that they are seen.
    const double off = 1e-3 * wallsOf(flow).size().maxCoeff();
    for (const auto& line : field::limitingLines(skin, shear, item.count, wanted)) {
        std::vector<Vec3> places;
        for (std::size_t k = 0; k < line.places.size(); ++k) {
            places.push_back(line.places[k] + off * skin.normal(line.spots[k].triangle));
            if (values) s.values.push_back(skin.valueAt(line.spots[k], *values));
        }
        s.addPiece(places);
    }
    if (s.pieces() == 0) s.trouble = "The walls have no shear that lines could follow.";
}

ItemShape wallDifference(const FlowItem& item, const field::FlowField& flow, const field::FlowField& less) {
    ItemShape s = shapeOf(item, flow);
    const ItemShape other = shapeOf(item, less);
    if (s.values.empty() || other.values.empty()) return s;
    if (&flow.mesh() == &less.mesh()) {
        for (std::size_t i = 0; i < s.values.size(); ++i) s.values[i] -= other.values[i];
        s.title += ", difference";
    } else {
        const double within = kSamePlace * wallsOf(flow).size().maxCoeff();
        const Near near(other, within);
        const auto normals = normalsOf(s);
        std::size_t missing = 0;
        for (std::size_t i = 0; i < s.values.size(); ++i) {
            const auto at = near.find(s.places[i], normals[i]);
            missing += at < 0;
            s.values[i] = at < 0 ? std::nan("") : s.values[i] - other.values[static_cast<std::size_t>(at)];
        }
        s.title += ", difference";
        if (missing > 0)
            s.trouble = fmt::format("{:.1f} % of the walls have no wall of the other within {:.3g} m: they are grey.",
                                    100.0 * double(missing) / double(s.values.size()), within);
    }
    s.sense = field::Sense::AboutZero;
    s.contours.clear();
    auto free = item;
    free.low = free.high = 0.0;
    chooseRange(free, s);
    s.coarse = coarseOf(s);
    return s;
}

const std::vector<field::Quantity>& wallQuantities() {
    using enum field::Sense;
    static const std::vector<field::Quantity> all{{"wall_Cp", "pressure coefficient on the wall", "", AboutZero},
                                                  {"wall_Cf", "skin friction coefficient", "", Level},
                                                  {"wall_y_plus", "y+", "", Level},
                                                  {"wall_drag", "drag per area over q", "", AboutZero},
                                                  {"wall_lift", "lift per area over q", "", AboutZero}};
    return all;
}

std::optional<double> groundOf(const field::FlowField& flow, const grid::Tunnel& tunnel) {
    if (tunnel.floor == grid::Floor::None) return std::nullopt;
    const auto& points = flow.mesh().grid().points;
    return std::min_element(points.begin(), points.end(), [](auto& a, auto& b) { return a.z() < b.z(); })->z();
}

Box wallsOf(const field::FlowField& flow) {
    Box out;
    const auto& g = flow.mesh().grid();
    for (const auto& p : g.patches)
        if (p.kind == grid::PatchKind::Wall)
            for (auto f = p.first; f < p.first + p.count; ++f)
                for (const auto i : g.polygon(f)) out.add(g.points[static_cast<std::size_t>(i)]);
    return out;
}

}  // namespace cvane::view
