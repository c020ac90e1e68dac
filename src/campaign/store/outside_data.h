#pragma once
#include <filesystem>
#include <string>
#include <vector>

namespace cvane::campaign {

/// A table of numbers from elsewhere: measured or published.
struct OutsideData {
    struct Column {
        std::string name, unit;  ///< of the head, "alpha [deg]" or "alpha_deg"; empty where there is none
        std::vector<double> values;
        /// The values in another unit of the same kind (deg, or one of base/units.h); as they are where either is not
        /// known.
        std::vector<double> in(const std::string& wanted) const;
    };
    std::string name;  ///< of the file
    std::vector<Column> columns;
    /// The column of the first of these names, capital or small; -1: there is none.
    int columnOf(const std::vector<std::string>& names) const;
};

/// Reads rows of numbers that are parted by commas, semicolons, tabs or blanks, with or without a head; lines that
/// begin with # are skipped. Throws InputError: no file, no two columns, a row with words or of another length.
OutsideData readOutsideData(const std::filesystem::path& file);

/// Copies a table into the campaign, once it has been read, and tells where it is now. One of the same content is not
/// copied again. Throws InputError as above, and where it cannot be written.
std::filesystem::path keepOutsideData(const std::filesystem::path& campaign, const std::filesystem::path& file);

/// The tables that a campaign keeps, by name.
std::vector<std::filesystem::path> outsideDataOf(const std::filesystem::path& campaign);

}  // namespace cvane::campaign
