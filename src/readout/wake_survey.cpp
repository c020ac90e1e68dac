#include "readout/wake_survey.h"

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "field/sheet.h"

namespace cvane::readout {
namespace {
constexpr double kTimesMedian = 5.0;  ///< a loss of so many times the plane's median is a loss

struct Part {
    double profile = 0.0, induced = 0.0;  ///< [N/m2]
};
/// What the plane cuts out of one cell.
struct Piece {
    double y, area;  ///< of its middle [m]; [m2]
    double loss;     ///< of total pressure, over q
    Part part;
};

/// The size of loss that half of the plane's area does not exceed.
double medianLoss(std::vector<Piece> pieces) {
    std::sort(pieces.begin(), pieces.end(),
              [](const Piece& a, const Piece& b) { return std::abs(a.loss) < std::abs(b.loss); });
    double whole = 0.0, soFar = 0.0;
    for (const auto& piece : pieces) whole += piece.area;
    for (const auto& piece : pieces) {
        soFar += piece.area;
        if (soFar > 0.5 * whole) return std::abs(piece.loss);
    }
    return 0.0;
}
}  // namespace

WakeSurvey surveyWake(const field::FlowField& flow, double behind, int strips) {
    Box walls;
    const auto& g = flow.mesh().grid();
    for (const auto f : flow.wall().face)
        for (const auto p : g.polygon(f)) walls.add(g.points[static_cast<std::size_t>(p)]);
    if (walls.empty())
        throw base::InputError("nothing is known of the model's walls.", "the survey", "Run the point again.");
    const Vec3 D = flow.wind().dragAxis();
    const Vec3 through(behind, walls.centre().y(), walls.centre().z());
    double last = -1e300;
    for (const auto f : flow.wall().face)
        for (const auto p : g.polygon(f)) last = std::max(last, g.points[static_cast<std::size_t>(p)].dot(D));
    if (through.dot(D) <= last)
        throw base::InputError("lies in the model or ahead of it.", "the survey's plane",
                               "Give a place behind the model.");
    const auto sheet = field::slice(flow.mesh(), through, D);
    if (sheet.polygons() == 0)
        throw base::InputError("misses the tunnel.", "the survey's plane", "Give a place within it.");
    const auto atCorners = field::atCorners(flow.mesh(), sheet, flow.velocityAtPoints());
    const auto lossAtCorners = field::atCorners(flow.mesh(), sheet, flow.atPoints("loss"));
    const auto& gradient = flow.velocityGradient();
    const auto& lossInCells = flow.inCells("loss");
    const double V = flow.wind().speed, rho = flow.wind().air.density;
    const auto parted = [&](const Vec3& velocity, double loss) -> Part {
        const double u = velocity.dot(D), across = (velocity - u * D).squaredNorm();
        const double H = 0.5 * rho * V * V * loss;
        const double full = std::sqrt(std::max(0.0, u * u + V * V * loss));
        return {H + 0.5 * rho * (full - u) * (full + u - 2.0 * V), 0.5 * rho * (across - (full - V) * (full - V))};
    };
    std::vector<Piece> pieces;
    for (std::size_t p = 0; p < sheet.polygons(); ++p) {
        Vec3 middle = Vec3::Zero(), area = Vec3::Zero();
        Part corners;
        const double n = sheet.start[p + 1] - sheet.start[p];
        const auto corner = [&](std::int32_t k) {
            return static_cast<std::size_t>(sheet.ofPolygon[static_cast<std::size_t>(k)]);
        };
        const Vec3& first = sheet.places[corner(sheet.start[p])];
        for (auto k = sheet.start[p]; k < sheet.start[p + 1]; ++k) {
            const auto c = corner(k);
            const Part here = parted(atCorners[c], lossAtCorners[c]);
            corners.profile += here.profile / n;
            corners.induced += here.induced / n;
            middle += sheet.places[c] / n;
            if (k > sheet.start[p] && k + 1 < sheet.start[p + 1])
                area += 0.5 * (sheet.places[c] - first).cross(sheet.places[corner(k + 1)] - first);
        }
        // Of the motion across, a third of the corners' mean and two thirds of the middle: exact for squares over a
        // rectangle. It falls off about a vortex within few cells, of which corners alone see too much and middles too
        // little.
        const auto cell = static_cast<std::size_t>(sheet.cell[p]);
        const Part inside =
            parted(flow.velocity()[cell] + gradient[cell] * (middle - flow.mesh().geometry().cellCentre[cell]),
                   lossInCells[cell]);
        pieces.push_back({middle.y(),
                          area.norm(),
                          lossInCells[cell],
                          {corners.profile, (corners.induced + 2.0 * inside.induced) / 3.0}});
    }
    // Over most of the plane nothing was lost, and what the cells' own error leaves there would outweigh the wake by
    // its area. What is no more than that error does not count.
    const double error = kTimesMedian * medianLoss(pieces);
    WakeSurvey out;
    const double margin = 0.5 * walls.size().y(), low = walls.low.y() - margin,
                 width = (walls.size().y() + 2.0 * margin) / std::max(1, strips);
    for (int k = 0; k < strips; ++k) out.strips.push_back({low + width * k, low + width * (k + 1), 0.0, 0.0});
    // Polygons are small beside a strip: each counts where its middle is.
    for (const auto& piece : pieces) {
        const double P = std::abs(piece.loss) > error ? piece.area * piece.part.profile : 0.0,
                     I = piece.area * piece.part.induced;
        out.profile += P;
        out.induced += I;
        const auto at = static_cast<std::ptrdiff_t>(std::floor((piece.y - low) / width));
        if (at < 0 || at >= static_cast<std::ptrdiff_t>(out.strips.size())) continue;
        out.strips[static_cast<std::size_t>(at)].profile += P;
        out.strips[static_cast<std::size_t>(at)].induced += I;
    }
    return out;
}

}  // namespace cvane::readout
