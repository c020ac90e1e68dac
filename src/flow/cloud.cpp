#include "flow/cloud.h"

#include "flow/variables.h"

namespace cvane::flow {

FlowCloud cloudOf(const Flow& flow, const Ranks& ranks) {
    const auto cells = static_cast<std::size_t>(flow.piece.cells);
    const auto all = [&](const auto& field, std::size_t width) {
        return ranks.gather(std::span<const double>(field.data()->data(), width * cells));
    };
    FlowCloud out;
    const auto x = all(flow.piece.x, 3), gradU = all(flow.gradU, 9), gradP = all(flow.gradP, 3);
    const std::size_t points = x.size() / 3;
    for (std::size_t i = 0; i < points; ++i) {
        out.x.push_back(Eigen::Map<const Vec3>(x.data() + 3 * i));
        out.gradU.push_back(Eigen::Map<const Mat3>(gradU.data() + 9 * i));
        out.gradP.push_back(Eigen::Map<const Vec3>(gradP.data() + 3 * i));
    }
    for (const Variable& v : kVariables) v.visit(out.at, [&](auto& field) { fillWithZero(field, points); });
    takeRows(ranks.gather(rowsOf(flow.state, cells)), out.at);
    return out;
}

}  // namespace cvane::flow
