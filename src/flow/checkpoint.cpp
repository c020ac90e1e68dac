#include "flow/checkpoint.h"

#include <algorithm>
#include <cstring>
#include <fstream>
#include <type_traits>

#include "base/errors.h"
#include "base/files.h"
#include "flow/checkpoint_layout.h"
#include "flow/variables.h"

namespace cvane::flow {
namespace {
/// A file that is written piece by piece, with the checksum of what has been written behind it.
class Writer {
  public:
    explicit Writer(const std::filesystem::path& path) : path_(path), out_(path, std::ios::binary) {}
    void bytes(const void* from, std::size_t n) {
        const auto* at = static_cast<const char*>(from);
        sum_ = base::checksum({at, n}, sum_);
        out_.write(at, static_cast<std::streamsize>(n));
    }
    template <class T>
    void operator()(const T& v) {
        if constexpr (std::is_arithmetic_v<T>) {
            bytes(&v, sizeof v);
        } else {
            (*this)(static_cast<std::uint64_t>(v.size()));
            bytes(v.data(), v.size() * sizeof(v[0]));
        }
    }
    void close() {
        out_.write(reinterpret_cast<const char*>(&sum_), sizeof sum_);
        out_.close();
        if (!out_)
            throw base::InputError("could not be written.", path_.string(),
                                   "Check the folder and the free space; nothing was lost.");
    }

  private:
    const std::filesystem::path& path_;
    std::ofstream out_;
    std::uint32_t sum_ = 0;
};
struct Reader {
    std::string_view bytes;
    const std::filesystem::path& file;
    void take(void* to, std::size_t n) {
        if (bytes.size() < n)
            throw base::InputError("is cut off.", file.string(), "Run the point again; it starts afresh.");
        if (n > 0) std::memcpy(to, bytes.data(), n);
        bytes.remove_prefix(n);
    }
    template <class T>
    void operator()(T& v) {
        if constexpr (std::is_arithmetic_v<T>) {
            take(&v, sizeof v);
        } else {
            std::uint64_t n = 0;
            (*this)(n);
            if (n > bytes.size() / sizeof(v[0]))
                throw base::InputError("is cut off.", file.string(), "Run the point again; it starts afresh.");
            v.resize(n);
            take(v.data(), n * sizeof(v[0]));
        }
    }
};

}  // namespace

std::vector<double> gatherFaces(std::span<const double> values, const Piece& p, const Ranks& ranks) {
    // Faces shared by two ranks are sent by the one that owns them in the whole grid.
    std::vector<double> numbered;
    numbered.reserve(2 * p.faces());
    for (std::size_t f = 0; f < p.faces(); ++f) {
        if (f >= p.inner && f < p.linked && p.reversed[f]) continue;
        numbered.push_back(static_cast<double>(p.globalFace[f]));
        numbered.push_back(values[f]);
    }
    const auto all = ranks.gatherAtRoot(numbered);
    std::vector<double> out;
    if (ranks.rank() != 0) return out;
    out.assign(static_cast<std::size_t>(p.allFaces), 0.0);
    for (std::size_t i = 0; i < all.size(); i += 2) out[static_cast<std::size_t>(all[i])] = all[i + 1];
    return out;
}

std::vector<double> handOutFaces(std::span<const double> all, const Piece& p, const Ranks& ranks) {
    std::vector<double> mine(p.faces());
    // In blocks, so that no other rank holds the values of the whole grid.
    constexpr std::size_t kBlock = 4u << 20;
    std::vector<double> block;
    for (std::size_t from = 0; from < static_cast<std::size_t>(p.allFaces); from += kBlock) {
        block.resize(std::min(kBlock, static_cast<std::size_t>(p.allFaces) - from));
        if (ranks.rank() == 0)
            std::copy_n(all.begin() + static_cast<std::ptrdiff_t>(from), block.size(), block.begin());
        ranks.fromRoot(block);
        for (std::size_t f = 0; f < p.faces(); ++f) {
            const auto g = static_cast<std::size_t>(p.globalFace[f]);
            if (g < from || g >= from + block.size()) continue;
            const bool turned = f >= p.inner && f < p.linked && p.reversed[f];
            mine[f] = (turned ? -1.0 : 1.0) * block[g - from];
        }
    }
    return mine;
}

Checkpoint gatherState(const Piece& p, const State& s, const Ranks& ranks) {
    Checkpoint c;
    c.cellData = ranks.gatherAtRoot(rowsOf(s, static_cast<std::size_t>(p.cells)));
    c.flux = gatherFaces(s.flux, p, ranks);
    return c;
}

std::vector<double> handOutRows(std::span<const double> rows, const Piece& p, const Ranks& ranks) {
    double width = static_cast<double>(rows.size()) / static_cast<double>(p.allCells);
    ranks.fromRoot({&width, 1});
    const auto w = static_cast<std::size_t>(width);
    double place[2] = {static_cast<double>(p.firstCell), static_cast<double>(p.cells)};
    const auto places = ranks.gather(place);
    std::vector<double> mine(w * static_cast<std::size_t>(p.cells));
    if (ranks.rank() != 0) {
        ranks.receive(0, std::as_writable_bytes(std::span(mine)));
        return mine;
    }
    const auto part = [&](std::size_t r) {
        return rows.subspan(w * static_cast<std::size_t>(places[2 * r]),
                            w * static_cast<std::size_t>(places[2 * r + 1]));
    };
    for (int r = 1; r < ranks.size(); ++r) ranks.send(r, std::as_bytes(part(static_cast<std::size_t>(r))));
    const auto own = part(0);
    mine.assign(own.begin(), own.end());
    return mine;
}

void scatterState(const Checkpoint& c, const Piece& p, State& s, const Ranks& ranks) {
    const bool fits = ranks.rank() != 0 || (c.cellData.size() == rowWidth(s) * static_cast<std::size_t>(p.allCells) &&
                                            c.flux.size() == static_cast<std::size_t>(p.allFaces));
    if (ranks.any(!fits)) throw base::InputError("belongs to another grid.", "checkpoint", "Start the run afresh.");
    takeRows(handOutRows(c.cellData, p, ranks), s);
    exchangeAll(p, s);
    s.flux = handOutFaces(c.flux, p, ranks);
}

void shareHistory(Checkpoint& c, const Ranks& ranks) {
    double sizes[8] = {static_cast<double>(c.history.size()), static_cast<double>(c.relaxation.size()),
                       static_cast<double>(c.key.size()),     c.seconds,
                       static_cast<double>(c.averagedFrom),   c.timeStep,
                       static_cast<double>(c.rescues),        static_cast<double>(c.meanLoads.size())};
    ranks.fromRoot(sizes);
    c.history.resize(static_cast<std::size_t>(sizes[0]));
    c.relaxation.resize(static_cast<std::size_t>(sizes[1]));
    c.key.resize(static_cast<std::size_t>(sizes[2]));
    c.seconds = sizes[3];
    c.averagedFrom = static_cast<std::uint64_t>(sizes[4]);
    c.timeStep = sizes[5];
    c.rescues = static_cast<std::uint64_t>(sizes[6]);
    c.meanLoads.resize(static_cast<std::size_t>(sizes[7]));
    std::vector<double> numbers = c.relaxation;
    numbers.insert(numbers.end(), c.meanLoads.begin(), c.meanLoads.end());
    for (const auto& k : c.history)
        for (const auto m : air::kAllCoefficients) numbers.push_back(k.*m);
    for (const char letter : c.key) numbers.push_back(letter);
    ranks.fromRoot(numbers);
    auto next = numbers.begin();
    for (double& v : c.relaxation) v = *next++;
    for (double& v : c.meanLoads) v = *next++;
    for (auto& k : c.history)
        for (const auto m : air::kAllCoefficients) k.*m = *next++;
    for (char& letter : c.key) letter = static_cast<char>(*next++);
}

namespace {
[[noreturn]] void throwDamaged(const std::filesystem::path& file) {
    throw base::InputError("is damaged (its checksum does not fit).", file.string(),
                           "Run the point again; it starts afresh.");
}
void checkHead(std::string_view bytes, const std::filesystem::path& file) {
    if (bytes.size() < 12 || (!bytes.starts_with(kCheckpointMagic) && !bytes.starts_with(kWithoutLastStep)))
        throw base::InputError("is not a checkpoint of this version.", file.string(),
                               "Run the point again; it starts afresh.");
}
}  // namespace

void checkCheckpoint(const std::filesystem::path& file) {
    // In pieces, the last four bytes, which are the sum, held back from each.
    std::ifstream in(file, std::ios::binary);
    std::error_code ec;
    if (!in || !std::filesystem::is_regular_file(file, ec))
        throw base::InputError("cannot be opened for reading.", file.string(), "Check its permissions.");
    std::string bytes;
    std::uint32_t crc = 0;
    bool first = true;
    while (in) {
        constexpr std::size_t kPiece = std::size_t{1} << 22;
        const std::size_t held = bytes.size();
        bytes.resize(held + kPiece);
        in.read(bytes.data() + held, static_cast<std::streamsize>(kPiece));
        bytes.resize(held + static_cast<std::size_t>(in.gcount()));
        if (first) checkHead(bytes, file);
        first = false;
        if (bytes.size() <= 4) continue;
        crc = base::checksum(std::string_view(bytes).substr(0, bytes.size() - 4), crc);
        bytes.erase(0, bytes.size() - 4);
    }
    std::uint32_t sum = 0;
    std::memcpy(&sum, bytes.data(), std::min<std::size_t>(4, bytes.size()));
    if (in.bad() || sum != crc) throwDamaged(file);
}

void writeCheckpoint(const Checkpoint& c, const std::filesystem::path& file) {
    base::replaceFile(file, [&](const std::filesystem::path& path) {
        Writer out(path);
        out.bytes(kCheckpointMagic, 8);
        eachField(out, c, true);
        out.close();
    });
}

std::optional<Checkpoint> readCheckpoint(const std::filesystem::path& file) {
    if (!std::filesystem::exists(file)) return std::nullopt;
    const std::string bytes = base::readFile(file);
    checkHead(bytes, file);
    const bool older = bytes.compare(0, 8, kWithoutLastStep, 8) == 0;
    std::uint32_t sum = 0;
    std::memcpy(&sum, bytes.data() + bytes.size() - 4, 4);
    const std::string_view body(bytes.data(), bytes.size() - 4);
    if (base::checksum(body) != sum) throwDamaged(file);
    Checkpoint c;
    Reader in{body.substr(8), file};
    eachField(in, c, !older);
    return c;
}

}  // namespace cvane::flow
