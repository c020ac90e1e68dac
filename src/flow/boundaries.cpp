#include "flow/boundaries.h"

namespace cvane::flow {

Boundaries::Boundaries(const Piece& p, const Case& c, std::optional<std::size_t> ahead)
    : piece_(p), wind_(std::make_shared<FarWind>(c)), roles_(rolesFor(p.patches, c, wind_, ahead)) {}

std::vector<char> Boundaries::velocityKnown() const {
    std::vector<char> known;
    for (std::size_t f = piece_.linked; f < piece_.faces(); ++f)
        known.push_back(at(f).velocityIsKnown(role(f).onModel));
    return known;
}

std::vector<char> Boundaries::pressureKnown() const {
    std::vector<char> known;
    for (std::size_t f = piece_.linked; f < piece_.faces(); ++f) known.push_back(at(f).holdsPressure());
    return known;
}

bool Boundaries::tiesPressure() const {
    for (std::size_t f = piece_.linked; f < piece_.faces(); ++f)
        if (at(f).tiesPressure()) return true;
    return false;
}

}  // namespace cvane::flow
