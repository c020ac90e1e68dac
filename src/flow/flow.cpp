#include "flow/flow.h"

namespace cvane::flow {

std::vector<double> dilatationOf(const Flow& flow) {
    std::vector<double> out(flow.piece.stored());
    for (std::size_t c = 0; c < out.size(); ++c)
        out[c] = -flow.state.U[c].dot(flow.gradDensity[c]) / flow.state.density[c];
    return out;
}

}  // namespace cvane::flow
