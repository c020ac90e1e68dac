// A piece from the grid's file, by all ranks at a time.
#include <algorithm>
#include <limits>
#include <map>
#include <set>

#include "base/errors.h"
#include "flow/piece.h"
#include "flow/piece_faces.h"
#include "grid/grid_slab.h"

namespace cvane::flow {
namespace {

/// A face of own cells: which owns it, which is its neighbour; -1: a cell of another rank, or none.
struct OwnFace {
    std::int64_t face;
    LocalCell P = -1, N = -1;
    std::int64_t other = -1;  ///< number in the whole grid of the cell on another rank
    Vec3 S = Vec3::Zero(), centre = Vec3::Zero();
};

std::vector<OwnFace> facesOf(const grid::Lists& faces) {
    std::vector<std::pair<std::int64_t, LocalCell>> sides;
    for (std::size_t c = 0; c + 1 < faces.start.size(); ++c)
        for (auto k = faces.start[c]; k < faces.start[c + 1]; ++k)
            sides.emplace_back(faces.all[static_cast<std::size_t>(k)], static_cast<LocalCell>(c));
    std::sort(sides.begin(), sides.end(), [](const auto& a, const auto& b) {
        return std::abs(a.first) != std::abs(b.first) ? std::abs(a.first) < std::abs(b.first) : a.first > b.first;
    });
    std::vector<OwnFace> out;
    for (const auto& [signedFace, cell] : sides) {
        const std::int64_t face = std::abs(signedFace) - 1;
        if (out.empty() || out.back().face != face) out.push_back({face});
        (signedFace > 0 ? out.back().P : out.back().N) = cell;
    }
    return out;
}

/// Areas and centres of the faces that own cells own, from their corners; what the lowest of these corners is.
double measureOwned(const grid::GridFile& file, std::vector<OwnFace>& faces) {
    // Runs of faces that follow each other in the file: those between cells, and a patch's.
    grid::Grid g;
    g.faceStart.assign(1, 0);
    std::vector<std::int64_t> corners;
    std::vector<std::size_t> which;
    for (std::size_t i = 0; i < faces.size();) {
        if (faces[i].P < 0) {
            ++i;
            continue;
        }
        std::size_t last = i + 1;
        std::int64_t end = faces[i].face + 1;
        for (; last < faces.size() && faces[last].P >= 0 && faces[last].face == end; ++last) ++end;
        const auto polygons = file.cornersOfFaces(faces[i].face, end);
        for (; i < last; ++i) which.push_back(i);
        for (std::size_t k = 1; k < polygons.start.size(); ++k)
            g.faceStart.push_back(static_cast<std::int64_t>(corners.size()) + polygons.start[k]);
        corners.insert(corners.end(), polygons.all.begin(), polygons.all.end());
    }
    auto wanted = corners;
    std::sort(wanted.begin(), wanted.end());
    wanted.erase(std::unique(wanted.begin(), wanted.end()), wanted.end());
    g.points = file.places(wanted);
    g.facePoints.reserve(corners.size());
    for (const auto p : corners)
        g.facePoints.push_back(
            static_cast<grid::PointIndex>(std::lower_bound(wanted.begin(), wanted.end(), p) - wanted.begin()));
    g.owner.assign(which.size(), 0);
    const auto geo = grid::measuredFaces(g);
    for (std::size_t k = 0; k < which.size(); ++k) {
        faces[which[k]].S = geo.faceArea[k];
        faces[which[k]].centre = geo.faceCentre[k];
    }
    double lowest = std::numeric_limits<double>::max();
    for (const Vec3& x : g.points) lowest = std::min(lowest, x.z());
    return lowest;
}

/// What lies beyond faces between ranks: who is the neighbour asks the owner, whose answer has the face's measures.
void exchangeSides(std::vector<OwnFace>& faces, std::int64_t firstCell, const Ranks& ranks, std::int64_t internal) {
    constexpr std::size_t kAnswer = 7;
    // The faces between cells lie in the order of their owners, and so of the ranks.
    double mine[2] = {1.0, 0.0};
    for (const OwnFace& f : faces) {
        if (f.P < 0 || f.face >= internal) continue;
        if (mine[0] > mine[1]) mine[0] = static_cast<double>(f.face);
        mine[1] = static_cast<double>(f.face) + 1.0;
    }
    const auto ends = ranks.gather(mine);
    const auto ownerOf = [&](std::int64_t face) {
        for (std::size_t r = 0; r < static_cast<std::size_t>(ranks.size()); ++r)
            if (static_cast<double>(face) >= ends[2 * r] && static_cast<double>(face) < ends[2 * r + 1]) return r;
        throw base::InputError("has faces that no cell owns.", "grid", "Make the grid again.");
    };
    std::vector<std::vector<double>> ask(static_cast<std::size_t>(ranks.size()));
    std::vector<std::vector<std::size_t>> asked(ask.size());
    for (std::size_t i = 0; i < faces.size(); ++i) {
        if (faces[i].P >= 0) continue;
        const std::size_t r = ownerOf(faces[i].face);
        ask[r].insert(ask[r].end(), {static_cast<double>(faces[i].face), static_cast<double>(firstCell + faces[i].N)});
        asked[r].push_back(i);
    }
    const auto questions = ranks.exchange(ask);
    std::vector<std::vector<double>> answers(ask.size());
    for (std::size_t r = 0; r < questions.size(); ++r)
        for (std::size_t k = 0; k < questions[r].size(); k += 2) {
            const auto face = static_cast<std::int64_t>(questions[r][k]);
            const auto it = std::lower_bound(faces.begin(), faces.end(), face,
                                             [](const OwnFace& f, std::int64_t id) { return f.face < id; });
            it->other = static_cast<std::int64_t>(questions[r][k + 1]);
            answers[r].insert(answers[r].end(), {it->S.x(), it->S.y(), it->S.z(), it->centre.x(), it->centre.y(),
                                                 it->centre.z(), static_cast<double>(firstCell + it->P)});
        }
    const auto answered = ranks.exchange(answers);
    for (std::size_t r = 0; r < asked.size(); ++r)
        for (std::size_t k = 0; k < asked[r].size(); ++k) {
            OwnFace& f = faces[asked[r][k]];
            const double* v = answered[r].data() + kAnswer * k;
            f.S = Eigen::Map<const Vec3>(v);
            f.centre = Eigen::Map<const Vec3>(v + 3);
            f.other = static_cast<std::int64_t>(v[6]);
        }
}

/// Ghosts and who sends them, as cutPiece has them. @return the ghosts by their numbers in the whole grid
std::map<std::int64_t, LocalCell> linkRanks(Piece& p, const std::vector<OwnFace>& faces, const CellRuns& runs) {
    std::map<int, std::set<std::int64_t>> theirs, sent;
    for (const OwnFace& f : faces) {
        if (f.other < 0) continue;
        theirs[runs.rankOf(f.other)].insert(f.other);
        sent[runs.rankOf(f.other)].insert(p.firstCell + (f.P >= 0 ? f.P : f.N));
    }
    return linkHalo(p, theirs, sent);
}
}  // namespace

Piece readPiece(const std::filesystem::path& file, const Ranks& ranks) {
    const grid::GridFile in(file);
    const CellRuns runs{in.cells(), ranks.size()};
    Piece p;
    p.firstCell = runs.startOf(ranks.rank());
    const std::int64_t last = runs.startOf(ranks.rank() + 1);
    p.cells = static_cast<LocalCell>(last - p.firstCell);
    p.allCells = in.cells();
    p.allFaces = in.faces();
    p.patches = in.patches();
    std::int64_t internal = in.faces();
    for (const auto& patch : p.patches) internal -= patch.count;
    auto faces = facesOf(in.facesOfCells(p.firstCell, last));
    p.lowest = -ranks.max(-measureOwned(in, faces));
    exchangeSides(faces, p.firstCell, ranks, internal);
    const auto ghostOf = linkRanks(p, faces, runs);

    // Volumes and centres of own cells, in the order of the whole grid's faces; those of ghosts come from their owners.
    grid::Grid g;
    grid::Geometry geo;
    g.cellCount = static_cast<grid::CellIndex>(p.stored());
    for (const OwnFace& f : faces) {
        g.owner.push_back(f.P >= 0 ? f.P : ghostOf.at(f.other));
        if (f.face < internal) g.neighbour.push_back(f.N >= 0 ? f.N : ghostOf.at(f.other));
        geo.faceArea.push_back(f.S);
        geo.faceCentre.push_back(f.centre);
    }
    grid::measureFirstCells(g, static_cast<std::size_t>(p.cells), geo);
    p.x = std::move(geo.cellCentre);
    p.V = std::move(geo.volume);
    p.halo.exchange(p.x);
    p.halo.exchange(p.V);
    p.wallDistance = in.wallDistance(p.firstCell, last);

    FaceList out(p);
    for (const OwnFace& f : faces)
        if (f.P >= 0 && f.N >= 0) out.add(f.face, f.S, f.centre, f.P, f.N, false);
    p.inner = p.P.size();
    for (const OwnFace& f : faces)
        if (f.other >= 0) out.add(f.face, f.S, f.centre, f.P >= 0 ? f.P : f.N, ghostOf.at(f.other), f.P < 0);
    p.linked = p.P.size();
    for (std::size_t i = 0; i < p.patches.size(); ++i) {
        const auto from = std::lower_bound(faces.begin(), faces.end(), p.patches[i].first,
                                           [](const OwnFace& f, std::int64_t id) { return f.face < id; });
        for (auto f = from; f != faces.end() && f->face < p.patches[i].first + p.patches[i].count; ++f) {
            out.add(f->face, f->S, f->centre, f->P, -1, false);
            p.patchOf.push_back(static_cast<std::int32_t>(i));
        }
    }
    return p;
}

}  // namespace cvane::flow
