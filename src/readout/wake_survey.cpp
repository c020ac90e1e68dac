#include "readout/wake_survey.h"

#include <algorithm>
#include <cmath>

#include "base/errors.h"

namespace cvane::readout {
namespace {
using grid::FaceIndex;
constexpr double kTimesMedian = 5.0;    ///< a loss of so many times the plane's median is a loss
constexpr double kLeastAlong = 0.7071;  ///< of the wind, along x

/// A face between the cells ahead of the plane and those behind it.
struct Piece {
    double y, z, area;        ///< of its middle [m]; across the wind [m2]
    double loss;              ///< of total pressure, over q
    double profile, induced;  ///< [N]
};

/// The size of loss that half of the plane's area does not exceed.
double medianLoss(std::vector<Piece> pieces) {
    std::sort(pieces.begin(), pieces.end(),
              [](const Piece& a, const Piece& b) { return std::abs(a.loss) < std::abs(b.loss); });
    double whole = 0.0, soFar = 0.0;
    for (const auto& piece : pieces) whole += std::abs(piece.area);
    for (const auto& piece : pieces) {
        soFar += std::abs(piece.area);
        if (soFar > 0.5 * whole) return std::abs(piece.loss);
    }
    return 0.0;
}

// The plane is taken along the cells' faces, with what the flow solution carries through them: velocity from the
// cell upwind, pressure from both sides. A plane through the cells would read values that lie between, and a thin
// wake is where they change most from one cell to the next.
std::vector<Piece> piecesAt(const field::FlowField& flow, double behind) {
    const auto& g = flow.mesh().grid();
    const auto& geometry = flow.mesh().geometry();
    const auto& U = flow.velocity();
    const auto& gradU = flow.velocityGradient();
    const auto& p = flow.pressure();
    const auto gradP = flow.mesh().gradient(p);
    const Vec3 D = flow.wind().dragAxis();
    const double V = flow.wind().speed, rho = flow.wind().air.density;
    std::vector<Piece> pieces;
    for (FaceIndex f = 0; f < g.internalFaces(); ++f) {
        const auto i = static_cast<std::size_t>(f);
        const auto P = static_cast<std::size_t>(g.owner[i]), N = static_cast<std::size_t>(g.neighbour[i]);
        const bool ahead = geometry.cellCentre[P].x() < behind;
        if (ahead == (geometry.cellCentre[N].x() < behind) || !(geometry.faceArea[i].squaredNorm() > 0.0)) continue;
        const Vec3 S = ahead ? geometry.faceArea[i] : Vec3(-geometry.faceArea[i]);
        const Vec3 &x = geometry.faceCentre[i], fromP = x - geometry.cellCentre[P], fromN = x - geometry.cellCentre[N];
        const double w = std::abs(fromN.dot(S)) / (std::abs(fromN.dot(S)) + std::abs(fromP.dot(S)));
        const Vec3 atP = U[P] + gradU[P] * fromP, atN = U[N] + gradU[N] * fromN, mean = w * atP + (1.0 - w) * atN;
        const double flux = mean.dot(S),
                     pressure = w * (p[P] + gradP[P].dot(fromP)) + (1.0 - w) * (p[N] + gradP[N].dot(fromN));
        const Vec3 carried = (flux > 0.0) == ahead ? atP : atN;
        const double u = carried.dot(D), A = S.dot(D);
        const Vec3 across = carried - u * D;
        const double loss = 1.0 - (2.0 * pressure + carried.squaredNorm()) / (V * V);
        const double full = std::sqrt(std::max(0.0, u * u + V * V * loss));
        const double total = rho * ((V - u) * flux - pressure * A);
        const double induced = 0.5 * rho * A * (across.squaredNorm() - (full - V) * (full - V));
        pieces.push_back({x.y(), x.z(), A, loss, total - induced, induced});
    }
    return pieces;
}
}  // namespace

WakeSurvey surveyWake(const field::FlowField& flow, double behind, int strips) {
    Box walls;
    const auto& g = flow.mesh().grid();
    for (const auto f : flow.wall().face)
        for (const auto p : g.polygon(f)) walls.add(g.points[static_cast<std::size_t>(p)]);
    if (walls.empty())
        throw base::InputError("nothing is known of the model's walls.", "the survey", "Run the point again.");
    // Across the wind is then no longer across the cells.
    if (flow.wind().dragAxis().x() < kLeastAlong)
        throw base::InputError("needs a wind within 45 degrees of the x axis.", "the survey",
                               "Choose another point of the schedule.");
    if (behind <= walls.high.x())
        throw base::InputError("lies in the model or ahead of it.", "the survey's plane",
                               "Give a place behind the model.");
    const auto pieces = piecesAt(flow, behind);
    if (pieces.empty()) throw base::InputError("misses the tunnel.", "the survey's plane", "Give a place within it.");
    // Over most of the plane nothing was lost, and what the cells' own error leaves there would outweigh the wake by
    // its area. What is no more than that error does not count, nor what is far from the model.
    const double error = kTimesMedian * medianLoss(pieces);
    WakeSurvey out;
    const double margin = 0.5 * std::max(walls.size().y(), walls.size().z()), low = walls.low.y() - margin,
                 width = (walls.size().y() + 2.0 * margin) / std::max(1, strips);
    for (int k = 0; k < strips; ++k) out.strips.push_back({low + width * k, low + width * (k + 1), 0.0, 0.0});
    // Faces are small beside a strip: each counts where its middle is.
    for (const auto& piece : pieces) {
        const bool near = std::abs(piece.y - walls.centre().y()) < 0.5 * walls.size().y() + margin &&
                          std::abs(piece.z - walls.centre().z()) < 0.5 * walls.size().z() + margin;
        const double P = near && std::abs(piece.loss) > error ? piece.profile : 0.0, I = piece.induced;
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
