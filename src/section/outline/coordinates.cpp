#include "section/outline/coordinates.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <optional>
#include <string_view>

#include "base/errors.h"
#include "base/files.h"
#include "base/text.h"
#include "section/outline/edit.h"
#include "section/outline/families.h"

namespace cvane::section {
namespace {
constexpr std::size_t kMostPoints = 5000, kLeastPoints = 7;

struct Line {
    int number = 0;
    std::vector<double> values;
    bool words = false, blank = true;
};

std::optional<double> numberFrom(std::string word, bool decimalComma) {
    if (decimalComma) std::replace(word.begin(), word.end(), ',', '.');
    if (!word.empty() && word[0] == '+') word.erase(0, 1);
    double v = 0.0;
    const auto [end, error] = std::from_chars(word.data(), word.data() + word.size(), v);
    if (error != std::errc() || end != word.data() + word.size()) return {};
    return v;
}

std::vector<Line> linesOf(const std::string& text, const std::string& name) {
    // A comma within a word of a line that has other separators is a decimal one.
    const bool semicolons = text.find(';') != std::string::npos;
    std::vector<Line> out;
    Line line;
    line.number = 1;
    std::string word;
    const auto endWord = [&] {
        if (word.empty()) return;
        line.blank = false;
        if (const auto v = numberFrom(word, semicolons)) {
            if (!std::isfinite(*v))
                throw base::InputError(fmt::format("line {} holds a number that is not finite.", line.number), name,
                                       "Correct or delete the line.");
            line.values.push_back(*v);
        } else {
            line.words = true;
        }
        word.clear();
    };
    for (const char c : text) {
        if (c == '\n') {
            endWord();
            out.push_back(line);
            line = {line.number + 1, {}, false, true};
        } else if (c == '\r' || c == ' ' || c == '\t' || c == ';' || (c == ',' && !semicolons)) {
            endWord();
        } else {
            word += c;
            if (word.size() > 400) throw base::InputError("is not a text of points.", name, "Give two numbers a line.");
        }
    }
    endWord();
    out.push_back(line);
    return out;
}

// Lines end as on any system.
std::string withLineFeeds(const std::string& text) {
    std::string out;
    out.reserve(text.size());
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (text[i] != '\r')
            out += text[i];
        else if (i + 1 == text.size() || text[i + 1] != '\n')
            out += '\n';
    }
    return out;
}

/// Where a remark begins in a line; npos: nowhere.
std::size_t remarkIn(std::string_view line) {
    return std::min(line.find_first_of("#!%"), line.find("//"));
}

// Without remarks; lines stay lines.
std::string withoutRemarks(const std::string& text) {
    std::string out;
    for (std::size_t from = 0; from < text.size();) {
        const std::size_t end = std::min(text.find('\n', from), text.size());
        const std::string_view line(text.data() + from, end - from);
        out += line.substr(0, remarkIn(line));
        if (end < text.size()) out += '\n';
        from = end + 1;
    }
    return out;
}

double areaOf(const std::vector<Vec2>& p) {
    double a = 0.0;
    for (std::size_t i = 0; i < p.size(); ++i) {
        const Vec2 &u = p[i], &v = p[(i + 1) % p.size()];
        a += 0.5 * (u.x() * v.y() - v.x() * u.y());
    }
    return a;
}

void dropDoubled(std::vector<Vec2>& p, double size) {
    std::vector<Vec2> out;
    for (const Vec2& q : p)
        if (out.empty() || (q - out.back()).norm() > 1e-7 * size) out.push_back(q);
    p = out;
}

/// Splits into two lists where x falls back from the tail to the nose by a jump.
std::optional<std::size_t> secondList(const std::vector<Vec2>& p, double low, double high) {
    const double size = high - low;
    for (std::size_t i = 1; i < p.size(); ++i)
        if (p[i - 1].x() > low + 0.8 * size && p[i].x() < low + 0.2 * size) return i;
    return {};
}

}  // namespace

Contour readCoordinates(const std::string& bytes, const std::string& name) {
    const std::string text = withLineFeeds(bytes);
    if (text.find_first_not_of(" \t\r\n") == std::string::npos)
        throw base::InputError("is empty.", name, "Give two numbers a line, from the trailing edge round the nose.");
    std::vector<Vec2> points;
    std::vector<std::size_t> breaks;
    std::string title;
    const auto lines = linesOf(withoutRemarks(text), name);
    std::size_t begin = 0;
    for (const Line& l : lines) {
        std::size_t end = text.find('\n', begin);
        if (end == std::string::npos) end = text.size();
        const std::string raw = text.substr(begin, end - begin);
        begin = end + 1;
        if (l.blank) {
            // A remark on top is as good as a title.
            const auto said = raw.find_first_not_of("#!%/ \t");
            if (points.empty() && title.empty() && said != std::string::npos) title = base::printable(raw.substr(said));
            if (!points.empty() && remarkIn(raw) == std::string::npos) breaks.push_back(points.size());
            continue;
        }
        if (l.words || (points.empty() && l.values.size() == 1)) {
            if (!points.empty())
                throw base::InputError(fmt::format("line {} is not two numbers.", l.number), name,
                                       "Give two numbers a line.");
            if (title.empty() && l.words) title = base::printable(raw);
            continue;
        }
        if (l.values.size() != 2)
            throw base::InputError(fmt::format("line {} has {} number{}, not two.", l.number, l.values.size(),
                                               l.values.size() == 1 ? "" : "s"),
                                   name, "Give two numbers a line, x and z.");
        points.push_back({l.values[0], l.values[1]});
        if (points.size() > kMostPoints)
            throw base::InputError(fmt::format("has more than {} points.", kMostPoints), name, "Thin them out.");
    }
    // A first line of two whole numbers that count the rest.
    if (points.size() > 3) {
        const double a = points[0].x(), b = points[0].y();
        if (a == std::floor(a) && b == std::floor(b) && a > 2.0 && b > 2.0 &&
            std::abs(a + b - static_cast<double>(points.size() - 1)) < 2.5)
            points.erase(points.begin());
    }
    if (points.size() < kLeastPoints)
        throw base::InputError(points.empty() ? "holds no points." : fmt::format("has {} points.", points.size()), name,
                               fmt::format("Give at least {}, two numbers a line.", kLeastPoints));
    double low = 1e300, high = -1e300, bottom = 1e300, top = -1e300;
    for (const Vec2& p : points) {
        low = std::min(low, p.x()), high = std::max(high, p.x());
        bottom = std::min(bottom, p.y()), top = std::max(top, p.y());
    }
    double size = high - low;
    if (!(size > 0.0) || !(size > 0.5 * (top - bottom)))
        throw base::InputError(size > 0.0 ? "is taller than long." : "has a chord of no length.", name,
                               "Give x along the chord first, z across it second.");
    if (std::abs(size - 100.0) < 3.0) {  // per cent
        for (Vec2& p : points) p *= 0.01;
        low *= 0.01, size *= 0.01;
    }
    dropDoubled(points, size);
    const bool fromNose = points.front().x() < low + 0.3 * size;
    const auto second = secondList(points, low, low + size);
    Contour out{title.empty() ? name : title, {}};
    while (!out.name.empty() && out.name.back() == ' ') out.name.pop_back();
    if (fromNose && second) {
        std::vector<Vec2> a(points.begin(), points.begin() + static_cast<std::ptrdiff_t>(*second)),
            b(points.begin() + static_cast<std::ptrdiff_t>(*second), points.end());
        double ma = 0.0, mb = 0.0;
        for (const Vec2& p : a) ma += p.y() / static_cast<double>(a.size());
        for (const Vec2& p : b) mb += p.y() / static_cast<double>(b.size());
        if (a.size() < 3 || b.size() < 3)
            throw base::InputError("has a side of fewer than three points.", name, "Give both sides.");
        out = fromSides(out.name, ma > mb ? a : b, ma > mb ? b : a);
    } else {
        if (fromNose) {  // round from the nose: begin at the tail
            const auto tail = std::max_element(points.begin(), points.end(),
                                               [](const Vec2& a, const Vec2& b) { return a.x() < b.x(); });
            std::rotate(points.begin(), tail, points.end());
            if ((points.front() - points.back()).norm() > 0.05 * size) points.push_back(points.front());
            dropDoubled(points, size);
        }
        const double area = areaOf(points);
        if (std::abs(area) < 1e-4 * size * size)
            throw base::InputError("encloses no area.", name, "Give both sides of the section.");
        if (area < 0.0) std::reverse(points.begin(), points.end());
        out.points = points;
    }
    dropDoubled(out.points, size);
    if ((out.points.front() - out.points.back()).norm() > 0.3 * size)
        throw base::InputError("has only one side.", name, "Give the upper and the lower side.");
    return onUnitChord(out);
}

Contour readCoordinateFile(const std::filesystem::path& path) {
    return readCoordinates(base::readFile(path), path.filename().string());
}

std::string writeCoordinates(const Contour& contour, PointOrder order) {
    std::string out = contour.name + "\n";
    const auto line = [&](const Vec2& p) { out += fmt::format("{:10.6f} {:10.6f}\n", p.x() + 0.0, p.y() + 0.0); };
    if (order == PointOrder::Loop) {
        for (const Vec2& p : contour.points) line(p);
        return out;
    }
    const TwoSides sides = sidesOf(contour);
    for (const Vec2& p : sides.upper) line(p);
    out += "\n";
    for (const Vec2& p : sides.lower) line(p);
    return out;
}

Contour sectionFrom(const std::string& fileOrCode) {
    std::error_code ignored;
    if (std::filesystem::is_regular_file(fileOrCode, ignored)) return readCoordinateFile(fileOrCode);
    if (looksLikeCode(fileOrCode)) return sectionFromCode(fileOrCode);
    if (const auto mix = mixFrom(fileOrCode))
        return between(sectionFrom(mix->first), sectionFrom(mix->second), mix->share);
    if (fileOrCode.find('.') != std::string::npos || fileOrCode.find('/') != std::string::npos)
        return readCoordinateFile(fileOrCode);
    return sectionFromCode(fileOrCode);
}

}  // namespace cvane::section
