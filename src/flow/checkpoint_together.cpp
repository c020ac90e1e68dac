#include "flow/checkpoint_together.h"

#include <algorithm>
#include <cstring>
#include <type_traits>

#include "base/errors.h"
#include "base/files.h"
#include "flow/checkpoint_layout.h"
#include "flow/shared_file.h"

namespace cvane::flow {
namespace {
std::string_view bytesOf(const std::vector<double>& v) {
    return {reinterpret_cast<const char*>(v.data()), v.size() * sizeof(double)};
}

/// A stretch of the file: rank 0's alone, or shared out among the ranks one behind the other.
struct Stretch {
    std::string root;          ///< rank 0's bytes
    std::vector<double> mine;  ///< this rank's values of a shared one
    std::uint64_t before = 0;  ///< values of the ranks before this one
    std::uint64_t all = 0;     ///< values of all ranks
    bool shared = false;
    std::uint64_t bytes() const { return shared ? all * sizeof(double) : root.size(); }
};

/// Faces are numbered over the whole grid in no order of ranks: each rank gets a run of numbers.
class FaceRuns {
  public:
    FaceRuns(const Piece& piece, const Ranks& ranks) : piece_(piece), ranks_(ranks) {}
    Stretch of(const std::vector<double>& values) const {
        const auto faces = static_cast<std::size_t>(piece_.allFaces), n = static_cast<std::size_t>(ranks_.size());
        const std::size_t each = (faces + n - 1) / n;
        std::vector<std::vector<double>> to(n);
        for (std::size_t f = 0; f < piece_.faces(); ++f) {
            // Of one that two ranks share the one counts from whose side it is seen in the whole grid.
            if (f >= piece_.inner && f < piece_.linked && piece_.reversed[f]) continue;
            const auto number = static_cast<std::size_t>(piece_.globalFace[f]);
            auto& list = to[number / each];
            list.push_back(static_cast<double>(number));
            list.push_back(values[f]);
        }
        Stretch out;
        out.shared = true;
        out.all = faces;
        const std::size_t from = std::min(faces, each * static_cast<std::size_t>(ranks_.rank())),
                          end = std::min(faces, from + each);
        out.before = from;
        out.mine.assign(end - from, 0.0);
        for (const auto& list : ranks_.exchange(to))
            for (std::size_t k = 0; k < list.size(); k += 2)
                out.mine[static_cast<std::size_t>(list[k]) - from] = list[k + 1];
        return out;
    }

  private:
    const Piece& piece_;
    const Ranks& ranks_;
};

/// Lays the fields out in their order.
class Layout {
  public:
    Layout(const Checkpoint& head, const OwnFields& own, const Piece& piece, const Ranks& ranks)
        : head_(head), own_(own), piece_(piece), ranks_(ranks), faces_(piece, ranks) {
        stretches_.emplace_back().root.assign(kCheckpointMagic, 8);
    }
    template <class T>
    void operator()(const T& v) {
        if constexpr (std::is_arithmetic_v<T>) {
            put(&v, sizeof v);
        } else {
            if constexpr (std::is_same_v<T, std::vector<double>>) {
                if (&v == &head_.cellData) return rows(own_.cellData);
                if (&v == &head_.meanData) return rows(own_.meanData);
                if (&v == &head_.lastStep) return rows(own_.lastStep);
                if (&v == &head_.flux) return faces(own_.flux);
                if (&v == &head_.lastExcess) return faces(own_.lastExcess);
            }
            put(static_cast<std::uint64_t>(v.size()));
            put(v.data(), v.size() * sizeof(v[0]));
        }
    }
    std::vector<Stretch>& stretches() { return stretches_; }

  private:
    void put(const void* from, std::size_t n) {
        if (stretches_.back().shared) stretches_.emplace_back();
        stretches_.back().root.append(static_cast<const char*>(from), n);
    }
    void put(std::uint64_t n) { put(&n, sizeof n); }
    void rows(const std::vector<double>& mine) {
        const double width =
            ranks_.max(piece_.cells > 0 ? static_cast<double>(mine.size()) / static_cast<double>(piece_.cells) : 0.0);
        Stretch s;
        s.shared = true;
        s.mine = mine;
        s.before = static_cast<std::uint64_t>(width) * static_cast<std::uint64_t>(piece_.firstCell);
        s.all = static_cast<std::uint64_t>(width) * static_cast<std::uint64_t>(piece_.allCells);
        put(s.all);
        stretches_.push_back(std::move(s));
    }
    void faces(const std::vector<double>& mine) {
        if (!ranks_.any(!mine.empty())) {
            put(std::uint64_t{0});
            return;
        }
        put(static_cast<std::uint64_t>(piece_.allFaces));
        stretches_.push_back(faces_.of(mine));
    }
    const Checkpoint& head_;
    const OwnFields& own_;
    const Piece& piece_;
    const Ranks& ranks_;
    FaceRuns faces_;
    std::vector<Stretch> stretches_;
};

// The sum of a stretch from those of the ranks' parts, which follow each other. Collective.
std::uint32_t sumOf(const Stretch& s, const Ranks& ranks, std::uint32_t before) {
    if (!s.shared) return base::checksum(s.root, before);
    const double mine[2] = {static_cast<double>(base::checksum(bytesOf(s.mine))),
                            static_cast<double>(s.mine.size() * sizeof(double))};
    const auto all = ranks.gather(mine);
    for (std::size_t r = 0; r < all.size(); r += 2)
        before =
            base::joinedChecksum(before, static_cast<std::uint32_t>(all[r]), static_cast<std::uint64_t>(all[r + 1]));
    return before;
}
}  // namespace

void writeCheckpointTogether(const Checkpoint& head, const OwnFields& own, const Piece& piece, const Ranks& ranks,
                             const std::filesystem::path& file) {
    Layout layout(head, own, piece, ranks);
    eachField(layout, head, true);
    const auto part = std::filesystem::path(file).concat(".part");
    SharedFile out(part, ranks);
    std::uint64_t at = 0;
    std::uint32_t sum = 0;
    for (const Stretch& s : layout.stretches()) {
        if (s.shared)
            out.write(at + s.before * sizeof(double), bytesOf(s.mine));
        else if (ranks.rank() == 0)
            out.write(at, s.root);
        sum = sumOf(s, ranks, sum);
        // Rank 0's lengths place what all write.
        double length = static_cast<double>(s.bytes());
        ranks.fromRoot({&length, 1});
        at += static_cast<std::uint64_t>(length);
    }
    if (ranks.rank() == 0) out.write(at, {reinterpret_cast<const char*>(&sum), sizeof sum});
    out.close();
    bool bad = false;
    if (ranks.rank() == 0) {
        try {
            base::replaceFile(file, [&](const std::filesystem::path& path) { std::filesystem::rename(part, path); });
        } catch (const std::exception&) {
            bad = true;
        }
    }
    if (ranks.any(bad))
        throw base::InputError("could not be written.", file.string(),
                               "Check the folder and the free space; nothing was lost.");
}

}  // namespace cvane::flow
