#pragma once
#include <memory>
#include <optional>
#include <vector>

#include "flow/roles.h"

namespace cvane::flow {

/// The boundary faces of a piece and what each of them is.
class Boundaries {
  public:
    /// @param ahead  see rolesFor
    Boundaries(const Piece& piece, const Case& c, std::optional<std::size_t> ahead);
    const Boundary& at(std::size_t f) const { return *role(f).boundary; }
    const PatchRole& role(std::size_t f) const { return roles_[piece_.patch(f)]; }
    const std::vector<PatchRole>& roles() const { return roles_; }
    FarWind& wind() { return *wind_; }
    const FarWind& wind() const { return *wind_; }
    /// Of boundary faces, one entry each: whether gradients may take the velocity, or the pressure, as known.
    std::vector<char> velocityKnown() const;
    std::vector<char> pressureKnown() const;
    /// Some face, on this rank, ties the pressure's level.
    bool tiesPressure() const;

  private:
    const Piece& piece_;
    std::shared_ptr<FarWind> wind_;
    std::vector<PatchRole> roles_;
};

}  // namespace cvane::flow
