#pragma once
#include <cstdint>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <span>
#include <string>
#include <string_view>

namespace cvane::base {

/// Whole file as bytes. Throws InputError when it is missing or cannot be read.
std::string readFile(const std::filesystem::path& path);

/// Replaces a file in one step: writes beside it, flushes to the disk, renames. A reader, or a crash, sees the old
/// content or the new, never a half. Throws InputError (read-only folder, full disk), leaving the old file as it was.
void replaceFile(const std::filesystem::path& path, std::string_view content);

/// The same for content that a function writes to a path of its own (a library that opens files itself).
void replaceFile(const std::filesystem::path& path, const std::function<void(const std::filesystem::path&)>& write);

/// Writes a file that the user has named: in one step where it is a file or there is none, straight into it where it is
/// a device, a pipe or a link, which stays what it is. Throws InputError as above.
void exportFile(const std::filesystem::path& path, std::string_view content);

/// Parses JSON. Throws InputError naming the file, line and column.
nlohmann::json readJson(const std::filesystem::path& path);

/// Replaces a JSON file that carries its own checksum, in the field "checksum", so that a changed byte does not pass
/// for a value.
void replaceJson(const std::filesystem::path& path, nlohmann::json value);
/// Reads it back without that field. Throws InputError as readJson, and where the checksum does not fit or, from schema
/// `since` on, is missing.
nlohmann::json readCheckedJson(const std::filesystem::path& path, int since);

/// checksum() of a file's content as eight hexadecimal digits; read in pieces. Throws InputError as readFile.
std::string sumOfFile(const std::filesystem::path& path);

/// Notes a file's checksum beside it, in <name>.sum; for files that a library writes.
void noteSum(const std::filesystem::path& path);
/// Throws InputError where the noted checksum does not fit; without a note there is nothing to fit.
void checkSum(const std::filesystem::path& path, const std::string& whatToDo);

/// CRC-32 (ISO-HDLC), to notice damaged files.
/// @param before  that of what comes before, when taken in pieces
std::uint32_t checksum(std::string_view bytes, std::uint32_t before = 0);
/// Of two pieces one behind the other, from the sums of each. @param bytes  length of the second
std::uint32_t joinedChecksum(std::uint32_t first, std::uint32_t second, std::uint64_t bytes);

/// 64-bit FNV-1a as 16 hexadecimal digits: a key for settings, not a defence against forgery.
std::string settingsKey(std::string_view text);

}  // namespace cvane::base
