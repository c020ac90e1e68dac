#include "readout/what_differs.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <vector>

namespace cvane::readout {
namespace {
constexpr int kBins = 60;
constexpr double kMost = 0.6;          ///< of the difference
constexpr double kLongest = 0.5;       ///< of the extent
constexpr double kShareOfAPart = 0.3;  ///< of the difference

// Shares a loading out over bins of one length.
void addTo(std::vector<double>& bins, double from, double width, const Carrying& c, double sign) {
    for (const auto& s : c.loading.strips) {
        const double force = sign * s.force().dot(c.way) / c.q, length = s.to - s.from;
        for (std::size_t i = 0; i < bins.size() && length > 0.0; ++i) {
            const double low = from + static_cast<double>(i) * width;
            const double common = std::min(s.to, low + width) - std::max(s.from, low);
            if (common > 0.0) bins[i] += force * common / length;
        }
    }
}

std::string inWords(const char* name, double difference, double reference, std::optional<double> band) {
    std::string out = fmt::format("{} {:+.4f}", name, difference);
    if (std::abs(reference) > 1e-12) out += fmt::format(" ({:+.1f} %)", 100.0 * difference / std::abs(reference));
    if (!band) return out + ", its band unknown";
    return out + fmt::format(" \u00b1 {:.2g}", *band);
}
}  // namespace

std::optional<Stretch> stretchOfDifference(const Carrying& reference, const Carrying& other) {
    if (reference.loading.strips.empty() || other.loading.strips.empty()) return std::nullopt;
    const double from = std::min(reference.loading.strips.front().from, other.loading.strips.front().from),
                 to = std::max(reference.loading.strips.back().to, other.loading.strips.back().to),
                 width = (to - from) / kBins;
    std::vector<double> bins(kBins, 0.0);
    addTo(bins, from, width, other, 1.0);
    addTo(bins, from, width, reference, -1.0);
    double total = 0.0;
    for (const double b : bins) total += b;
    if (total == 0.0) return std::nullopt;
    std::optional<Stretch> best;
    int fewest = static_cast<int>(kLongest * kBins) + 1;
    for (int i = 0; i < kBins; ++i) {
        double sum = 0.0;
        for (int j = i; j < std::min(kBins, i + fewest - 1); ++j) {
            sum += bins[static_cast<std::size_t>(j)] / total;
            if (sum < kMost) continue;
            fewest = j - i + 1;
            best = Stretch{from + i * width, from + (j + 1) * width};
            break;
        }
    }
    return best;
}

std::optional<std::string> partOfDifference(const Result& reference, const Result& other) {
    const double total = other.coefficients.CD - reference.coefficients.CD;
    if (total == 0.0) return std::nullopt;
    std::map<std::string, double> by;
    for (const auto& p : other.parts) by[p.name] += p.coefficients.CD / total;
    for (const auto& p : reference.parts) by[p.name] -= p.coefficients.CD / total;
    if (by.size() < 2) return std::nullopt;
    const auto most = std::max_element(by.begin(), by.end(), [](auto& a, auto& b) { return a.second < b.second; });
    return most->second < kShareOfAPart ? std::nullopt : std::optional(most->first);
}

std::string sentenceOfDifference(const std::string& otherName, const std::string& referenceName,
                                 const Result& reference, const Result& other, const std::optional<Stretch>& where) {
    const auto band = bandOfDifference(other, reference);
    const auto &a = reference.coefficients, &b = other.coefficients;
    std::string out = fmt::format("{} less {}: {}, {}", otherName, referenceName,
                                  inWords("CD", b.CD - a.CD, a.CD, band ? std::optional(band->CD) : std::nullopt),
                                  inWords("CL", b.CL - a.CL, 0.0, band ? std::optional(band->CL) : std::nullopt));
    if (band && std::abs(b.CD - a.CD) <= band->CD) return out + ". Drag differs by no more than is in doubt.";
    const auto part = partOfDifference(reference, other);
    if (where)
        out += fmt::format("; most of the drag's between x {:.3g} and {:.3g} m{}", where->from, where->to,
                           part ? " (" + *part + ")" : "");
    else if (part)
        out += fmt::format("; most of the drag's on {}", *part);
    return out + ".";
}

}  // namespace cvane::readout
