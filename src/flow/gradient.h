#pragma once
#include <vector>

#include "flow/piece.h"

namespace cvane::flow {

/// Least-squares gradient over face neighbours, weighted with the inverse distance squared: exact for linear fields on
/// any grid. Boundary faces take part where `uses` says so, with the values given at them. Source: T. J. Barth, VKI
/// Lecture Series 1994-05.
class Gradient {
  public:
    /// @param uses  one entry a boundary face (behind `linked`)
    Gradient(const Piece& piece, const std::vector<char>& uses);

    /// @param phi       own and ghost values;  @param atBoundary  one value a boundary face
    /// @param gradient  out: own and ghost entries, ghosts exchanged. Collective.
    void operator()(const std::vector<double>& phi, const std::vector<double>& atBoundary,
                    std::vector<Vec3>& gradient) const;
    /// Rows of the result belong to components: G(i, j) = d u_i / d x_j.
    void operator()(const std::vector<Vec3>& u, const std::vector<Vec3>& atBoundary, std::vector<Mat3>& gradient) const;

    /// What a difference over a face counts for: the gradient in P takes forP(f) (phi_N - phi_P), that in N, of an
    /// inner face, forN(f) of it.
    const Vec3& forP(std::size_t f) const { return cP_[f]; }
    const Vec3& forN(std::size_t f) const { return cN_[f]; }

  private:
    template <class T, class G>
    void apply(const std::vector<T>& phi, const std::vector<T>& atBoundary, std::vector<G>& gradient) const;
    const Piece& piece_;
    std::vector<Vec3> cP_, cN_;  // grad_P += cP (phi_N - phi_P), grad_N += cN (phi_N - phi_P)
};

/// Gradient of a variable that does not change towards the boundary. Collective.
void gradientOf(const Piece& piece, const Gradient& gradient, const std::vector<double>& phi, std::vector<Vec3>& out);

}  // namespace cvane::flow
