#include "readout/pressure_station.h"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>
#include <map>

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

namespace {
// Walks from place to place along what faces join; open pieces first, so that each is taken from an end.
std::vector<std::vector<PressureStation::Sample>> outlinesOf(const std::vector<PressureStation::Sample>& samples,
                                                             std::vector<std::vector<int>> joined) {
    std::vector<std::vector<PressureStation::Sample>> out;
    const auto walk = [&](int from) {
        std::vector<PressureStation::Sample> piece{samples[static_cast<std::size_t>(from)]};
        for (int here = from; !joined[static_cast<std::size_t>(here)].empty();) {
            const int next = joined[static_cast<std::size_t>(here)].back();
            joined[static_cast<std::size_t>(here)].pop_back();
            auto& back = joined[static_cast<std::size_t>(next)];
            back.erase(std::find(back.begin(), back.end(), here));
            piece.push_back(samples[static_cast<std::size_t>(next)]);
            here = next;
        }
        if (piece.size() > 1) out.push_back(std::move(piece));
    };
    for (const bool ends : {true, false})
        for (std::size_t i = 0; i < joined.size(); ++i)
            while (ends ? joined[i].size() % 2 == 1 : !joined[i].empty()) walk(static_cast<int>(i));
    return out;
}
}  // namespace

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
    // Where the plane meets edges of the walls' faces, and which two of these places each face joins.
    std::map<std::pair<std::int32_t, std::int32_t>, int> numberOf;
    std::vector<std::vector<int>> joined;
    for (std::size_t i = 0; i < field.face.size(); ++i) {
        const auto f = field.face[i];
        const auto poly = g.polygon(f);
        const bool upper = geo.faceArea[static_cast<std::size_t>(f)][upAxis] < 0.0;  // S points into the model
        std::vector<int> met;
        for (std::size_t k = 0; k < poly.size(); ++k) {
            const auto low = std::min(poly[k], poly[(k + 1) % poly.size()]),
                       high = std::max(poly[k], poly[(k + 1) % poly.size()]);
            const auto a = static_cast<std::size_t>(low), b = static_cast<std::size_t>(high);
            const double ha = g.points[a][axis] - position, hb = g.points[b][axis] - position;
            if ((ha < 0.0) == (hb < 0.0)) continue;
            const auto [it, isNew] = numberOf.try_emplace({low, high}, static_cast<int>(out.samples.size()));
            met.push_back(it->second);
            if (!isNew) continue;
            const double t = ha / (ha - hb);
            PressureStation::Sample s;
            s.place = g.points[a] + t * (g.points[b] - g.points[a]);
            s.Cp = Cp[a] + t * (Cp[b] - Cp[a]);
            s.Cf = Cf[a] + t * (Cf[b] - Cf[a]);
            s.upper = upper;
            s.part = partOf(f);
            s.fraction = 0.0;
            extent.add(s.place);
            out.samples.push_back(s);
            joined.emplace_back();
        }
        for (std::size_t k = 0; k + 1 < met.size(); k += 2) {
            joined[static_cast<std::size_t>(met[k])].push_back(met[k + 1]);
            joined[static_cast<std::size_t>(met[k + 1])].push_back(met[k]);
        }
    }
    if (out.samples.empty()) return out;
    out.chord = extent.size()[alongAxis];
    for (auto& s : out.samples)
        s.fraction = out.chord > 0.0 ? (s.place[alongAxis] - extent.low[alongAxis]) / out.chord : 0.0;
    out.outlines = outlinesOf(out.samples, std::move(joined));
    std::sort(out.samples.begin(), out.samples.end(),
              [](const auto& a, const auto& b) { return a.upper != b.upper ? !a.upper : a.fraction < b.fraction; });
    return out;
}

namespace {
constexpr const char* kHead = "x_m,y_m,z_m,x_c,Cp,Cf,side,part\n";

void addRows(const PressureStation& s, const std::string& before, std::string& text) {
    for (const auto& p : s.samples)
        fmt::format_to(std::back_inserter(text), "{}{:.6g},{:.6g},{:.6g},{:.5f},{:.5f},{:.6f},{},{}\n", before,
                       p.place.x(), p.place.y(), p.place.z(), p.fraction, p.Cp, p.Cf, p.upper ? "upper" : "lower",
                       p.part);
}
}  // namespace

std::string toCsv(const PressureStation& s) {
    std::string text = kHead;
    addRows(s, "", text);
    return text;
}

std::string toCsv(const std::vector<std::pair<int, double>>& planes, const std::vector<PressureStation>& stations) {
    std::string text = std::string("axis,plane_m,") + kHead;
    for (std::size_t i = 0; i < stations.size(); ++i)
        addRows(stations[i], fmt::format("{},{:.6g},", "xyz"[planes[i].first], planes[i].second), text);
    return text;
}

}  // namespace cvane::readout
