#pragma once
#include <filesystem>
#include <string>
#include <variant>
#include <vector>

namespace cvane::report {

/// A cell of a sheet: words, a number, or nothing.
using Cell = std::variant<std::monostate, std::string, double>;

/// A chart of a sheet's own columns, beside them.
struct Chart {
    std::string title;
    std::size_t x = 0, y = 1;  ///< columns
    struct Line {
        std::string name;
        std::size_t first = 1, last = 1;  ///< rows, the head being 0
    };
    std::vector<Line> lines;
};

/// One sheet of a workbook; its first row is the head.
struct Sheet {
    std::string name;
    std::vector<std::vector<Cell>> rows;
    std::vector<Chart> charts = {};
};

/// Rows of a comma-separated text: numbers as numbers, the rest as words, and so are the first columns that are named
/// words (a name may look like a number).
std::vector<std::vector<Cell>> cellsOf(const std::string& csv, std::size_t wordColumns = 0);

/// The rows parted by tabs, as spreadsheets take them from the clipboard.
std::string tabbed(const std::vector<std::vector<Cell>>& rows);

/// Writes sheets to an XLSX file (Office Open XML): heads bold and kept in sight, columns as wide as what they hold.
/// Sheets' names are made fit (31 letters, none twice). Replaces the file in one step.
/// Throws InputError: it cannot be written.
void writeWorkbook(const std::filesystem::path& file, const std::vector<Sheet>& sheets);

}  // namespace cvane::report
