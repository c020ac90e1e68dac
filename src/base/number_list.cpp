#include "base/number_list.h"

#include <fmt/format.h>

#include <cmath>

#include "base/errors.h"
#include "base/text.h"

namespace cvane::base {
namespace {
constexpr std::size_t kMost = 2000;

double numberOf(const std::string& word, const std::string& where) {
    std::size_t used = 0;
    double v = 0.0;
    try {
        v = std::stod(word, &used);
    } catch (const std::exception&) {
        used = 0;
    }
    if (used == 0 || word.find_first_not_of(' ', used) != std::string::npos || !std::isfinite(v))
        throw InputError(fmt::format("\"{}\" is not a number.", printable(word)), where,
                         "Type numbers with commas, or first:last:step.");
    return v;
}

// One range, or one number, onto the end of a list.
void add(const std::string& word, const std::string& where, Step stepOf, std::vector<double>& out) {
    const auto a = word.find(':');
    if (a == std::string::npos) {
        out.push_back(numberOf(word, where));
        return;
    }
    const auto b = word.find(':', a + 1);
    if (b == std::string::npos && stepOf == Step::Asked)
        throw InputError(fmt::format("\"{}\" has no step.", printable(word)), where, "Type first:last:step.");
    const double from = numberOf(word.substr(0, a), where),
                 to = numberOf(word.substr(a + 1, b == std::string::npos ? b : b - a - 1), where),
                 step = b == std::string::npos ? 1.0 : numberOf(word.substr(b + 1), where);
    const double steps = (to - from) / step;
    if (!(steps >= 0.0))
        throw InputError(fmt::format("the step of \"{}\" does not lead from its first to its last.", printable(word)),
                         where, "Type first:last:step.");
    if (!(steps < static_cast<double>(kMost)))
        throw InputError(fmt::format("\"{}\" has more than {} numbers.", printable(word), kMost), where,
                         "Take a larger step.");
    for (int i = 0; i <= std::floor(steps + 1e-9); ++i) out.push_back(from + i * step);
}
}  // namespace

std::vector<double> numbersIn(const std::string& text, const std::string& where, Step step) {
    std::vector<double> out;
    std::string word;
    const auto take = [&] {
        if (word.find_first_not_of(' ') != std::string::npos) add(word, where, step, out);
        word.clear();
        if (out.size() > kMost)
            throw InputError(fmt::format("the list has more than {} numbers.", kMost), where, "Take fewer.");
    };
    for (const char c : text)
        if (c == ',' || c == ';' || (c == ' ' && !word.empty() && word.back() != ':'))
            take();
        else
            word += c;
    take();
    if (out.empty()) throw InputError("the list is empty.", where, "Type at least one number.");
    return out;
}

double numberIn(const std::string& text, const std::string& where) {
    const auto all = numbersIn(text, where);
    if (all.size() != 1)
        throw InputError(fmt::format("\"{}\" is not one number.", printable(text)), where,
                         "Type one, with a point before its decimals.");
    return all[0];
}

}  // namespace cvane::base
