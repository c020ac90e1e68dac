#include "view/item_shape.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "field/sheet.h"
#include "field/streamline.h"
#include "readout/pressure_station.h"

namespace cvane::view {
using campaign::FlowItem;

namespace {
struct Title {
    std::string text;
    field::Sense sense = field::Sense::Level;
};

Title titleOf(const field::FlowField& flow, const std::string& id) {
    for (const auto& q : flow.quantities())
        if (q.id == id) return {q.unit.empty() ? q.label : fmt::format("{} [{}]", q.label, q.unit), q.sense};
    return {id, field::Sense::AboutZero};  // a formula may have any sign
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
    if (!(s.high > s.low)) s.high = s.low + 1.0;
}

void takeSheet(ItemShape& s, field::Sheet&& sheet) {
    s.places = std::move(sheet.places);
    s.corners = std::move(sheet.ofPolygon);
    s.start = std::move(sheet.start);
}

// Values that only walls have, at the points of their faces by means over these.
std::vector<double> wallValues(const field::FlowField& flow, const std::string& id) {
    const auto& wall = flow.wall();
    std::vector<double> of(wall.face.size());
    const Vec3 drag = flow.wind().dragAxis(), lift = flow.wind().liftAxis();
    for (std::size_t i = 0; i < of.size(); ++i) {
        // Per area: what a square metre of wall adds to the force, over q.
        const auto& S = flow.mesh().geometry().faceArea[static_cast<std::size_t>(wall.face[i])];
        const Vec3 push = wall.Cp[i] * S.normalized() + wall.Cf[i];
        of[i] = id == "wall_Cp"       ? wall.Cp[i]
                : id == "wall_Cf"     ? wall.Cf[i].norm()
                : id == "wall_y_plus" ? wall.yPlus[i]
                : id == "wall_drag"   ? push.dot(drag)
                                      : push.dot(lift);
    }
    return readout::toPoints(flow.mesh().grid(), flow.mesh().geometry(), wall.face, of);
}

void makeWall(const FlowItem& item, const field::FlowField& flow, ItemShape& s) {
    const auto& grid = flow.mesh().grid();
    std::vector<double> own;
    const std::vector<double>* values = nullptr;
    const auto special = std::find_if(wallQuantities().begin(), wallQuantities().end(),
                                      [&](const auto& w) { return item.quantity == w.id; });
    if (special != wallQuantities().end()) {
        own = wallValues(flow, item.quantity);
        values = &own;
        s.title = special->label;
        s.sense = special->sense;
    } else if (!item.quantity.empty()) {
        values = &flow.atPoints(item.quantity);
        const auto title = titleOf(flow, item.quantity);
        s.title = title.text;
        s.sense = title.sense;
    }
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

void makeLines(const FlowItem& item, const field::FlowField& flow, const std::function<bool()>& wanted, ItemShape& s) {
    const auto& values = flow.atPoints(item.quantity);
    const auto title = titleOf(flow, item.quantity);
    s.title = title.text;
    s.sense = title.sense;
    s.areLines = true;
    const auto lines = field::streamlines(flow, field::rakeLine(item.from, item.to, item.count), {}, wanted);
    int missing = 0;
    for (const auto& line : lines) {
        missing += line.places.empty();
        for (std::size_t k = 0; k < line.places.size(); ++k) {
            s.corners.push_back(static_cast<std::int32_t>(s.places.size()));
            s.places.push_back(line.places[k]);
            s.values.push_back(field::valueAt(flow.mesh(), line.spots[k], values));
        }
        if (!line.places.empty()) s.start.push_back(static_cast<std::int32_t>(s.corners.size()));
    }
    if (missing > 0)
        s.trouble =
            fmt::format("{} of {} places of the rake are in the model or outside the tunnel.", missing, lines.size());
}
}  // namespace

ItemShape shapeOf(const FlowItem& item, const field::FlowField& flow, const std::function<bool()>& wanted) {
    ItemShape s;
    try {
        switch (item.kind) {
            case FlowItem::Kind::Wall:
                makeWall(item, flow, s);
                break;
            case FlowItem::Kind::Slice: {
                auto sheet = field::slice(flow.mesh(), item.through, item.normal);
                s.isFlat = true;
                const auto title = titleOf(flow, item.quantity);
                s.title = title.text;
                s.sense = title.sense;
                s.values = field::atCorners(flow.mesh(), sheet, flow.atPoints(item.quantity));
                if (sheet.polygons() == 0) s.trouble = "The plane misses the tunnel.";
                takeSheet(s, std::move(sheet));
                break;
            }
            case FlowItem::Kind::Surface: {
                const auto& of = flow.atPoints(item.quantity);
                auto sheet = field::isoSurface(flow.mesh(), of, item.value);
                if (!item.colour.empty()) {
                    const auto title = titleOf(flow, item.colour);
                    s.title = title.text;
                    s.sense = title.sense;
                    s.values = field::atCorners(flow.mesh(), sheet, flow.atPoints(item.colour));
                }
                if (sheet.polygons() == 0 && !of.empty()) {
                    const auto [low, high] = std::minmax_element(of.begin(), of.end());
                    s.trouble = fmt::format("Nowhere is {} = {:.4g}: it lies between {:.4g} and {:.4g}.", item.quantity,
                                            item.value, *low, *high);
                }
                takeSheet(s, std::move(sheet));
                break;
            }
            case FlowItem::Kind::Lines:
                makeLines(item, flow, wanted, s);
                break;
        }
        chooseRange(item, s);
    } catch (const base::InputError& e) {
        s = ItemShape{};
        s.trouble = e.what();
    }
    return s;
}

const std::vector<field::Quantity>& wallQuantities() {
    using enum field::Sense;
    static const std::vector<field::Quantity> all{{"wall_Cp", "pressure coefficient on the wall", "", AboutZero},
                                                  {"wall_Cf", "skin friction coefficient", "", Level},
                                                  {"wall_y_plus", "y+", "", Level},
                                                  {"wall_drag", "drag an area, over q", "", AboutZero},
                                                  {"wall_lift", "lift an area, over q", "", AboutZero}};
    return all;
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
