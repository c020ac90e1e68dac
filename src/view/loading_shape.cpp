#include "view/loading_shape.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace cvane::view {
namespace {
constexpr double kSheet = 0.3;      // opacity of the load
constexpr double kHighest = 0.25;   // the highest load is drawn so long [spans]
constexpr double kWake = 0.75;      // length of the wakes' lines [spans]
constexpr double kOfPanels = 0.97;  // so many panels' pressures lie within the colours

Vec3 mirrored(const Vec3& v) {
    return {v.x(), -v.y(), v.z()};
}

// The lift of a strip per span over dynamic pressure and reference length, across wind and strip: what pulls a tip
// outwards along the span is none of it.
Vec3 loadingOf(const lifting::StripRow& s, const air::FreeStream& wind, const air::Reference& reference) {
    const Vec3 starboard = s.strip.port ? Vec3(-s.strip.across) : s.strip.across;
    return s.load.cl * s.strip.chord / reference.length * wind.dragAxis().cross(starboard).normalized();
}

/// A patch of the whole aircraft with its place in the outcome.
struct Found {
    const wing::Patch* patch = nullptr;  ///< of the outcome's lattice; null: it carries nothing
    bool image = false;                  ///< whose mirror image it is
};

// Of a symmetric flow the outcome has the starboard halves alone: patches follow each other from root to tip in both.
std::vector<Found> foundIn(const wing::Lattice& whole, const wing::Lattice& solved) {
    const auto numbers = [](const wing::Lattice& l) {
        std::vector<std::size_t> out;
        for (std::size_t k = 0; k < l.patches.size(); ++k)
            out.push_back(k > 0 && l.patches[k].surface == l.patches[k - 1].surface &&
                                  l.patches[k].port == l.patches[k - 1].port
                              ? out.back() + 1
                              : 0);
        return out;
    };
    const auto wholeNumbers = numbers(whole), solvedNumbers = numbers(solved);
    std::vector<Found> out(whole.patches.size());
    for (std::size_t k = 0; k < whole.patches.size(); ++k)
        for (std::size_t s = 0; s < solved.patches.size(); ++s) {
            const auto &a = whole.patches[k], &b = solved.patches[s];
            if (a.surface != b.surface || wholeNumbers[k] != solvedNumbers[s]) continue;
            if (a.port == b.port) out[k] = {&b, false};
            if (a.port && !b.port && !out[k].patch) out[k] = {&b, true};
        }
    return out;
}
/// The load of a strip, upright on its quarter point.
struct Stroke {
    double along = 0.0;                            ///< place along the surface [m]
    Vec3 foot = Vec3::Zero(), tip = Vec3::Zero();  ///< [m]
    Vec3 outboard = Vec3::Zero();                  ///< from there to the strip's outer rib [m]
};

// From rib to rib: at its ends the load is that of the last strip, so that halves meet and nothing is left out.
void drawLoad(std::vector<Stroke> strokes, LoadingPicture& out) {
    if (strokes.empty()) return;
    std::sort(strokes.begin(), strokes.end(), [](const Stroke& a, const Stroke& b) { return a.along < b.along; });
    std::vector<Vec3> feet, tips;
    const auto put = [&](const Stroke& s, double aside) {
        feet.push_back(out.at(s.foot + aside * s.outboard));
        tips.push_back(out.at(s.tip + aside * s.outboard));
    };
    put(strokes.front(), -1.0);
    for (const Stroke& s : strokes) put(s, 0.0);
    put(strokes.back(), 1.0);
    for (std::size_t j = 1; j < tips.size(); ++j) out.loading.addPiece({feet[j - 1], feet[j], tips[j], tips[j - 1]});
    tips.push_back(feet.back());
    out.edge.addPiece(tips);
}
}  // namespace

LoadingScale loadingScaleOf(const lifting::Outcome& outcome) {
    double highest = 0.0;
    std::vector<double> pressures;
    for (const auto& r : outcome.rows) {
        for (const auto& s : r.strips) highest = std::max(highest, loadingOf(s, r.wind, outcome.reference).norm());
        for (const double p : r.deltaCp) pressures.push_back(std::abs(p));
    }
    LoadingScale out;
    if (highest > 0.0) out.length = kHighest * outcome.reference.span / highest;
    if (!pressures.empty()) {
        const auto at = static_cast<std::ptrdiff_t>(kOfPanels * static_cast<double>(pressures.size() - 1));
        std::nth_element(pressures.begin(), pressures.begin() + at, pressures.end());
        if (pressures[static_cast<std::size_t>(at)] > 0.0) out.deltaCp = pressures[static_cast<std::size_t>(at)];
    }
    return out;
}

LoadingPicture loadingPicture(const wing::Aircraft& aircraft, const lifting::Asked& asked,
                              const lifting::Outcome& outcome, std::size_t number, const LoadingScale& scale) {
    LoadingPicture out;
    const auto& row = outcome.rows.at(number);
    out.centre = outcome.reference.momentCentre;
    out.turn.row(0) = row.wind.dragAxis();
    out.turn.row(1) = row.wind.sideAxis();
    out.turn.row(2) = row.wind.liftAxis();
    const auto lattice = wing::latticeOf(lifting::turnedTo(aircraft, asked.trimBy, row.trimAngle_deg), false);
    const auto found = foundIn(lattice, outcome.lattice);
    const Vec3 wake = asked.wake == lifting::Wake::Wind ? row.wind.dragAxis() : Vec3(Vec3::UnitX());
    out.panels.isFlat = out.loading.isFlat = out.edge.areLines = out.wakes.areLines = out.stalled.areLines = true;
    out.loading.opacity = kSheet;
    out.panels.title = "Delta Cp";
    out.panels.sense = field::Sense::AboutZero;
    out.panels.low = -scale.deltaCp, out.panels.high = scale.deltaCp;
    std::map<std::pair<std::size_t, bool>, std::vector<Stroke>> strokesOf;  // by surface and half
    for (std::size_t k = 0; k < lattice.patches.size(); ++k) {
        const auto& p = lattice.patches[k];
        const auto& f = found[k];
        // Panel and strip j of this patch are those of number `as(j)` of the one that was solved.
        const auto as = [&](int j) { return f.image ? p.strips - 1 - j : j; };
        auto& strokes = strokesOf[{p.surface, p.port}];
        for (int j = 0; j < p.strips; ++j) {
            const auto corner = [&](int i, int side) { return out.at(p.node(i, j + side)); };
            for (int i = 0; i < p.rows; ++i) {
                out.panels.addPiece({corner(i, 0), corner(i, 1), corner(i + 1, 1), corner(i + 1, 0)});
                const double value = f.patch ? row.deltaCp[f.patch->panel(i, as(j))] : 0.0;
                out.panels.values.insert(out.panels.values.end(), 4, value);
            }
            if (!f.patch) continue;
            const auto& s = row.strips[f.patch->firstStrip + static_cast<std::size_t>(as(j))];
            const auto turned = [&](const Vec3& v) { return f.image ? mirrored(v) : v; };
            const Vec3 from = turned(s.strip.quarter),
                       to = from + scale.length * turned(loadingOf(s, row.wind, outcome.reference));
            strokes.push_back({s.strip.along, from, to, 0.5 * s.strip.width * turned(s.strip.across)});
            if (s.stalled)
                out.stalled.addPiece({corner(0, 0), corner(0, 1), corner(p.rows, 1), corner(p.rows, 0), corner(0, 0)});
        }
        for (int j = 0; j <= p.strips; ++j) {
            const Vec3& edge = p.node(p.rows, j);
            out.wakes.addPiece({out.at(edge), out.at(edge + kWake * outcome.reference.span * wake)});
        }
    }
    // Wakes that follow the flow are drawn where they go.
    if (!row.wakes.empty()) {
        out.wakes = {};
        out.wakes.areLines = true;
        const bool halves = lattice.panels != outcome.lattice.panels;
        for (const auto& way : row.wakes)
            for (const bool image : {false, true}) {
                if (image && !halves) continue;
                std::vector<Vec3> places;
                for (const Vec3& x : way) places.push_back(out.at(image ? mirrored(x) : x));
                out.wakes.addPiece(places);
            }
    }
    for (auto& [half, strokes] : strokesOf) drawLoad(std::move(strokes), out);
    return out;
}

}  // namespace cvane::view
