#include "view/item_shape.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "field/locator.h"
#include "field/sheet.h"
#include "field/streamline.h"
#include "view/items_inside.h"

namespace cvane::view {
using campaign::FlowItem;

Title titleOf(const field::FlowField& flow, const std::string& id) {
    for (const auto& q : wallQuantities())
        if (q.id == id) return {q.label, q.sense};
    for (const auto& q : flow.quantities())
        if (q.id == id) return {q.unit.empty() ? q.label : fmt::format("{} [{}]", q.label, q.unit), q.sense};
    return {id, field::Sense::AboutZero};  // a formula may have any sign
}

void take(const Title& title, ItemShape& s) {
    s.title = title.text;
    s.sense = title.sense;
}

void addArrow(const Vec3& from, const Vec3& way, const Vec3& normal, ItemShape& s) {
    const Vec3 tip = from + way, back = tip - way / 3.0, side = 0.2 * normal.cross(way);
    s.addPiece({from, tip});
    s.addPiece({Vec3(back + side), tip, Vec3(back - side)});
}

// Ends of the colours that show most of what there is: single cells at an edge must not grey out all others.
void chooseRange(const FlowItem& item, ItemShape& s) {
    if (item.low != item.high) {
        s.low = std::min(item.low, item.high);
        s.high = std::max(item.low, item.high);
        return;
    }
    if (s.values.empty()) return;
    auto sorted = s.values;
    std::erase_if(sorted, [](double v) { return std::isnan(v); });  // where nothing is known
    if (sorted.empty()) return;
    const auto at = [&](double share) {
        const auto k = static_cast<std::ptrdiff_t>(share * static_cast<double>(sorted.size() - 1));
        std::nth_element(sorted.begin(), sorted.begin() + k, sorted.end());
        return sorted[static_cast<std::size_t>(k)];
    };
    s.low = at(0.005);
    s.high = at(0.995);
    if (s.sense == field::Sense::AboutZero) {
        // Zero in the middle.
        s.high = std::max(std::abs(s.low), std::abs(s.high));
        s.low = -s.high;
    } else if (s.sense == field::Sense::FromZero) {
        s.low = 0.0;
    }
    // One value all over has no ends.
    const double least = 1e-9 * std::max(std::abs(s.low), std::abs(s.high));
    if (!(s.high - s.low > least)) s.high = s.low + std::max(1.0, std::abs(s.low));
}

namespace {
void takeSheet(ItemShape& s, field::Sheet&& sheet) {
    s.places = std::move(sheet.places);
    s.corners = std::move(sheet.ofPolygon);
    s.start = std::move(sheet.start);
}

std::vector<Vec3> rakeOf(const FlowItem& item) {
    const Vec3 way = item.to - item.from;
    switch (item.rake) {
        case FlowItem::Rake::Ring:
            return field::rakeRing(item.from, item.normal, way.norm(), item.count);
        case FlowItem::Rake::Lattice: {
            // In the plane of the normal, along its two sides that are most level and most upright.
            const Vec3 n = item.normal.normalized();
            const Vec3 up = std::abs(n.z()) < 0.9 ? Vec3(Vec3::UnitZ() - n.z() * n).normalized() : Vec3::UnitY().eval();
            const Vec3 level = up.cross(n).normalized();
            const int side = std::max(1, static_cast<int>(std::lround(std::sqrt(item.count))));
            return field::rakeGrid(item.from, way.dot(level) * level, way.dot(up) * up, side);
        }
        case FlowItem::Rake::Line:
            break;
    }
    return field::rakeLine(item.from, item.to, item.count);
}

void makeLines(const FlowItem& item, const field::FlowField& flow, const std::function<bool()>& wanted, ItemShape& s) {
    const auto& values = flow.atPoints(item.quantity);
    take(titleOf(flow, item.quantity), s);
    s.areLines = true;
    if (!(item.normal.norm() > 0.0))
        throw base::InputError("has a normal of no length.", "the rake", "Give three numbers that are not all zero.");
    const auto lines = field::streamlines(flow, rakeOf(item), {}, wanted);
    int missing = 0;
    for (const auto& line : lines) {
        missing += line.places.empty();
        if (line.places.empty()) continue;
        s.addPiece(line.places);
        for (const auto& spot : line.spots) s.values.push_back(field::valueAt(flow.mesh(), spot, values));
    }
    if (missing > 0)
        s.trouble =
            fmt::format("{} of {} places of the rake are in the model or outside the tunnel.", missing, lines.size());
}

/// Arrows along the velocity in a plane, around the model and behind it.
void makeArrows(const FlowItem& item, const field::FlowField& flow, ItemShape& s) {
    const auto& values = flow.atPoints(item.quantity);
    const auto& velocity = flow.velocityAtPoints();
    take(titleOf(flow, item.quantity), s);
    s.areLines = true;
    if (!(item.normal.norm() > 0.0))
        throw base::InputError("has a normal of no length.", "the plane", "Give three numbers that are not all zero.");
    const Vec3 n = item.normal.normalized();
    Box region = wallsOf(flow);
    const Vec3 size = region.size();
    const double apart = size.maxCoeff() / item.count;
    region.add(Vec3(region.low - 0.35 * size));
    region.add(Vec3(region.high + 0.35 * size + Vec3(0.6 * size.x(), 0.0, 0.0)));
    const Vec3 u = std::abs(n.x()) < 0.9 ? Vec3(Vec3::UnitX() - n.x() * n).normalized() : Vec3::UnitY().eval(),
               v = n.cross(u);
    const Vec3 middle = region.centre() + (item.through - region.centre()).dot(n) * n;
    const double reach = 0.5 * region.size().norm();
    const int most = std::min(500, static_cast<int>(reach / apart));
    field::Locator locate(flow.mesh());
    for (int i = -most; i <= most; ++i)
        for (int j = -most; j <= most; ++j) {
            const Vec3 x = middle + apart * (i * u + j * v);
            if (!region.contains(x)) continue;
            const auto spot = locate.find(x);
            if (!spot) continue;
            Vec3 way = field::valueAt(flow.mesh(), *spot, velocity) / flow.wind().speed;
            way -= way.dot(n) * n;
            addArrow(x, 0.9 * apart * way, n, s);
            s.values.insert(s.values.end(), 5, field::valueAt(flow.mesh(), *spot, values));
        }
    if (s.pieces() == 0) s.trouble = "The plane passes the model too far away for arrows.";
}

/// The grid along a plane: the sides of the polygons in which it cuts the cells.
void makeCells(const FlowItem& item, const field::FlowField& flow, ItemShape& s) {
    auto sheet = field::slice(flow.mesh(), item.through, item.normal);
    s.areLines = true;
    if (sheet.polygons() == 0) s.trouble = "The plane misses the tunnel.";
    s.places = std::move(sheet.places);
    for (std::size_t p = 0; p < sheet.polygons(); ++p) {
        for (auto k = sheet.start[p]; k < sheet.start[p + 1]; ++k)
            s.corners.push_back(sheet.ofPolygon[static_cast<std::size_t>(k)]);
        s.corners.push_back(sheet.ofPolygon[static_cast<std::size_t>(sheet.start[p])]);
        s.start.push_back(static_cast<std::int32_t>(s.corners.size()));
    }
}

/// The tunnel's edges.
void makeTunnel(const field::FlowField& flow, ItemShape& s) {
    Box sides;
    for (const Vec3& x : flow.mesh().grid().points) sides.add(x);
    s.areLines = true;
    const auto corner = [&](int k) {
        return Vec3(k & 1 ? sides.high.x() : sides.low.x(), k & 2 ? sides.high.y() : sides.low.y(),
                    k & 4 ? sides.high.z() : sides.low.z());
    };
    for (int k = 0; k < 8; ++k)
        for (const int along : {1, 2, 4})
            if (!(k & along)) s.addPiece({corner(k), corner(k | along)});
}

void makeProbe(const FlowItem& item, const field::FlowField& flow, ItemShape& s) {
    const auto title = titleOf(flow, item.quantity);
    const auto& values = flow.atPoints(item.quantity);
    const auto spot = field::Locator(flow.mesh()).find(item.through);
    if (!spot) throw base::InputError("lies in the model or outside the tunnel.", "the probe", "Move it into the air.");
    s.areLines = true;
    const double arm = 0.02 * wallsOf(flow).size().maxCoeff();
    for (int k = 0; k < 3; ++k) {
        const Vec3 e = arm * Vec3::Unit(k);
        s.addPiece({Vec3(item.through - e), Vec3(item.through + e)});
    }
    s.words.emplace_back(item.through,
                         fmt::format("{} = {:.4g}", title.text, field::valueAt(flow.mesh(), *spot, values)));
}

void makeSlice(const FlowItem& item, const field::FlowField& flow, ItemShape& s) {
    auto sheet = field::slice(flow.mesh(), item.through, item.normal);
    s.isFlat = true;
    take(titleOf(flow, item.quantity), s);
    if (sheet.polygons() == 0) s.trouble = "The plane misses the tunnel.";
    if (!item.byCell) {
        s.values = field::atCorners(flow.mesh(), sheet, flow.atPoints(item.quantity));
        takeSheet(s, std::move(sheet));
        return;
    }
    const auto& cells = flow.inCells(item.quantity);
    for (std::size_t p = 0; p < sheet.polygons(); ++p) {
        std::vector<Vec3> places;
        for (auto k = sheet.start[p]; k < sheet.start[p + 1]; ++k)
            places.push_back(sheet.places[static_cast<std::size_t>(sheet.ofPolygon[static_cast<std::size_t>(k)])]);
        s.values.insert(s.values.end(), places.size(), cells[static_cast<std::size_t>(sheet.cell[p])]);
        s.addPiece(places);
    }
}

void makeSurface(const FlowItem& item, const field::FlowField& flow, ItemShape& s) {
    const auto& of = flow.atPoints(item.quantity);
    auto sheet = field::isoSurface(flow.mesh(), of, item.value);
    if (!item.colour.empty()) {
        take(titleOf(flow, item.colour), s);
        s.values = field::atCorners(flow.mesh(), sheet, flow.atPoints(item.colour));
    }
    if (sheet.polygons() == 0 && !of.empty()) {
        const auto [low, high] = std::minmax_element(of.begin(), of.end());
        s.trouble = fmt::format("Nowhere is {} = {:.4g}: it lies between {:.4g} and {:.4g}.", item.quantity, item.value,
                                *low, *high);
    }
    takeSheet(s, std::move(sheet));
}

/// Pieces of the lines on which polygons have the values between the colours' steps.
void addContours(ItemShape& s) {
    if (s.areLines || s.values.empty()) return;
    const int count = s.steps > 0 ? s.steps : 12;
    const auto between = [&](std::int32_t a, std::int32_t b, double level, std::vector<Vec3>& out) {
        const auto i = static_cast<std::size_t>(a), j = static_cast<std::size_t>(b);
        if ((s.values[i] < level) == (s.values[j] < level)) return;
        const double t = (level - s.values[i]) / (s.values[j] - s.values[i]);
        out.push_back(s.places[i] + t * (s.places[j] - s.places[i]));
    };
    for (std::size_t k = 0; k < s.pieces(); ++k)
        for (auto c = s.start[k] + 1; c + 1 < s.start[k + 1]; ++c) {
            const std::int32_t corner[3] = {s.corners[static_cast<std::size_t>(s.start[k])],
                                            s.corners[static_cast<std::size_t>(c)],
                                            s.corners[static_cast<std::size_t>(c + 1)]};
            for (int level = 1; level < count; ++level) {
                std::vector<Vec3> ends;
                for (int e = 0; e < 3; ++e)
                    between(corner[e], corner[(e + 1) % 3], s.low + (s.high - s.low) * level / count, ends);
                if (ends.size() == 2) s.contours.push_back({ends[0], ends[1]});
            }
        }
}
}  // namespace

void ItemShape::addPiece(const std::vector<Vec3>& of) {
    for (const Vec3& x : of) {
        corners.push_back(static_cast<std::int32_t>(places.size()));
        places.push_back(x);
    }
    start.push_back(static_cast<std::int32_t>(corners.size()));
}

ItemShape shapeOf(const FlowItem& item, const field::FlowField& flow, const std::function<bool()>& wanted) {
    ItemShape s;
    try {
        switch (item.kind) {
            case FlowItem::Kind::Wall:
                makeWall(item, flow, s);
                break;
            case FlowItem::Kind::Slice:
                makeSlice(item, flow, s);
                break;
            case FlowItem::Kind::Surface:
                makeSurface(item, flow, s);
                break;
            case FlowItem::Kind::Lines:
                makeLines(item, flow, wanted, s);
                break;
            case FlowItem::Kind::WallLines:
                makeWallLines(item, flow, wanted, s);
                break;
            case FlowItem::Kind::Arrows:
                makeArrows(item, flow, s);
                break;
            case FlowItem::Kind::Cells:
                makeCells(item, flow, s);
                break;
            case FlowItem::Kind::Probe:
                makeProbe(item, flow, s);
                break;
            case FlowItem::Kind::WallArrows:
                makeWallArrows(item, flow, s);
                break;
            case FlowItem::Kind::Tunnel:
                makeTunnel(flow, s);
                break;
        }
        chooseRange(item, s);
        s.steps = item.steps;
        s.opacity = item.opacity;
        if (item.contours) addContours(s);
        s.coarse = coarseOf(s);
    } catch (const base::InputError& e) {
        s = ItemShape{};
        s.trouble = e.what();
    }
    return s;
}

std::vector<FlowItem> firstItems(const field::FlowField& flow) {
    const Box b = wallsOf(flow);
    const Vec3 size = b.size(), middle = b.centre();
    FlowItem wall, slice, lines;
    wall.name = "walls";
    wall.kind = FlowItem::Kind::Wall;
    wall.quantity = "wall_Cp";
    wall.low = -1.0;
    wall.high = 1.0;
    slice.name = "slice";
    slice.quantity = "loss";
    slice.low = 0.0;
    slice.high = 1.0;
    // A little aside, so that it does not run along cells' sides.
    slice.through = Vec3(middle.x(), b.low.y() + 0.5137 * size.y(), middle.z());
    lines.name = "lines";
    lines.kind = FlowItem::Kind::Lines;
    lines.quantity = "speed";
    lines.from = Vec3(b.low.x() - 0.2 * size.x(), b.low.y() + 0.03 * size.y(), middle.z());
    lines.to = Vec3(lines.from.x(), b.high.y() + 0.1 * size.y(), middle.z());
    return {wall, slice, lines};
}

}  // namespace cvane::view
