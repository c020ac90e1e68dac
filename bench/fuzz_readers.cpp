// Damages files at random and gives them to the readers: fuzz_bench READER SECONDS [SEED]. READER is one of those
// below, or "all". Each damaged file is read in a child process with limits on time and memory; what counts is that it
// ends by itself, by accepting the file or refusing it in words, and that no file with a checksum is accepted with
// other content than before.
#include <fcntl.h>
#include <fmt/format.h>
#include <signal.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <functional>
#include <random>

#include "base/errors.h"
#include "base/files.h"
#include "bench/models.h"
#include "campaign/steps/grid_stage.h"
#include "campaign/store/point_report.h"
#include "campaign/store/stored_grid.h"
#include "flow/checkpoint.h"
#include "readout/wall_field.h"
#include "shape/import.h"
#include "shape/stl_export.h"

using namespace cvane;
namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;

namespace {
constexpr int kMostSeconds = 5;             ///< of one reading
constexpr rlim_t kMostMemory = 3ull << 30;  ///< [bytes]
constexpr int kRefused = 2, kOther = 3, kBroken = 4;

struct Target {
    std::string name;
    std::string file;
    bool hasChecksum = false;
    /// Reads the file and says what was read, to be compared; throws InputError where it refuses.
    std::function<std::string(const fs::path&)> read;
};

std::string dumpOf(const shape::Surface& s) {
    return fmt::format("{} facets, {} m2", s.facets.size(), s.area());
}

/// A folder with a good file for each reader.
class Shop {
  public:
    Shop() : folder_(fs::temp_directory_path() / fmt::format("cvane_fuzz_{}", ::getpid())) {
        fs::create_directories(folder_);
        const auto ball = bench::sphere(0.5, 12);
        shape::writeStl(ball, folder_ / "text.stl", 1.0);
        shape::writeBinaryStl(ball, folder_ / "binary.stl", 1.0);
        std::string obj = "o ball\n",
                    ply = fmt::format(
                        "ply\nformat ascii 1.0\nelement vertex {}\nproperty float x\nproperty float y\nproperty float "
                        "z\nelement face {}\nproperty list uchar int vertex_indices\nend_header\n",
                        ball.points.size(), ball.facets.size());
        std::string raw = fmt::format(
            "ply\nformat binary_little_endian 1.0\nelement vertex {}\nproperty float x\nproperty float y\nproperty "
            "float z\nelement face {}\nproperty list uchar int vertex_indices\nend_header\n",
            ball.points.size(), ball.facets.size());
        for (const Vec3& p : ball.points) {
            obj += fmt::format("v {} {} {}\n", p.x(), p.y(), p.z());
            ply += fmt::format("{} {} {}\n", p.x(), p.y(), p.z());
            for (int k = 0; k < 3; ++k) {
                const auto v = static_cast<float>(p[k]);
                raw.append(reinterpret_cast<const char*>(&v), sizeof v);
            }
        }
        for (const auto& f : ball.facets) {
            obj += fmt::format("f {} {} {}\n", f[0] + 1, f[1] + 1, f[2] + 1);
            ply += fmt::format("3 {} {} {}\n", f[0], f[1], f[2]);
            raw += '\3';
            raw.append(reinterpret_cast<const char*>(f.data()), sizeof f);
        }
        base::replaceFile(folder_ / "ball.obj", obj);
        base::replaceFile(folder_ / "text.ply", ply);
        base::replaceFile(folder_ / "binary.ply", raw);
        auto c = campaign::Campaign::create(folder_ / "ball.cvane", folder_ / "text.stl", "m");
        c.settings.grid.cellBudget = 3000;
        c.settings.grid.curvatureLevels = 0;
        c.save();
        const auto grid = campaign::makeGrid(c, {});
        const auto geometry = grid::geometryOf(*grid);
        readout::WallField wall;
        for (const auto& p : grid->patches)
            if (p.kind == grid::PatchKind::Wall)
                for (auto f = p.first; f < p.first + p.count; ++f) {
                    wall.face.push_back(f);
                    wall.Cp.push_back(0.25);
                    wall.Cf.push_back(Vec3(0.003, 0.0, 0.0));
                    wall.yPlus.push_back(30.0);
                }
        const auto p = campaign::pointsOf(c.settings).front();
        run_ = campaign::newRunFolder(c, p);
        readout::writeWallField(wall, geometry, run_ / "wall.csv");
        campaign::RunOrder order;
        order.grid = campaign::gridFile(c);
        order.point = p;
        campaign::writeOrder(order, run_);
        readout::Result result;
        result.verdict = flow::Verdict::Settled;
        base::replaceJson(run_ / "result.json", readout::toJson(result));
        flow::Checkpoint checkpoint;
        checkpoint.cellData.assign(700, 1.5);
        checkpoint.flux.assign(400, 0.5);
        checkpoint.history.resize(30);
        flow::writeCheckpoint(checkpoint, run_ / "checkpoint.bin");
        const auto surface = [](const fs::path& f) { return dumpOf(shape::readSurface(f, 1.0)); };
        const auto json = [](const fs::path& f) { return base::readCheckedJson(f, 2).dump(); };
        targets_ = {
            {"campaign", (c.folder() / "campaign.json").string(), false,
             [](const fs::path& f) {
                 return campaign::toJson(campaign::settingsFromJson(base::readJson(f), "campaign.json")).dump();
             }},
            {"stl-text", (folder_ / "text.stl").string(), false, surface},
            {"stl-binary", (folder_ / "binary.stl").string(), false, surface},
            {"obj", (folder_ / "ball.obj").string(), false, surface},
            {"ply-text", (folder_ / "text.ply").string(), false, surface},
            {"ply-binary", (folder_ / "binary.ply").string(), false, surface},
            {"grid", campaign::gridFile(c).string(), true,
             [](const fs::path& f) { return std::to_string(campaign::readGrid(f).cells()); }},
            {"wall", (run_ / "wall.csv").string(), true,
             [](const fs::path& f) {
                 const auto w = readout::readWallField(f);
                 double sum = 0.0;
                 for (std::size_t i = 0; i < w.face.size(); ++i) sum += w.Cp[i] + w.yPlus[i] + w.face[i];
                 return fmt::format("{} {}", w.face.size(), sum);
             }},
            {"checkpoint", (run_ / "checkpoint.bin").string(), true,
             [](const fs::path& f) { return flow::readCheckpoint(f) ? std::string("read") : std::string("none"); }},
            {"result", (run_ / "result.json").string(), true,
             [json](const fs::path& f) {
                 readout::resultFromJson(base::readCheckedJson(f, 2), "result.json");
                 return json(f);
             }},
            {"order", (run_ / "run.json").string(), true, [json](const fs::path& f) {
                 campaign::readOrder(f.parent_path());
                 return json(f);
             }}};
    }
    ~Shop() {
        std::error_code ec;
        fs::remove_all(folder_, ec);
    }
    Shop(const Shop&) = delete;
    Shop& operator=(const Shop&) = delete;
    const std::vector<Target>& targets() const { return targets_; }

  private:
    fs::path folder_, run_;
    std::vector<Target> targets_;
};

std::string damaged(std::string bytes, std::mt19937_64& random) {
    const auto at = [&](std::size_t n) { return static_cast<std::size_t>(random() % std::max<std::size_t>(1, n)); };
    const char* const odd[] = {"nan", "-1", "1e999", "4294967297",           "\xff\xfe",     "{",    "]",
                               "\"",  "0",  "-",     "99999999999999999999", "end_header\n", "null", ","};
    for (int changes = 1 + static_cast<int>(random() % 4); changes > 0 && !bytes.empty(); --changes)
        switch (random() % 8) {
            case 0:
                bytes[at(bytes.size())] ^= static_cast<char>(1 << (random() % 8));
                break;
            case 1:
                bytes[at(bytes.size())] = static_cast<char>(random());
                break;
            case 2:
                bytes.resize(at(bytes.size()));
                break;
            case 3: {  // a piece is gone
                const auto from = at(bytes.size());
                bytes.erase(from, at(std::min<std::size_t>(200, bytes.size() - from)));
                break;
            }
            case 4: {  // a piece comes twice
                const auto from = at(bytes.size());
                bytes.insert(at(bytes.size()), bytes.substr(from, at(200)));
                break;
            }
            case 5:
                bytes.insert(at(bytes.size()), odd[random() % std::size(odd)]);
                break;
            case 6: {  // a number becomes another
                const auto digit = bytes.find_first_of("0123456789", at(bytes.size()));
                if (digit != std::string::npos) bytes[digit] = static_cast<char>('0' + random() % 10);
                break;
            }
            default: {  // a word or number becomes an odd one
                const auto from = bytes.find_first_of("0123456789\"", at(bytes.size()));
                if (from != std::string::npos) bytes.replace(from, 1 + at(8), odd[random() % std::size(odd)]);
            }
        }
    return bytes;
}

// Exit code of the reading: 0 accepted as before, 2 refused, 3 accepted with another content, 4 another exception.
int readInChild(const Target& t, const std::string& good) {
    const pid_t pid = ::fork();
    if (pid == 0) {
        const rlimit memory{kMostMemory, kMostMemory}, seconds{kMostSeconds, kMostSeconds}, none{0, 0};
        ::setrlimit(RLIMIT_AS, &memory);
        ::setrlimit(RLIMIT_CPU, &seconds);
        ::setrlimit(RLIMIT_CORE, &none);
        const int null = ::open("/dev/null", O_WRONLY);
        ::dup2(null, 1);
        ::dup2(null, 2);
        int code = kBroken;
        try {
            code = t.read(t.file) == good ? 0 : kOther;
        } catch (const base::InputError&) {
            code = kRefused;
        } catch (const std::exception&) {
        }
        ::_exit(code);
    }
    int status = 0;
    const auto began = Clock::now();
    while (::waitpid(pid, &status, WNOHANG) == 0) {
        if (Clock::now() - began > std::chrono::seconds(4 * kMostSeconds)) ::kill(pid, SIGKILL);
        ::usleep(50);
    }
    return WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
}

int fuzz(const Target& t, double seconds, std::uint64_t seed) {
    const std::string good = base::readFile(t.file), meaning = t.read(t.file);
    std::mt19937_64 random(seed);
    long tried = 0, refused = 0, same = 0, other = 0, bad = 0;
    const auto began = Clock::now();
    while (std::chrono::duration<double>(Clock::now() - began).count() < seconds) {
        const auto bytes = damaged(good, random);
        std::ofstream(t.file, std::ios::binary) << bytes;
        const int code = readInChild(t, meaning);
        ++tried;
        refused += code == kRefused;
        same += code == 0;
        other += code == kOther;
        if (code >= kBroken || (code == kOther && t.hasChecksum)) {
            ++bad;
            const auto kept = fs::current_path() / fmt::format("fuzz-{}-{}-{}", t.name, seed, tried);
            std::ofstream(kept, std::ios::binary) << bytes;
            fmt::print("{}: {} after {} files; kept as {}\n", t.name,
                       code == kOther    ? "accepted though damaged"
                       : code == kBroken ? "an exception of another kind"
                                         : fmt::format("signal {}", code - 128),
                       tried, kept.filename().string());
        }
    }
    std::ofstream(t.file, std::ios::binary) << good;
    fmt::print("{:<12} {:>8} files: {} refused, {} read as before, {} as another good file, {} failures\n", t.name,
               tried, refused, same, other, bad);
    std::fflush(stdout);
    return bad > 0 ? 1 : 0;
}
}  // namespace

int main(int argc, char** argv) {
    if (argc < 3) {
        fmt::print(stderr, "Usage: fuzz_bench READER|all SECONDS [SEED]\n");
        return 2;
    }
    const Shop shop;
    int code = 0;
    bool known = false;
    for (const auto& t : shop.targets())
        if (std::string(argv[1]) == "all" || t.name == argv[1]) {
            known = true;
            code |= fuzz(t, std::stod(argv[2]), argc > 3 ? std::stoull(argv[3]) : 1);
        }
    if (!known) {
        fmt::print(stderr, "There is no reader \"{}\".\n", argv[1]);
        return 2;
    }
    return code;
}
