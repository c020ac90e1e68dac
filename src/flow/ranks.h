#pragma once
#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "base/vec3.h"

namespace cvane::flow {

/// The processes that share one flow solution. All communication of the solver goes through this class and `Halo`.
/// Sums are taken in the order of the ranks, so that the same run gives the same bits every time.
class Ranks {
  public:
    Ranks();               ///< all ranks of the program; MPI must have been initialised
    static Ranks alone();  ///< this process by itself, for work that every rank repeats
    int rank() const { return rank_; }
    int size() const { return size_; }
    double sum(double mine) const;                                     ///< Collective.
    void sum(std::span<double> mine) const;                            ///< Collective; each entry over all ranks.
    double max(double mine) const;                                     ///< Collective.
    bool any(bool mine) const { return max(mine ? 1.0 : 0.0) > 0.5; }  ///< Collective.
    /// Collective: pieces of all ranks one behind the other, on every rank.
    std::vector<double> gather(std::span<const double> mine) const;
    /// Lengths of all ranks' pieces and where each begins, for gathering such pieces often.
    struct Shares {
        std::vector<int> counts, starts;
        std::size_t all;
    };
    Shares sharesOf(std::size_t mine) const;  ///< Collective.
    /// Collective: as above, for pieces of known lengths. @param all  takes shares.all values
    void gather(std::span<const double> mine, const Shares& shares, std::span<double> all) const;
    /// Collective: the same on rank 0 alone; nothing on the others.
    std::vector<double> gatherAtRoot(std::span<const double> mine) const;
    /// Collective: what each rank has for each other one, itself included. Entry r of the outcome came from rank r.
    std::vector<std::vector<double>> exchange(const std::vector<std::vector<double>>& to) const;
    /// From one rank to another, which asks for it: any number of bytes.
    void send(int to, std::span<const std::byte> bytes) const;
    void receive(int from, std::span<std::byte> bytes) const;
    /// Collective: rank 0's values on every rank.
    void fromRoot(std::span<double> values) const;

  private:
    Ranks(int rank, int size) : rank_(rank), size_(size) {}
    int rank_ = 0, size_ = 1;
};

/// Which of my values other ranks need, and where theirs go. Ghost entries lie behind the own ones, grouped by rank.
struct Halo {
    struct Neighbour {
        int rank;
        std::vector<std::int32_t> send;  ///< own entries that this neighbour holds as ghosts, in its order
        std::int32_t firstGhost, ghosts;
    };
    std::vector<Neighbour> neighbours;

    /// Collective: fills the ghosts. `values` holds own and ghost entries of `width` doubles each.
    template <class Real>
    void exchange(Real* values, int width) const;
    void exchange(std::vector<float>& v) const { exchange(v.data(), 1); }
    void exchange(std::vector<double>& v) const { exchange(v.data(), 1); }
    void exchange(std::vector<Vec3>& v) const { exchange(v.data()->data(), 3); }
    void exchange(std::vector<Mat3>& v) const { exchange(v.data()->data(), 9); }
};

}  // namespace cvane::flow
