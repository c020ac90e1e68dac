#include "section/outline/families.h"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <functional>
#include <regex>
#include <span>

#include "base/errors.h"
#include "section/outline/laminar_form.h"

namespace cvane::section {
namespace {
using Mean = FormulaSection::Mean;

[[noreturn]] void refuse(const std::string& name, const std::string& what, const std::string& todo) {
    throw base::InputError(what, name, todo);
}

/// Two parabolas that meet in the largest camber m at p. NACA Report 460.
Mean twoArcs(double m, double p, double x) {
    const double q = x < p ? p : 1.0 - p;
    const double z = x < p ? m / (q * q) * (2.0 * p * x - x * x) : m / (q * q) * (1.0 - 2.0 * p + 2.0 * p * x - x * x);
    return {z, 2.0 * m / (q * q) * (p - x)};
}

/// Constants for a design lift of 0.3 by the place of the camber. NACA Reports 537 (table I) and 610 (reflexed).
struct ThreeDigit {
    double camberAt, m, k1, k2OverK1;
};
constexpr ThreeDigit kPlain[] = {{0.05, 0.0580, 361.400, 0},
                                 {0.10, 0.1260, 51.640, 0},
                                 {0.15, 0.2025, 15.957, 0},
                                 {0.20, 0.2900, 6.643, 0},
                                 {0.25, 0.3910, 3.230, 0}};
constexpr ThreeDigit kReflexed[] = {{0.10, 0.1300, 51.990, 0.000764},
                                    {0.15, 0.2170, 15.793, 0.00677},
                                    {0.20, 0.3180, 6.520, 0.0303},
                                    {0.25, 0.4410, 3.191, 0.1355}};

Mean threeDigit(const ThreeDigit& c, double lift, double x) {
    const double k1 = c.k1 * lift / 0.3, m = c.m, r = c.k2OverK1, q = 1.0 - m;
    if (r == 0.0) {
        if (x >= m) return {k1 / 6.0 * m * m * m * (1.0 - x), -k1 / 6.0 * m * m * m};
        return {k1 / 6.0 * (x * x * x - 3.0 * m * x * x + m * m * (3.0 - m) * x),
                k1 / 6.0 * (3.0 * x * x - 6.0 * m * x + m * m * (3.0 - m))};
    }
    const double tilt = r * q * q * q + m * m * m, bend = x < m ? 1.0 : r, d = x - m;
    return {k1 / 6.0 * (bend * d * d * d - r * q * q * q * x - m * m * m * x + m * m * m),
            k1 / 6.0 * (3.0 * bend * d * d - tilt)};
}

/// Load uniform to x = a, then falling to 0 at 1. NACA Report 824, appendix.
double uniformLoad(double cl, double a, double x) {
    const double pi = std::acos(-1.0);
    const auto xlogx = [](double u, double power) { return u > 0.0 ? std::pow(u, power) * std::log(u) : 0.0; };
    if (a > 0.999) return -cl / (4.0 * pi) * (xlogx(1.0 - x, 1.0) + xlogx(x, 1.0));
    const double u = 1.0 - x, w = std::abs(a - x), b = 1.0 - a;
    const double g = -(0.5 * xlogx(a, 2.0) - 0.25 * a * a + 0.25) / b;
    const double h = (0.5 * xlogx(b, 2.0) - 0.25 * b * b) / b + g;
    return cl / (2.0 * pi * (a + 1.0)) *
           ((0.5 * xlogx(w, 2.0) - 0.5 * xlogx(u, 2.0) + 0.25 * u * u - 0.25 * w * w) / b - xlogx(x, 1.0) + g - h * x);
}

Mean meanAt(const FormulaSection& s, double x) {
    switch (s.mean) {
        case FormulaSection::MeanLine::None:
            return {};
        case FormulaSection::MeanLine::TwoArcs:
            return twoArcs(s.camber, s.camberAt, x);
        case FormulaSection::MeanLine::ThreeDigit:
        case FormulaSection::MeanLine::ThreeDigitReflexed: {
            const bool reflexed = s.mean == FormulaSection::MeanLine::ThreeDigitReflexed;
            for (const auto& c :
                 reflexed ? std::span<const ThreeDigit>(kReflexed) : std::span<const ThreeDigit>(kPlain))
                if (std::abs(c.camberAt - s.camberAt) < 1e-6) return threeDigit(c, s.designLift, x);
            refuse("section", fmt::format("no such mean line has its camber at {:g} %.", 100.0 * s.camberAt),
                   reflexed ? "Take 10, 15, 20 or 25 %." : "Take 5, 10, 15, 20 or 25 %.");
        }
        case FormulaSection::MeanLine::UniformLoad: {
            // The slope is infinite at the ends; within half a per cent it is kept at what it is there.
            const double at = std::clamp(x, 0.005, 0.995), e = 1e-5;
            return {uniformLoad(s.designLift, s.loadUntil, x),
                    (uniformLoad(s.designLift, s.loadUntil, at + e) - uniformLoad(s.designLift, s.loadUntil, at - e)) /
                        (2.0 * e)};
        }
    }
    return {};
}

/// Half thickness of the modified four-digit form; NACA Report 492: a cubic in sqrt(x), x to the largest thickness and
/// a cubic in 1 - x behind it, alike there to the second derivative; the slope at the tail by the place (its table II).
double modifiedHalf(const FormulaSection& s, double x) {
    static constexpr double kTailSlope[] = {0.200, 0.234, 0.315, 0.465, 0.700};  // for 20 %, from 0.2 to 0.6
    const double M = s.thicknessAt, scale = s.thickness / 0.2, at = (M - 0.2) * 10.0;
    const int k = std::clamp(static_cast<int>(at), 0, 3);
    const double d0 = 0.002, d1 = kTailSlope[k] + (at - k) * (kTailSlope[k + 1] - kTailSlope[k]), u = 1.0 - M;
    const double d3 = (d1 * u - 2.0 * (0.1 - d0)) / (u * u * u), d2 = -(d1 + 3.0 * d3 * u * u) / (2.0 * u);
    if (x >= M) {
        const double t = 1.0 - x;
        return scale * (d0 + t * (d1 + t * (d2 + t * d3)));
    }
    const double a0 = 0.296904 * s.noseIndex / 6.0, bend = 2.0 * d2 + 6.0 * d3 * u, root = std::sqrt(M);
    Eigen::Matrix3d A;
    A << M, M * M, M * M * M, 1.0, 2.0 * M, 3.0 * M * M, 0.0, 2.0, 6.0 * M;
    const Eigen::Vector3d a =
        A.partialPivLu().solve(Eigen::Vector3d(0.1 - a0 * root, -0.5 * a0 / root, bend + 0.25 * a0 / (M * root)));
    return scale * (a0 * std::sqrt(x) + x * (a[0] + x * (a[1] + x * a[2])));
}

double halfAt(const FormulaSection& s, double x) {
    switch (s.form) {
        case FormulaSection::Thickness::FourDigit:
            // To the last bit as published where no tail is asked for: polars are kept by their outline.
            return 5.0 * s.thickness *
                   (0.2969 * std::sqrt(x) -
                    x * (0.1260 +
                         x * (0.3516 - x * (0.2843 - x * (s.tail ? 0.1036 - 0.1 * *s.tail / s.thickness : 0.1015)))));
        case FormulaSection::Thickness::FourDigitModified:
            return modifiedHalf(s, x);
        case FormulaSection::Thickness::Ellipse:
            return s.thickness * std::sqrt(x * (1.0 - x));
        case FormulaSection::Thickness::Laminar:
            break;  // comes as points
    }
    return 0.0;
}

double percent(const std::string& text) {
    return 0.01 * std::stod(text);
}

/// Numbers behind "word:".
std::vector<double> numbersOf(const std::string& code, std::size_t from, std::size_t least, std::size_t most) {
    std::vector<double> out;
    std::size_t at = from;
    try {
        while (at < code.size()) {
            std::size_t used = 0;
            out.push_back(std::stod(code.substr(at), &used));
            at += used;
            if (at < code.size() && code[at] != ',') throw std::invalid_argument("");
            ++at;
        }
    } catch (const std::exception&) {
        refuse(code, "is not a list of numbers behind the colon.", "Write, say, laminar:15,40.");
    }
    if (out.size() < least || out.size() > most)
        refuse(code, fmt::format("has {} numbers.", out.size()), fmt::format("Give {} to {}.", least, most));
    return out;
}

Contour plate(double thickness, std::string name, int n) {
    std::vector<Ordinate> stations;
    for (const double x : cosinePlaces(n)) {
        const double r = 0.5 * thickness, d = std::min(x, 1.0 - x);
        stations.push_back({x, 0.0, 0.0, d < r ? std::sqrt(std::max(0.0, d * (2.0 * r - d))) : r});
    }
    return fromOrdinates(std::move(name), stations);
}

using Maker = std::function<Contour(const std::string& code)>;
struct Family {
    std::regex look;
    Maker make;
};

const std::vector<Family>& families() {
    using S = FormulaSection;
    static const std::vector<Family> all{
        {std::regex("[0-9]{4}(-[0-9]{2})?"),
         [](const std::string& c) {
             S s;
             s.camber = percent(c.substr(0, 1)), s.camberAt = 0.1 * (c[1] - '0'), s.thickness = percent(c.substr(2, 2));
             s.mean = s.camber > 0.0 ? S::MeanLine::TwoArcs : S::MeanLine::None;
             if (s.camber > 0.0 && s.camberAt == 0.0)
                 refuse(c, "has camber without a place.", "Give its second digit from 1 to 9.");
             if (c.size() == 7) {
                 s.form = S::Thickness::FourDigitModified;
                 s.noseIndex = c[5] - '0', s.thicknessAt = 0.1 * (c[6] - '0');
             }
             return outlineOf(s, c);
         }},
        {std::regex("[0-9]{5}"),
         [](const std::string& c) {
             S s;
             s.designLift = 0.15 * (c[0] - '0'), s.camberAt = 0.05 * (c[1] - '0'), s.thickness = percent(c.substr(3));
             if (c[2] > '1') refuse(c, "has a third digit that is neither 0 nor 1.", "1 stands for a reflexed line.");
             s.mean = c[2] == '1' ? S::MeanLine::ThreeDigitReflexed : S::MeanLine::ThreeDigit;
             return outlineOf(s, c);
         }},
        {std::regex("ellipse:.*"),
         [](const std::string& c) {
             S s;
             s.form = S::Thickness::Ellipse, s.thickness = 0.01 * numbersOf(c, 8, 1, 1)[0];
             return outlineOf(s, c);
         }},
        {std::regex("plate:.*"),
         [](const std::string& c) {
             const double t = 0.01 * numbersOf(c, 6, 1, 1)[0];
             if (!(t >= 0.002 && t <= 0.2))
                 refuse(c, "is a plate of a thickness that is not made.", "Give 0.2 to 20 %.");
             return plate(t, c, 160);
         }},
        {std::regex("laminar:.*"),
         [](const std::string& c) {
             const auto n = numbersOf(c, 8, 2, 4);
             S s;
             s.form = S::Thickness::Laminar, s.thickness = 0.01 * n[0], s.lowestPressureAt = 0.01 * n[1];
             if (n.size() > 2) s.mean = S::MeanLine::UniformLoad, s.designLift = n[2];
             if (n.size() > 3) s.loadUntil = n[3];
             return outlineOf(s, c);
         }},
        {std::regex("arcs:.*"),
         [](const std::string& c) {
             const auto n = numbersOf(c, 5, 3, 4);
             S s;
             s.camber = 0.01 * n[0], s.camberAt = 0.01 * n[1], s.thickness = 0.01 * n[2];
             s.mean = s.camber != 0.0 ? S::MeanLine::TwoArcs : S::MeanLine::None;
             if (n.size() > 3) s.tail = 0.01 * n[3];
             return outlineOf(s, c);
         }},
        {std::regex("load:.*"),
         [](const std::string& c) {
             const auto n = numbersOf(c, 5, 3, 3);
             S s;
             s.mean = S::MeanLine::UniformLoad;
             s.designLift = n[0], s.loadUntil = n[1], s.thickness = 0.01 * n[2];
             return outlineOf(s, c);
         }},
    };
    return all;
}

}  // namespace

Contour outlineOf(const FormulaSection& s, std::string name, int n) {
    const auto inside = [&](double v, double low, double high, const char* what) {
        if (!(v >= low && v <= high))
            refuse(name, fmt::format("{} is {:g}.", what, v), fmt::format("Give {:g} to {:g}.", low, high));
    };
    inside(s.thickness, 0.002, 1.0, "its thickness over chord");
    inside(std::abs(s.camber), 0.0, 0.3, "its camber over chord");
    if (s.mean == FormulaSection::MeanLine::TwoArcs) inside(s.camberAt, 0.05, 0.95, "the place of its camber");
    if (s.tail) inside(*s.tail, 0.0, 0.5 * s.thickness, "the thickness of its trailing edge over chord");
    inside(std::abs(s.designLift), 0.0, 3.0, "its design lift");
    inside(s.loadUntil, 0.0, 1.0, "the end of its uniform load");
    if (s.form == FormulaSection::Thickness::FourDigitModified) {
        inside(s.noseIndex, 0.0, 9.0, "its nose index");
        inside(s.thicknessAt, 0.2, 0.6, "the place of its thickness");
    }
    std::vector<Ordinate> stations;
    const auto add = [&](double x, double half) {
        const Mean m = meanAt(s, x);
        stations.push_back({x, m.z, m.slope, half});
    };
    if (s.form == FormulaSection::Thickness::Laminar) {
        const auto side = laminarForm(s.thickness, s.lowestPressureAt);
        for (std::size_t i = 0; i < side.size();
             i = i + 3 < side.size() || i + 1 == side.size() ? i + 3 : side.size() - 1)
            add(side[i].x(), side[i].y());
    } else {
        for (const double x : cosinePlaces(n)) add(x, halfAt(s, x));
    }
    return fromOrdinates(std::move(name), stations);
}

bool looksLikeCode(const std::string& text) {
    return std::any_of(families().begin(), families().end(),
                       [&](const Family& f) { return std::regex_match(text, f.look); });
}

Contour sectionFromCode(const std::string& code) {
    for (const Family& f : families())
        if (std::regex_match(code, f.look)) return f.make(code);
    refuse(code, "is no code of a section.",
           "Write four digits (4412, 0012-64), five (23012), or arcs:2.5,40,13, ellipse:12, plate:2, laminar:15,40, "
           "load:0.4,0.8,12, mix:4412+0012,30.");
}

}  // namespace cvane::section
