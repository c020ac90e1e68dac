#include "readout/wake_survey.h"

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "field/sheet.h"

namespace cvane::readout {

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
    const auto velocity = field::atCorners(flow.mesh(), sheet, flow.velocityAtPoints());
    const auto loss = field::atCorners(flow.mesh(), sheet, flow.atPoints("loss"));
    const double V = flow.wind().speed, rho = flow.wind().air.density;
    std::vector<double> profile(loss.size()), induced(loss.size());
    for (std::size_t i = 0; i < loss.size(); ++i) {
        const double u = velocity[i].dot(D), across = (velocity[i] - u * D).squaredNorm();
        const double H = 0.5 * rho * V * V * loss[i];
        const double full = std::sqrt(std::max(0.0, u * u + V * V * loss[i]));
        profile[i] = H + 0.5 * rho * (full - u) * (full + u - 2.0 * V);
        induced[i] = 0.5 * rho * (across - (full - V) * (full - V));
    }
    WakeSurvey out;
    out.profile = field::integralOver(sheet, profile);
    out.induced = field::integralOver(sheet, induced);
    const double margin = 0.5 * walls.size().y(), low = walls.low.y() - margin,
                 width = (walls.size().y() + 2.0 * margin) / std::max(1, strips);
    for (int k = 0; k < strips; ++k) out.strips.push_back({low + width * k, low + width * (k + 1), 0.0, 0.0});
    // Polygons are small beside a strip: each counts where its middle is.
    for (std::size_t p = 0; p < sheet.polygons(); ++p) {
        Vec3 middle = Vec3::Zero(), area = Vec3::Zero();
        double P = 0.0, I = 0.0;
        const double n = sheet.start[p + 1] - sheet.start[p];
        const auto place = [&](std::int32_t k) -> const Vec3& {
            return sheet.places[static_cast<std::size_t>(sheet.ofPolygon[static_cast<std::size_t>(k)])];
        };
        for (auto k = sheet.start[p]; k < sheet.start[p + 1]; ++k) {
            const auto c = static_cast<std::size_t>(sheet.ofPolygon[static_cast<std::size_t>(k)]);
            middle += sheet.places[c] / n;
            P += profile[c] / n;
            I += induced[c] / n;
            if (k > sheet.start[p] && k + 1 < sheet.start[p + 1])
                area += 0.5 * (place(k) - place(sheet.start[p])).cross(place(k + 1) - place(sheet.start[p]));
        }
        const auto at = static_cast<std::ptrdiff_t>(std::floor((middle.y() - low) / width));
        if (at < 0 || at >= static_cast<std::ptrdiff_t>(out.strips.size())) continue;
        out.strips[static_cast<std::size_t>(at)].profile += area.norm() * P;
        out.strips[static_cast<std::size_t>(at)].induced += area.norm() * I;
    }
    return out;
}

}  // namespace cvane::readout
