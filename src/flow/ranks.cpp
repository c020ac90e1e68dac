#include "flow/ranks.h"

#include <mpi.h>

#include <algorithm>

namespace cvane::flow {

Ranks::Ranks() {
    MPI_Comm_rank(MPI_COMM_WORLD, &rank_);
    MPI_Comm_size(MPI_COMM_WORLD, &size_);
}

Ranks Ranks::alone() {
    return {0, 1};
}

double Ranks::sum(double mine) const {
    sum(std::span<double>(&mine, 1));
    return mine;
}

void Ranks::sum(std::span<double> mine) const {
    if (size_ == 1) return;
    const auto n = mine.size();
    std::vector<double> all(n * static_cast<std::size_t>(size_));
    MPI_Allgather(mine.data(), static_cast<int>(n), MPI_DOUBLE, all.data(), static_cast<int>(n), MPI_DOUBLE,
                  MPI_COMM_WORLD);
    for (std::size_t i = 0; i < n; ++i) {
        mine[i] = 0.0;
        for (std::size_t r = 0; r < static_cast<std::size_t>(size_); ++r) mine[i] += all[r * n + i];
    }
}

double Ranks::max(double mine) const {
    double all = mine;
    if (size_ > 1) MPI_Allreduce(&mine, &all, 1, MPI_DOUBLE, MPI_MAX, MPI_COMM_WORLD);
    return all;
}

Ranks::Shares Ranks::sharesOf(std::size_t mine) const {
    const int n = static_cast<int>(mine);
    Shares s{std::vector<int>(static_cast<std::size_t>(size_), n), std::vector<int>(static_cast<std::size_t>(size_), 0),
             mine};
    if (size_ == 1) return s;
    MPI_Allgather(&n, 1, MPI_INT, s.counts.data(), 1, MPI_INT, MPI_COMM_WORLD);
    for (std::size_t r = 1; r < s.starts.size(); ++r) s.starts[r] = s.starts[r - 1] + s.counts[r - 1];
    s.all = static_cast<std::size_t>(s.starts.back() + s.counts.back());
    return s;
}

void Ranks::gather(std::span<const double> mine, const Shares& s, std::span<double> all) const {
    if (size_ == 1)
        std::copy(mine.begin(), mine.end(), all.begin());
    else
        MPI_Allgatherv(mine.data(), static_cast<int>(mine.size()), MPI_DOUBLE, all.data(), s.counts.data(),
                       s.starts.data(), MPI_DOUBLE, MPI_COMM_WORLD);
}

std::vector<double> Ranks::gather(std::span<const double> mine) const {
    const Shares s = sharesOf(mine.size());
    std::vector<double> all(s.all);
    gather(mine, s, all);
    return all;
}

std::vector<double> Ranks::gatherAtRoot(std::span<const double> mine) const {
    if (size_ == 1) return {mine.begin(), mine.end()};
    const double n = static_cast<double>(mine.size());
    const auto counts = gather({&n, 1});
    if (rank_ != 0) {
        send(0, std::as_bytes(mine));
        return {};
    }
    std::vector<double> all(mine.begin(), mine.end());
    for (int r = 1; r < size_; ++r) {
        const auto first = all.size();
        all.resize(first + static_cast<std::size_t>(counts[static_cast<std::size_t>(r)]));
        receive(r, std::as_writable_bytes(std::span(all).subspan(first)));
    }
    return all;
}

std::vector<std::vector<double>> Ranks::exchange(const std::vector<std::vector<double>>& to) const {
    const auto n = static_cast<std::size_t>(size_);
    std::vector<std::vector<double>> from(n);
    if (size_ == 1) return to;
    std::vector<int> mine(n), theirs(n);
    for (std::size_t r = 0; r < n; ++r) mine[r] = static_cast<int>(to[r].size());
    MPI_Alltoall(mine.data(), 1, MPI_INT, theirs.data(), 1, MPI_INT, MPI_COMM_WORLD);
    std::vector<MPI_Request> requests;
    for (std::size_t r = 0; r < n; ++r) {
        from[r].resize(static_cast<std::size_t>(theirs[r]));
        if (theirs[r] > 0)
            MPI_Irecv(from[r].data(), theirs[r], MPI_DOUBLE, static_cast<int>(r), 2, MPI_COMM_WORLD,
                      &requests.emplace_back());
    }
    for (std::size_t r = 0; r < n; ++r)
        if (mine[r] > 0)
            MPI_Isend(to[r].data(), mine[r], MPI_DOUBLE, static_cast<int>(r), 2, MPI_COMM_WORLD,
                      &requests.emplace_back());
    MPI_Waitall(static_cast<int>(requests.size()), requests.data(), MPI_STATUSES_IGNORE);
    return from;
}

// A message's length is an int.
constexpr std::size_t kLongest = std::size_t{1} << 30;

void Ranks::send(int to, std::span<const std::byte> bytes) const {
    for (std::size_t i = 0; i < bytes.size(); i += kLongest)
        MPI_Send(bytes.data() + i, static_cast<int>(std::min(kLongest, bytes.size() - i)), MPI_BYTE, to, 1,
                 MPI_COMM_WORLD);
}

void Ranks::receive(int from, std::span<std::byte> bytes) const {
    for (std::size_t i = 0; i < bytes.size(); i += kLongest)
        MPI_Recv(bytes.data() + i, static_cast<int>(std::min(kLongest, bytes.size() - i)), MPI_BYTE, from, 1,
                 MPI_COMM_WORLD, MPI_STATUS_IGNORE);
}

void Ranks::fromRoot(std::span<double> values) const {
    if (size_ == 1) return;
    for (std::size_t i = 0; i < values.size(); i += kLongest / sizeof(double))
        MPI_Bcast(values.data() + i, static_cast<int>(std::min(kLongest / sizeof(double), values.size() - i)),
                  MPI_DOUBLE, 0, MPI_COMM_WORLD);
}

namespace {
MPI_Datatype typeOf(const double*) {
    return MPI_DOUBLE;
}
MPI_Datatype typeOf(const float*) {
    return MPI_FLOAT;
}
}  // namespace

template <class Real>
void Halo::exchange(Real* values, int width) const {
    if (neighbours.empty()) return;
    const auto w = static_cast<std::size_t>(width);
    std::vector<MPI_Request> requests;
    std::vector<std::vector<Real>> buffers(neighbours.size());
    for (std::size_t i = 0; i < neighbours.size(); ++i) {
        const Neighbour& n = neighbours[i];
        MPI_Irecv(values + static_cast<std::size_t>(n.firstGhost) * w, n.ghosts * width, typeOf(values), n.rank, 0,
                  MPI_COMM_WORLD, &requests.emplace_back());
    }
    for (std::size_t i = 0; i < neighbours.size(); ++i) {
        const Neighbour& n = neighbours[i];
        auto& b = buffers[i];
        b.reserve(n.send.size() * w);
        for (const auto c : n.send)
            b.insert(b.end(), values + static_cast<std::size_t>(c) * w, values + static_cast<std::size_t>(c + 1) * w);
        MPI_Isend(b.data(), static_cast<int>(b.size()), typeOf(values), n.rank, 0, MPI_COMM_WORLD,
                  &requests.emplace_back());
    }
    MPI_Waitall(static_cast<int>(requests.size()), requests.data(), MPI_STATUSES_IGNORE);
}
template void Halo::exchange(double*, int) const;
template void Halo::exchange(float*, int) const;

}  // namespace cvane::flow
