#include "report/workbook.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>
#include <xlsxwriter.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <set>
#include <utility>

#include "base/errors.h"

namespace cvane::report {
namespace fs = std::filesystem;

namespace {

/// A name that a sheet may have.
std::string sheetName(std::string name, std::set<std::string>& taken) {
    constexpr std::size_t kLongest = 31;  // of the file format
    for (char& c : name)
        if (std::string("[]:*?/\\'").find(c) != std::string::npos) c = '-';
    if (name.empty()) name = "Sheet";
    std::string out = name.substr(0, kLongest);
    const auto key = [](std::string s) {
        std::transform(s.begin(), s.end(), s.begin(), [](unsigned char c) { return std::tolower(c); });
        return s;
    };
    for (int k = 2; taken.contains(key(out)); ++k) {
        const std::string end = fmt::format(" {}", k);
        out = name.substr(0, kLongest - end.size()) + end;
    }
    taken.insert(key(out));
    return out;
}

std::string headOf(const Sheet& s, std::size_t column) {
    const auto* words =
        s.rows.empty() || column >= s.rows[0].size() ? nullptr : std::get_if<std::string>(&s.rows[0][column]);
    return words ? *words : std::string();
}

// Below each other, to the right of the columns.
void addChart(lxw_workbook& book, lxw_worksheet& sheet, const std::string& name, const Sheet& s, std::size_t number) {
    constexpr std::size_t kRowsOfAChart = 22;
    const Chart& c = s.charts[number];
    lxw_chart* chart = workbook_add_chart(&book, LXW_CHART_SCATTER_STRAIGHT_WITH_MARKERS);
    if (!chart) return;
    for (const auto& line : c.lines) {
        lxw_chart_series* series = chart_add_series(chart, nullptr, nullptr);
        if (!series) continue;
        const auto range = [&](std::size_t column, const auto& set) {
            set(series, name.c_str(), static_cast<lxw_row_t>(line.first), static_cast<lxw_col_t>(column),
                static_cast<lxw_row_t>(line.last), static_cast<lxw_col_t>(column));
        };
        range(c.x, chart_series_set_categories);
        range(c.y, chart_series_set_values);
        chart_series_set_name(series, line.name.c_str());
    }
    chart_title_set_name(chart, c.title.c_str());
    chart_axis_set_name(chart->x_axis, headOf(s, c.x).c_str());
    chart_axis_set_name(chart->y_axis, headOf(s, c.y).c_str());
    worksheet_insert_chart(&sheet, static_cast<lxw_row_t>(1 + number * kRowsOfAChart),
                           static_cast<lxw_col_t>(s.rows.empty() ? 1 : s.rows[0].size() + 1), chart);
}

}  // namespace

std::vector<std::vector<Cell>> cellsOf(const std::string& csv, std::size_t wordColumns) {
    std::vector<std::vector<Cell>> out;
    std::vector<Cell> row;
    const auto cell = [&](const std::string& word) -> Cell {
        if (word.empty()) return {};
        if (row.size() < wordColumns) return word;
        double v = 0.0;
        const auto [end, error] = std::from_chars(word.data(), word.data() + word.size(), v);
        if (error == std::errc() && end == word.data() + word.size() && std::isfinite(v)) return v;
        return word;
    };
    std::string word;
    bool quoted = false;
    for (std::size_t i = 0; i < csv.size(); ++i) {
        const char c = csv[i];
        if (quoted && c == '"' && i + 1 < csv.size() && csv[i + 1] == '"') {
            word += csv[++i];
        } else if (c == '"') {
            quoted = !quoted;
        } else if (!quoted && (c == ',' || c == '\n')) {
            row.push_back(cell(word));
            word.clear();
            if (c == '\n') out.push_back(std::exchange(row, {}));
        } else if (c != '\r') {
            word += c;
        }
    }
    if (!word.empty() || !row.empty()) {
        row.push_back(cell(word));
        out.push_back(row);
    }
    return out;
}

std::string tabbed(const std::vector<std::vector<Cell>>& rows) {
    std::string out;
    for (const auto& row : rows) {
        for (std::size_t j = 0; j < row.size(); ++j) {
            if (j > 0) out += '\t';
            if (const auto* words = std::get_if<std::string>(&row[j])) out += *words;
            if (const auto* number = std::get_if<double>(&row[j])) out += fmt::format("{:.7g}", *number);
        }
        out += '\n';
    }
    return out;
}

namespace {
/// The library writes what goes wrong to the terminal, where it would stand before our own sentence.
class NoErrorsOnTerminal {
  public:
    NoErrorsOnTerminal() : kept_(::dup(STDERR_FILENO)) {
        if (const int null = ::open("/dev/null", O_WRONLY | O_CLOEXEC); null >= 0) {
            ::dup2(null, STDERR_FILENO);
            ::close(null);
        }
    }
    ~NoErrorsOnTerminal() {
        if (kept_ < 0) return;
        ::dup2(kept_, STDERR_FILENO);
        ::close(kept_);
    }
    NoErrorsOnTerminal(const NoErrorsOnTerminal&) = delete;
    NoErrorsOnTerminal& operator=(const NoErrorsOnTerminal&) = delete;

  private:
    int kept_;
};
}  // namespace

void writeWorkbook(const fs::path& file, const std::vector<Sheet>& sheets) {
    const auto refuse = [&] {
        throw base::InputError("cannot be written.", file.string(), "Choose another place, or free some space.");
    };
    const NoErrorsOnTerminal quiet;
    // Beside the file, so that the last step is a renaming.
    const fs::path fresh = file.string() + ".part";
    lxw_workbook* book = workbook_new(fresh.c_str());
    if (!book) refuse();
    lxw_doc_properties properties{};
    std::string author = "Crisp Vane", comments = "Made with Crisp Vane";
    properties.author = author.data();
    properties.comments = comments.data();
    workbook_set_properties(book, &properties);
    lxw_format* bold = workbook_add_format(book);
    format_set_bold(bold);
    std::set<std::string> taken;
    for (const Sheet& s : sheets) {
        const std::string name = sheetName(s.name, taken);
        lxw_worksheet* sheet = workbook_add_worksheet(book, name.c_str());
        if (!sheet) continue;
        std::vector<double> width;
        for (std::size_t i = 0; i < s.rows.size(); ++i)
            for (std::size_t j = 0; j < s.rows[i].size(); ++j) {
                const auto r = static_cast<lxw_row_t>(i);
                const auto c = static_cast<lxw_col_t>(j);
                width.resize(std::max(width.size(), j + 1), 6.0);
                if (const auto* words = std::get_if<std::string>(&s.rows[i][j])) {
                    worksheet_write_string(sheet, r, c, words->c_str(), i == 0 ? bold : nullptr);
                    width[j] = std::max(width[j], std::min(40.0, static_cast<double>(words->size()) + 1.0));
                } else if (const auto* number = std::get_if<double>(&s.rows[i][j])) {
                    worksheet_write_number(sheet, r, c, *number, nullptr);
                    width[j] = std::max(width[j], 10.0);
                }
            }
        for (std::size_t j = 0; j < width.size(); ++j)
            worksheet_set_column(sheet, static_cast<lxw_col_t>(j), static_cast<lxw_col_t>(j), width[j], nullptr);
        worksheet_freeze_panes(sheet, 1, 0);
        for (std::size_t k = 0; k < s.charts.size(); ++k) addChart(*book, *sheet, name, s, k);
    }
    std::error_code ec;
    if (workbook_close(book) != LXW_NO_ERROR) {
        fs::remove(fresh, ec);
        refuse();
    }
    fs::rename(fresh, file, ec);
    if (ec) {
        fs::remove(fresh, ec);
        refuse();
    }
}

}  // namespace cvane::report
