#include "command/film_file.h"

#include <fmt/format.h>

#include <chrono>
#include <thread>
#include <vector>

#include "base/child_process.h"
#include "base/errors.h"
#include "base/files.h"

namespace cvane::command {

std::filesystem::path numberedPicture(const std::filesystem::path& out, int number) {
    auto file = out;
    file.replace_filename(fmt::format("{}-{:03}.png", out.stem().string(), number));
    return file;
}

std::string joinPictures(const std::filesystem::path& out, double picturesASecond) {
    auto pattern = out;
    pattern.replace_filename(out.stem().string() + "-%03d.png");
    auto log = out;
    log.replace_extension(".log");
    const std::vector<std::string> order{"ffmpeg", "-y", "-loglevel", "error", "-framerate",
                                         fmt::format("{:g}", picturesASecond), "-start_number", "1", "-i",
                                         pattern.string(), "-pix_fmt", "yuv420p",
                                         // Sides must be even for this.
                                         "-vf", "pad=ceil(iw/2)*2:ceil(ih/2)*2", out.string()};
    std::error_code none;
    try {
        std::filesystem::remove(out, none);
        const auto id = base::startDetached(order, log, {});
        const auto started = base::processStart(id);
        while (base::isAlive(id, started)) std::this_thread::sleep_for(std::chrono::milliseconds(50));
    } catch (const base::InputError&) {
        std::filesystem::remove(log, none);
        return "ffmpeg cannot be started, so that the pictures were not joined: install it, or join them elsewhere";
    }
    std::error_code ec;
    if (std::filesystem::file_size(out, ec) > 0 && !ec) {
        std::filesystem::remove(log, ec);
        return {};
    }
    const auto said = std::filesystem::exists(log) ? base::readFile(log) : std::string();
    std::filesystem::remove(log, ec);
    return fmt::format("ffmpeg did not join the pictures{}", said.empty() ? "" : ": " + said.substr(0, 200));
}

}  // namespace cvane::command
