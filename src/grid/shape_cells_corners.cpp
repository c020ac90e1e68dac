#include "grid/shape_cells_inside.h"

namespace cvane::grid {

void CellShaper::Shaper::findMovable() {
    movable_.assign(x_.size(), 0);
    moved_.assign(x_.size(), 0);
    std::vector<char> reached(nPoints_, 0);
    for (const auto p : w_.point) reached[static_cast<std::size_t>(p)] = 1;
    for (int ring = 0; ring < 3; ++ring) {
        auto wider = reached;
        for (const auto& cell : s_.corners)
            if (std::any_of(cell.begin(), cell.end(), [&](auto p) { return reached[static_cast<std::size_t>(p)]; }))
                for (const auto p : cell) wider[static_cast<std::size_t>(p)] = 1;
        reached = std::move(wider);
    }
    std::copy(reached.begin(), reached.end(), movable_.begin());
    for (std::size_t i = 0; i < w_.point.size(); ++i) movable_[nPoints_ + i] = !paths_.fixed[i];
    loose_.assign(w_.point.size(), 0);
    anchor_.resize(w_.point.size());
    lastFacet_.assign(w_.point.size(), -1);
}

void CellShaper::Shaper::makeCorners(double height) {
    const auto stays = [&](const std::array<PointIndex, 8>& cell) {
        return std::none_of(cell.begin(), cell.end(), [&](auto p) { return movable_[static_cast<std::size_t>(p)]; });
    };
    corners_.reserve(
        8 * static_cast<std::size_t>(std::count_if(s_.corners.begin(), s_.corners.end(), std::not_fn(stays))) +
        8 * s_.gapCorners.size());
    for (const auto& cell : s_.corners) {
        if (stays(cell)) continue;
        const auto s = [&](std::size_t axis) -> float {
            return 1.0 / (s_.points[static_cast<std::size_t>(cell[std::size_t{1} << axis])] -
                          s_.points[static_cast<std::size_t>(cell[0])])
                             .norm();
        };
        const float sx = s(0), sy = s(1), sz = s(2);
        for (std::size_t i = 0; i < 8; ++i) {
            const bool odd = (i & 1) ^ (i >> 1 & 1) ^ (i >> 2 & 1);
            const Index a = cell[i ^ 1], b = cell[i ^ 2];
            corners_.push_back(
                {{cell[i], odd ? b : a, odd ? a : b, cell[i ^ 4]}, odd ? sy : sx, odd ? sx : sy, sz, false});
        }
    }
    const auto below = [&](PointIndex p) {
        return static_cast<Index>(nPoints_) + w_.wallOf[static_cast<std::size_t>(p)];
    };
    const auto onLine = [&](PointIndex p) {
        return paths_.taken(static_cast<std::size_t>(w_.wallOf[static_cast<std::size_t>(p)]));
    };
    // Where a curve takes two sides of a wall face, that face has a corner of half a turn and stands for a
    // triangle; nothing can open it.
    const auto straight = [&](PointIndex p, PointIndex last, PointIndex next) {
        if (!onLine(p) || !onLine(last) || !onLine(next)) return false;
        const Vec3 a = at(below(last)) - at(below(p)), b = at(below(next)) - at(below(p));
        return a.cross(b).norm() < 0.3 * a.norm() * b.norm();
    };
    for (const auto& q : s_.gapCorners) {
        std::array<double, 4> length{};
        for (std::size_t k = 0; k < 4; ++k)
            length[k] =
                (s_.points[static_cast<std::size_t>(q[k])] - s_.points[static_cast<std::size_t>(q[(k + 1) % 4])])
                    .norm();
        const auto s3 = static_cast<float>(1.0 / (height * *std::min_element(length.begin(), length.end())));
        for (std::size_t k = 0; k < 4; ++k) {
            const auto p = q[k], next = q[(k + 1) % 4], last = q[(k + 3) % 4];
            const auto sNext = static_cast<float>(1.0 / length[k]),
                       sLast = static_cast<float>(1.0 / length[(k + 3) % 4]);
            corners_.push_back({{p, next, last, below(p)}, sNext, sLast, s3, false});
            corners_.push_back({{below(p), below(last), below(next), p}, sLast, sNext, s3, straight(p, last, next)});
        }
    }
}

void CellShaper::Shaper::makeIncidence() {
    start_.assign(x_.size() + 1, 0);
    for (const Corner& c : corners_)
        for (const Index v : c.v) ++start_[static_cast<std::size_t>(v) + 1];
    for (std::size_t i = 1; i < start_.size(); ++i) start_[i] += start_[i - 1];
    incident_.resize(4 * corners_.size());
    auto fill = start_;
    for (std::size_t c = 0; c < corners_.size(); ++c)
        for (const Index v : corners_[c].v)
            incident_[static_cast<std::size_t>(fill[static_cast<std::size_t>(v)]++)] = static_cast<Index>(c);
    hangs_.assign(x_.size(), {-1, -1});
    const auto below = [&](PointIndex p) {
        return static_cast<Index>(nPoints_) + w_.wallOf[static_cast<std::size_t>(p)];
    };
    const auto first = static_cast<Index>(nPoints_);
    for (const auto& h : s_.hanging) {
        hangs_[static_cast<std::size_t>(h.point)] = {h.a, h.b};
        if (below(h.point) >= first && below(h.a) >= first && below(h.b) >= first)
            hangs_[static_cast<std::size_t>(below(h.point))] = {below(h.a), below(h.b)};
    }
    hungOn_.resize(x_.size());
    for (std::size_t i = 0; i < x_.size(); ++i)
        for (const Index v : hangs_[i])
            if (v >= 0) hungOn_[static_cast<std::size_t>(v)].push_back(static_cast<Index>(i));
}

void CellShaper::Shaper::colourPoints() {
    colour_.assign(x_.size(), 255);
    for (std::size_t i = 0; i < x_.size(); ++i) {
        // Wall points that are held now may be loosened later.
        if (!movable_[i] && i < nPoints_) continue;
        std::uint64_t taken = 0;
        const auto avoid = [&](Index v) {
            const auto c = colour_[static_cast<std::size_t>(v)];
            if (c < 64) taken |= std::uint64_t{1} << c;
        };
        for (auto k = start_[i]; k < start_[i + 1]; ++k)
            for (const Index v : corners_[static_cast<std::size_t>(incident_[static_cast<std::size_t>(k)])].v) avoid(v);
        // A hanging point also feels the two points that it hangs between; a wall point feels its staircase point.
        for (const Index v : hangs_[i])
            if (v >= 0) avoid(v);
        for (const Index v : hungOn_[i])
            if (v >= 0) avoid(v);
        const auto c = static_cast<std::uint8_t>(std::min(std::countr_one(taken), 63));
        colour_[i] = c;
        colours_ = std::max<std::size_t>(colours_, c + 1u);
    }
}

std::vector<Index> CellShaper::Shaper::allPointsBeyond(double limit) {
    const bool first = seen_.empty();
    seen_.resize(corners_.size());
    std::vector<char> beyond(x_.size(), 0);
    const auto n = static_cast<std::ptrdiff_t>(corners_.size());
#pragma omp parallel for schedule(static)
    for (std::ptrdiff_t k = 0; k < n; ++k) {
        const Corner& c = corners_[static_cast<std::size_t>(k)];
        if (c.flat) continue;
        auto& [q, d] = seen_[static_cast<std::size_t>(k)];
        if (first || std::any_of(std::begin(c.v), std::end(c.v),
                                 [&](Index v) { return moved_[static_cast<std::size_t>(v)] != 0; })) {
            const auto [edges, volume] = edgesAndVolume(c);
            q = static_cast<float>(edges);
            d = static_cast<float>(volume);
        }
        if (q * std::sqrt(q) / measure_.chi(d) > limit)
            for (const Index v : c.v)
                std::atomic_ref(beyond[static_cast<std::size_t>(v)]).store(1, std::memory_order_relaxed);
    }
    std::fill(moved_.begin(), moved_.end(), 0);
    std::vector<Index> points;
    for (std::size_t i = 0; i < beyond.size(); ++i)
        if (beyond[i]) points.push_back(static_cast<Index>(i));
    return points;
}

std::vector<Index> CellShaper::Shaper::pointsBeyond(double limit, const std::vector<Index>& corners) const {
    std::vector<char> beyond(corners.size(), 0);
    const auto n = static_cast<std::ptrdiff_t>(corners.size());
#pragma omp parallel for schedule(static)
    for (std::ptrdiff_t k = 0; k < n; ++k)
        beyond[static_cast<std::size_t>(k)] =
            value(corners_[static_cast<std::size_t>(corners[static_cast<std::size_t>(k)])]) > limit;
    std::vector<Index> found;
    for (std::size_t k = 0; k < corners.size(); ++k)
        if (beyond[k]) found.push_back(corners[k]);
    return pointsOf(found);
}

std::vector<Index> CellShaper::Shaper::pointsOf(const std::vector<Index>& corners) const {
    std::vector<Index> points;
    points.reserve(4 * corners.size());
    for (const Index c : corners)
        for (const Index v : corners_[static_cast<std::size_t>(c)].v) points.push_back(v);
    return sortedOnce(std::move(points), x_.size());
}

std::vector<Index> CellShaper::Shaper::cornersAt(const std::vector<Index>& points) const {
    std::vector<Index> corners;
    for (const Index p : points)
        corners.insert(corners.end(), incident_.begin() + start_[static_cast<std::size_t>(p)],
                       incident_.begin() + start_[static_cast<std::size_t>(p) + 1]);
    return sortedOnce(std::move(corners), corners_.size());
}

std::vector<Index> CellShaper::Shaper::sortedOnce(std::vector<Index> list, std::size_t end) {
    if (8 * list.size() < end) {
        std::sort(list.begin(), list.end());
        list.erase(std::unique(list.begin(), list.end()), list.end());
        return list;
    }
    std::vector<char> in(end, 0);
    for (const Index i : list) in[static_cast<std::size_t>(i)] = 1;
    list.clear();
    for (std::size_t i = 0; i < end; ++i)
        if (in[i]) list.push_back(static_cast<Index>(i));
    return list;
}

}  // namespace cvane::grid
