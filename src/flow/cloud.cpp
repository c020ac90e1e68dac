#include "flow/cloud.h"

#include <algorithm>
#include <limits>
#include <memory>

#include "base/nearest_point.h"
#include "flow/variables.h"

namespace cvane::flow {
namespace {
// Numbers in a point's row: x, values, slopes of U and p.
std::size_t rowOf(const State& s) {
    return 3 + rowWidth(s) + 9 + 3;
}

// Points as rows of numbers, and back.
std::vector<double> rowsOf(const FlowCloud& c, const std::vector<std::size_t>& which) {
    std::vector<double> out;
    out.reserve(rowOf(c.at) * which.size());
    const auto put = [&](const auto& m) { out.insert(out.end(), m.data(), m.data() + m.size()); };
    for (const auto i : which) {
        put(c.x[i]);
        for (const Variable& v : variablesOf(c.at))
            if (v.vector)
                put((c.at.*v.vector)[i]);
            else
                out.push_back((c.at.*v.scalar)[i]);
        put(c.gradU[i]);
        put(c.gradP[i]);
    }
    return out;
}

FlowCloud sized(std::size_t points, bool compressible) {
    FlowCloud c;
    c.at.compressible = compressible;
    c.x.resize(points);
    c.gradU.resize(points);
    c.gradP.resize(points);
    for (const Variable& v : variablesOf(c.at)) v.visit(c.at, [&](auto& field) { fillWithZero(field, points); });
    return c;
}

void takeRow(const double* v, FlowCloud& c, std::size_t i) {
    const auto take = [&](auto& m) {
        std::copy_n(v, m.size(), m.data());
        v += m.size();
    };
    take(c.x[i]);
    for (const Variable& variable : variablesOf(c.at))
        if (variable.vector)
            take((c.at.*variable.vector)[i]);
        else
            (c.at.*variable.scalar)[i] = *v++;
    take(c.gradU[i]);
    take(c.gradP[i]);
}

std::vector<std::size_t> allOf(const FlowCloud& c) {
    std::vector<std::size_t> all(c.x.size());
    for (std::size_t i = 0; i < all.size(); ++i) all[i] = i;
    return all;
}

double squaredDistance(const Box& box, const Vec3& x) {
    return (x - x.cwiseMax(box.low).cwiseMin(box.high)).squaredNorm();
}

std::vector<Box> boxesOf(const FlowCloud& part, const Ranks& ranks) {
    Box mine;
    for (const Vec3& x : part.x) mine.add(x);
    // A rank without points is far from everything.
    if (part.x.empty()) mine.low = mine.high = Vec3::Constant(1e150);
    const double ends[6] = {mine.low.x(), mine.low.y(), mine.low.z(), mine.high.x(), mine.high.y(), mine.high.z()};
    const auto all = ranks.gather(ends);
    std::vector<Box> out(static_cast<std::size_t>(ranks.size()));
    for (std::size_t r = 0; r < out.size(); ++r) {
        out[r].low = Eigen::Map<const Vec3>(all.data() + 6 * r);
        out[r].high = Eigen::Map<const Vec3>(all.data() + 6 * r + 3);
    }
    return out;
}

/// The nearest point to a place, as known so far.
struct Best {
    double squared = std::numeric_limits<double>::max();
    std::size_t rank = 0, index = 0;
};

/// Where the nearest points are: this rank's own is looked at first, and other ranks only where they may have a nearer
/// one.
std::vector<Best> find(const FlowCloud& part, const std::vector<Vec3>& places, const Ranks& ranks) {
    const auto size = static_cast<std::size_t>(ranks.size()), me = static_cast<std::size_t>(ranks.rank());
    std::unique_ptr<base::NearestPoint> tree;
    if (!part.x.empty()) tree = std::make_unique<base::NearestPoint>(part.x);
    std::vector<Best> best(places.size());
    for (std::size_t i = 0; tree && i < places.size(); ++i) {
        const auto near = (*tree)(places[i]);
        best[i] = {(part.x[near] - places[i]).squaredNorm(), me, near};
    }
    if (size == 1) return best;
    const auto boxes = boxesOf(part, ranks);
    std::vector<std::vector<double>> ask(size);
    std::vector<std::vector<std::size_t>> asked(size);
    for (std::size_t i = 0; i < places.size(); ++i)
        for (std::size_t r = 0; r < size; ++r) {
            if (r == me || squaredDistance(boxes[r], places[i]) > best[i].squared) continue;
            ask[r].insert(ask[r].end(), {places[i].x(), places[i].y(), places[i].z()});
            asked[r].push_back(i);
        }
    const auto questions = ranks.exchange(ask);
    std::vector<std::vector<double>> answers(size);
    for (std::size_t r = 0; r < size; ++r)
        for (std::size_t k = 0; k < questions[r].size(); k += 3) {
            const Vec3 x = Eigen::Map<const Vec3>(questions[r].data() + k);
            const std::size_t near = tree ? (*tree)(x) : 0;
            answers[r].push_back(tree ? (part.x[near] - x).squaredNorm() : std::numeric_limits<double>::max());
            answers[r].push_back(static_cast<double>(near));
        }
    const auto answered = ranks.exchange(answers);
    for (std::size_t r = 0; r < size; ++r)
        for (std::size_t k = 0; k < asked[r].size(); ++k) {
            Best& b = best[asked[r][k]];
            const double squared = answered[r][2 * k];
            // Of two that are equally near the one of the lower rank, whoever asks.
            if (squared < b.squared || (squared == b.squared && r < b.rank))
                b = {squared, r, static_cast<std::size_t>(answered[r][2 * k + 1])};
        }
    return best;
}
}  // namespace

FlowCloud cloudOf(const Flow& flow) {
    const auto cells = static_cast<std::size_t>(flow.piece.cells);
    const auto own = [&](const auto& field) {
        return std::decay_t<decltype(field)>(field.begin(), field.begin() + static_cast<std::ptrdiff_t>(cells));
    };
    FlowCloud out;
    out.x = own(flow.piece.x);
    out.gradU = own(flow.gradU);
    out.gradP = own(flow.gradP);
    out.at.compressible = flow.state.compressible;
    for (const Variable& v : variablesOf(flow.state))
        if (v.vector)
            out.at.*v.vector = own(flow.state.*v.vector);
        else
            out.at.*v.scalar = own(flow.state.*v.scalar);
    return out;
}

FlowCloud gatheredAtRoot(const FlowCloud& part, const Ranks& ranks) {
    const auto rows = ranks.gatherAtRoot(rowsOf(part, allOf(part)));
    const std::size_t row = rowOf(part.at);
    FlowCloud out = sized(rows.size() / row, part.at.compressible);
    for (std::size_t i = 0; i < out.x.size(); ++i) takeRow(rows.data() + row * i, out, i);
    return out;
}

std::vector<FlowCloud> nearestPoints(const std::vector<const FlowCloud*>& clouds, const std::vector<Vec3>& places,
                                     const Ranks& ranks) {
    const auto best = find(*clouds.front(), places, ranks);
    const auto size = static_cast<std::size_t>(ranks.size());
    std::vector<std::vector<double>> ask(size);
    std::vector<std::vector<std::size_t>> asked(size);
    for (std::size_t i = 0; i < best.size(); ++i) {
        ask[best[i].rank].push_back(static_cast<double>(best[i].index));
        asked[best[i].rank].push_back(i);
    }
    const auto questions = ranks.exchange(ask);
    std::vector<FlowCloud> out;
    for (const FlowCloud* cloud : clouds) {
        std::vector<std::vector<double>> answers(size);
        for (std::size_t r = 0; r < size; ++r) {
            std::vector<std::size_t> which;
            for (const double index : questions[r]) which.push_back(static_cast<std::size_t>(index));
            answers[r] = rowsOf(*cloud, which);
        }
        const auto answered = ranks.exchange(answers);
        FlowCloud& here = out.emplace_back(sized(places.size(), cloud->at.compressible));
        const std::size_t row = rowOf(cloud->at);
        for (std::size_t r = 0; r < size; ++r)
            for (std::size_t k = 0; k < asked[r].size(); ++k) takeRow(answered[r].data() + row * k, here, asked[r][k]);
    }
    return out;
}

}  // namespace cvane::flow
