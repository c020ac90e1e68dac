#include "campaign/store/outside_data.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <sstream>

#include "base/errors.h"
#include "base/files.h"
#include "base/text.h"
#include "base/units.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

namespace {
constexpr std::size_t kLargest = 20u << 20;  ///< bytes; a table of this size is no polar

std::string small(std::string s) {
    std::transform(s.begin(), s.end(), s.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return s;
}

std::string trimmed(const std::string& s) {
    const auto first = s.find_first_not_of(" \t\"'"), last = s.find_last_not_of(" \t\"'\r");
    return first == std::string::npos ? std::string() : s.substr(first, last - first + 1);
}

std::vector<std::string> wordsOf(const std::string& line) {
    // Semicolons and tabs part what holds commas; blanks part only where nothing else does.
    char by = ' ';
    for (const char c : {';', '\t', ','})
        if (line.find(c) != std::string::npos) {
            by = c;
            break;
        }
    std::vector<std::string> out;
    if (by == ' ') {
        std::istringstream words(line);
        for (std::string w; words >> w;) out.push_back(trimmed(w));
        return out;
    }
    std::istringstream words(line);
    for (std::string w; std::getline(words, w, by);) out.push_back(trimmed(w));
    return out;
}

bool isNumber(const std::string& word, double& value) {
    if (word.empty()) return false;
    char* end = nullptr;
    value = std::strtod(word.c_str(), &end);
    return *end == '\0' && std::isfinite(value);
}

// "CL", "alpha [deg]", "alpha (deg)", "alpha_deg".
void nameColumn(OutsideData::Column& c, const std::string& head) {
    c.name = head;
    for (const auto& [open, close] : {std::pair{'[', ']'}, {'(', ')'}}) {
        const auto from = head.find(open), to = head.rfind(close);
        if (from == std::string::npos || to == std::string::npos || to < from) continue;
        c.name = trimmed(head.substr(0, from));
        c.unit = trimmed(head.substr(from + 1, to - from - 1));
        return;
    }
    for (const char* unit : {"_deg", "_rad", "_m_s", "_m", "_N"})
        if (head.size() > std::string(unit).size() && head.ends_with(unit)) {
            c.name = head.substr(0, head.size() - std::string(unit).size());
            c.unit = std::string(unit) == "_m_s" ? "m/s" : std::string(unit).substr(1);
            return;
        }
}
}  // namespace

std::vector<double> OutsideData::Column::in(const std::string& wanted) const {
    double by = 1.0;
    if (unit == "rad" && wanted == "deg") by = 1.0 / base::degree;
    if (unit == "deg" && wanted == "rad") by = base::degree;
    for (const auto& units : {base::speedUnits(), base::forceUnits(), base::lengthUnits(), base::areaUnits()}) {
        const auto known = [&](const std::string& symbol) {
            return std::any_of(units.begin(), units.end(), [&](const auto& u) { return u.symbol == symbol; });
        };
        if (known(unit) && known(wanted)) by = base::unitNamed(units, unit).inSI / base::unitNamed(units, wanted).inSI;
    }
    auto out = values;
    for (double& v : out) v *= by;
    return out;
}

int OutsideData::columnOf(const std::vector<std::string>& names) const {
    for (const auto& n : names)
        for (std::size_t i = 0; i < columns.size(); ++i)
            if (small(columns[i].name) == small(n)) return static_cast<int>(i);
    return -1;
}

OutsideData readOutsideData(const fs::path& file) {
    const auto text = base::readFile(file);
    const auto where = file.filename().string();
    if (text.size() > kLargest)
        throw base::InputError("is too large for a table of results.", where, "Give one of at most 20 MB.");
    OutsideData out;
    out.name = file.stem().string();
    std::istringstream lines(text);
    std::vector<std::string> head;
    int number = 0;
    for (std::string line; std::getline(lines, line);) {
        ++number;
        const auto plain = trimmed(line);
        if (plain.empty() || plain[0] == '#') continue;
        const auto words = wordsOf(plain);
        std::vector<double> row(words.size());
        const bool allNumbers = std::all_of(words.begin(), words.end(), [&, k = std::size_t{0}](const auto& w) mutable {
            return isNumber(w, row[k++]);
        });
        if (!allNumbers) {
            if (!out.columns.empty())
                throw base::InputError(fmt::format("line {} holds words where numbers are due: \"{}\".", number,
                                                   base::printable(plain.substr(0, 40))),
                                       where, "Take the line out, or begin it with #.");
            head = words;  // the last line of words before the numbers
            continue;
        }
        if (out.columns.empty()) out.columns.resize(row.size());
        if (row.size() != out.columns.size())
            throw base::InputError(fmt::format("line {} has {} numbers, the lines before have {}.", number, row.size(),
                                               out.columns.size()),
                                   where, "Give the same number in every line.");
        for (std::size_t k = 0; k < row.size(); ++k) out.columns[k].values.push_back(row[k]);
    }
    if (out.columns.size() < 2)
        throw base::InputError("holds no rows of two or more numbers.", where,
                               "Give a table with a column for each axis.");
    if (head.size() == out.columns.size())
        for (std::size_t k = 0; k < head.size(); ++k) nameColumn(out.columns[k], base::printable(head[k]));
    return out;
}

fs::path keepOutsideData(const fs::path& campaign, const fs::path& file) {
    readOutsideData(file);
    const auto text = base::readFile(file);
    const auto folder = campaign / "outside";
    std::error_code ec;
    fs::create_directories(folder, ec);
    for (int n = 1;; ++n) {
        const auto name = n == 1 ? file.stem().string() + ".csv" : fmt::format("{}-{}.csv", file.stem().string(), n);
        auto target = folder / name;
        if (!fs::exists(target)) {
            base::replaceFile(target, text);
            return target;
        }
        if (base::readFile(target) == text) return target;
    }
}

std::vector<fs::path> outsideDataOf(const fs::path& campaign) {
    std::vector<fs::path> out;
    std::error_code ec;
    for (const auto& entry : fs::directory_iterator(campaign / "outside", ec))
        if (entry.path().extension() == ".csv") out.push_back(entry.path());
    std::sort(out.begin(), out.end());
    return out;
}

}  // namespace cvane::campaign
