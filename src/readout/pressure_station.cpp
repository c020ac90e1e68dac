#include "readout/pressure_station.h"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

#include "base/errors.h"

namespace cvane::readout {

std::vector<double> toPoints(const grid::Grid& g, const grid::Geometry& geo, const std::vector<grid::FaceIndex>& faces,
                             const std::vector<double>& values) {
    std::vector<double> sum(g.points.size(), 0.0), weight(g.points.size(), 0.0);
    for (std::size_t i = 0; i < faces.size(); ++i) {
        const double a = geo.faceArea[static_cast<std::size_t>(faces[i])].norm();
        for (const auto p : g.polygon(faces[i])) {
            sum[static_cast<std::size_t>(p)] += a * values[i];
            weight[static_cast<std::size_t>(p)] += a;
        }
    }
    for (std::size_t p = 0; p < sum.size(); ++p)
        if (weight[p] > 0.0) sum[p] /= weight[p];
    return sum;
}

PressureStation cutStation(const grid::Grid& g, const grid::Geometry& geo, const WallField& field, int axis,
                           double position) {
    for (const auto f : field.face)
        if (f < g.internalFaces() || static_cast<std::size_t>(f) >= geo.faceArea.size())
            throw base::InputError(
                fmt::format("the field on the wall has a face {} that the grid does not have there.", f), "",
                "Run the point again.");
    PressureStation out;
    const auto Cp = toPoints(g, geo, field.face, field.Cp);
    std::vector<double> size;
    for (const Vec3& c : field.Cf) size.push_back(c.norm());
    const auto Cf = toPoints(g, geo, field.face, size);
    const int alongAxis = axis == 0 ? 2 : 0, upAxis = axis == 2 ? 1 : axis == 0 ? 1 : 2;
    const auto partOf = [&](grid::FaceIndex f) -> std::string {
        for (const auto& p : g.patches)
            if (f >= p.first && f < p.first + p.count) return p.name;
        return {};
    };
    Box extent;
    for (std::size_t i = 0; i < field.face.size(); ++i) {
        const auto f = field.face[i];
        const auto poly = g.polygon(f);
        for (std::size_t k = 0; k < poly.size(); ++k) {
            const auto a = static_cast<std::size_t>(poly[k]), b = static_cast<std::size_t>(poly[(k + 1) % poly.size()]);
            const double ha = g.points[a][axis] - position, hb = g.points[b][axis] - position;
            // An edge belongs to two faces; the one that sees it rise takes the sample, so that each comes once.
            if (!(ha < 0.0 && hb >= 0.0)) continue;
            const double t = ha / (ha - hb);
            PressureStation::Sample s;
            s.place = g.points[a] + t * (g.points[b] - g.points[a]);
            s.Cp = Cp[a] + t * (Cp[b] - Cp[a]);
            s.Cf = Cf[a] + t * (Cf[b] - Cf[a]);
            s.upper = geo.faceArea[static_cast<std::size_t>(f)][upAxis] < 0.0;  // S points into the model
            s.part = partOf(f);
            s.fraction = 0.0;
            extent.add(s.place);
            out.samples.push_back(s);
        }
    }
    if (out.samples.empty()) return out;
    out.chord = extent.size()[alongAxis];
    for (auto& s : out.samples)
        s.fraction = out.chord > 0.0 ? (s.place[alongAxis] - extent.low[alongAxis]) / out.chord : 0.0;
    std::sort(out.samples.begin(), out.samples.end(),
              [](const auto& a, const auto& b) { return a.upper != b.upper ? !a.upper : a.fraction < b.fraction; });
    return out;
}

std::string toCsv(const PressureStation& s) {
    std::string text = "x_m,y_m,z_m,x_c,Cp,Cf,side,part\n";
    for (const auto& p : s.samples)
        fmt::format_to(std::back_inserter(text), "{:.6g},{:.6g},{:.6g},{:.5f},{:.5f},{:.6f},{},{}\n", p.place.x(),
                       p.place.y(), p.place.z(), p.fraction, p.Cp, p.Cf, p.upper ? "upper" : "lower", p.part);
    return text;
}

}  // namespace cvane::readout
