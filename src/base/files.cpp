#include "base/files.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>
#include <zlib.h>

#include <cerrno>
#include <cstring>
#include <fstream>
#include <sstream>
#include <vector>

#include "base/errors.h"
#include "base/text.h"

namespace cvane::base {

namespace fs = std::filesystem;

namespace {
// To open a pipe or a device without anybody at its other end would wait for ever.
std::ifstream opened(const fs::path& path) {
    std::error_code ec;
    const auto status = fs::status(path, ec);
    if (!fs::exists(status)) throw InputError("no such file.", path.string(), "Check the name and the folder.");
    if (fs::is_directory(status)) throw InputError("is a folder, not a file.", path.string(), "Choose a file.");
    if (!fs::is_regular_file(status))
        throw InputError("is a pipe or a device, not a file.", path.string(), "Choose a file, or copy it into one.");
    std::ifstream in(path, std::ios::binary);
    if (!in) throw InputError("cannot be opened for reading.", path.string(), "Check its permissions.");
    return in;
}
}  // namespace

std::string readFile(const fs::path& path) {
    auto in = opened(path);
    std::ostringstream text;
    text << in.rdbuf();
    if (in.bad()) throw InputError("could not be read to its end.", path.string(), "Check the disk.");
    return std::move(text).str();
}

namespace {

[[noreturn]] void throwWriteError(const fs::path& path, int error) {
    const char* todo = error == ENOSPC                     ? "Free some space and try again; nothing was lost."
                       : error == EACCES || error == EROFS ? "Choose a folder that you may write to."
                                                           : "Check the folder and the disk; nothing was lost.";
    throw InputError(fmt::format("cannot be written ({}).", std::strerror(error)), path.string(), todo);
}

// Closes the file when it fails.
void writeAll(int fd, std::string_view content, const fs::path& path) {
    std::size_t done = 0;
    while (done < content.size()) {
        const ssize_t n = ::write(fd, content.data() + done, content.size() - done);
        if (n < 0) {
            if (errno == EINTR) continue;
            const int error = errno;
            ::close(fd);
            throwWriteError(path, error);
        }
        done += static_cast<std::size_t>(n);
    }
}

fs::path besides(const fs::path& path) {
    return path.parent_path() / fmt::format(".{}.{}.part", path.filename().string(), ::getpid());
}

void flushToDisk(const fs::path& path) {
    const int fd = ::open(path.c_str(), O_RDONLY);
    if (fd < 0) throwWriteError(path, errno);
    const int rc = ::fsync(fd);
    const int error = errno;
    ::close(fd);
    if (rc != 0) throwWriteError(path, error);
}

}  // namespace

void replaceFile(const fs::path& path, std::string_view content) {
    replaceFile(path, [&](const fs::path& temporary) {
        const int fd = ::open(temporary.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0644);
        if (fd < 0) throwWriteError(path, errno);
        writeAll(fd, content, path);
        if (::close(fd) != 0) throwWriteError(path, errno);
    });
}

void replaceFile(const fs::path& path, const std::function<void(const fs::path&)>& write) {
    const fs::path temporary = besides(path);
    std::error_code ec;
    try {
        write(temporary);
        flushToDisk(temporary);
        fs::rename(temporary, path, ec);
        if (ec) throwWriteError(path, ec.value());
    } catch (...) {
        fs::remove(temporary, ec);
        throw;
    }
}

void exportFile(const fs::path& path, std::string_view content) {
    std::error_code ec;
    const auto status = fs::symlink_status(path, ec);
    if (!fs::exists(status) || fs::is_regular_file(status)) {
        replaceFile(path, content);
        return;
    }
    if (fs::is_directory(fs::status(path, ec)))
        throw InputError("is a folder, not a file.", path.string(), "Name a file in it.");
    const int fd = ::open(path.c_str(), O_WRONLY | O_TRUNC | O_CREAT | O_CLOEXEC, 0644);
    if (fd < 0) throwWriteError(path, errno);
    writeAll(fd, content, path);
    if (::close(fd) != 0) throwWriteError(path, errno);
}

nlohmann::json readJson(const fs::path& path) {
    const std::string text = readFile(path);
    if (!isUtf8(text))
        throw InputError("holds bytes that are no text in UTF-8.", path.string(),
                         "Restore it from a copy, or save it as UTF-8.");
    try {
        return nlohmann::json::parse(text);
    } catch (const nlohmann::json::out_of_range&) {
        throw InputError("holds a number that is too large.", path.string(),
                         "Correct it, or restore the file from a copy.");
    } catch (const nlohmann::json::parse_error& e) {
        const auto end = text.begin() + static_cast<std::ptrdiff_t>(std::min(e.byte, text.size()));
        const auto line = 1 + std::count(text.begin(), end, '\n');
        throw InputError(fmt::format("is damaged at line {}: it is not valid JSON.", line), path.string(),
                         "Restore it from a copy, or correct that line.");
    }
}

namespace {
std::string sumOf(const nlohmann::json& value) {
    return fmt::format("{:08x}", checksum(value.dump()));
}
fs::path sumFile(const fs::path& path) {
    return path.string() + ".sum";
}
}  // namespace

void replaceJson(const fs::path& path, nlohmann::json value) {
    value.erase("checksum");
    const auto sum = sumOf(value);
    value["checksum"] = sum;
    replaceFile(path, value.dump(2) + "\n");
}

nlohmann::json readCheckedJson(const fs::path& path, int since) {
    auto value = readJson(path);
    const auto fail = [&] {
        throw InputError("is damaged (its checksum does not fit).", path.string(),
                         "Restore it from a copy, or run the point again.");
    };
    if (!value.is_object()) fail();
    const auto sum = value.find("checksum");
    if (sum == value.end()) {
        const auto schema = value.find("schema");
        if (schema == value.end() || !schema->is_number_integer() || schema->get<double>() >= since) fail();
        return value;
    }
    const nlohmann::json noted = *sum;
    value.erase("checksum");
    if (noted != sumOf(value)) fail();
    return value;
}

std::string sumOfFile(const fs::path& path) {
    auto in = opened(path);
    std::vector<char> piece(std::size_t{1} << 22);
    std::uint32_t crc = 0;
    while (in) {
        in.read(piece.data(), static_cast<std::streamsize>(piece.size()));
        crc = checksum({piece.data(), static_cast<std::size_t>(in.gcount())}, crc);
    }
    if (in.bad()) throw InputError("could not be read to its end.", path.string(), "Check the disk.");
    return fmt::format("{:08x}", crc);
}

void noteSum(const fs::path& path) {
    replaceFile(sumFile(path), sumOfFile(path) + "\n");
}

void checkSum(const fs::path& path, const std::string& whatToDo) {
    std::error_code ec;
    if (!fs::exists(sumFile(path), ec)) return;
    if (readFile(sumFile(path)) != sumOfFile(path) + "\n")
        throw InputError("is damaged (its checksum does not fit).", path.string(), whatToDo);
}

std::uint32_t joinedChecksum(std::uint32_t first, std::uint32_t second, std::uint64_t bytes) {
    return static_cast<std::uint32_t>(crc32_combine(first, second, static_cast<z_off_t>(bytes)));
}

std::uint32_t checksum(std::string_view bytes, std::uint32_t before) {
    uLong crc = before;
    // zlib counts in 32 bits; larger blocks go in pieces.
    while (!bytes.empty()) {
        const auto n = std::min<std::size_t>(bytes.size(), 1u << 30);
        crc = crc32(crc, reinterpret_cast<const Bytef*>(bytes.data()), static_cast<uInt>(n));
        bytes.remove_prefix(n);
    }
    return static_cast<std::uint32_t>(crc);
}

std::string settingsKey(std::string_view text) {
    std::uint64_t h = 14695981039346656037ull;
    for (const unsigned char c : text) h = (h ^ c) * 1099511628211ull;
    return fmt::format("{:016x}", h);
}

}  // namespace cvane::base
