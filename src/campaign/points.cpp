#include "campaign/points.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "air/plate_layer.h"
#include "base/errors.h"
#include "base/units.h"

namespace cvane::campaign {

std::string Point::name() const {
    // Two decimals, and more where these would give two points one folder.
    const auto text = [](double v) {
        const auto two = fmt::format("{:.2f}", v + 0.0);
        return std::abs(std::stod(two) - v) < 1e-9 ? two : fmt::format("{:.9g}", v);
    };
    return fmt::format("v{}_a{}_b{}", text(speed), text(alpha_deg), text(beta_deg));
}

std::vector<Point> pointsOf(const Schedule& s) {
    const auto fail = [](const std::string& what, const std::string& todo) { throw base::InputError(what, "schedule", todo); };
    if (s.speeds.empty() || s.alphas_deg.empty() || s.betas_deg.empty()) fail("one of the lists is empty.", "Type at least one speed, alpha and beta.");
    if (s.speeds.size() * s.alphas_deg.size() * s.betas_deg.size() > 2000) fail("there are more than 2000 points.", "Shorten the lists.");
    for (const double v : s.speeds)
        if (!(v > 0.0 && v <= 300.0)) fail(fmt::format("the speed {} m/s cannot be run.", v), "Type speeds above 0 and up to 300 m/s.");
    for (const auto* list : {&s.alphas_deg, &s.betas_deg})
        for (const double a : *list)
            if (!(std::abs(a) <= 90.0)) fail(fmt::format("the angle {} deg is out of range.", a), "Type angles from -90 to 90 degrees.");
    const auto outwards = [](std::vector<double> v) {
        std::stable_sort(v.begin(), v.end(), [](double a, double b) { return std::abs(a) != std::abs(b) ? std::abs(a) < std::abs(b) : a > b; });
        v.erase(std::unique(v.begin(), v.end()), v.end());
        return v;
    };
    auto speeds = s.speeds;
    std::sort(speeds.begin(), speeds.end());
    speeds.erase(std::unique(speeds.begin(), speeds.end()), speeds.end());
    std::vector<Point> points;
    for (const double v : speeds)
        for (const double b : outwards(s.betas_deg))
            for (const double a : outwards(s.alphas_deg)) points.push_back({v, a, b});
    return points;
}

air::FreeStream windOf(const Settings& s, const Point& p) {
    return {p.speed, p.alpha_deg * base::degree, p.beta_deg * base::degree, air::standardAtmosphere(s.air.altitude, s.air.temperatureOffset)};
}

double firstHeightFor(double yPlus, const air::FreeStream& wind, double length) {
    const double Re = std::max(wind.reynolds(length), 1e4);
    const double cf = 0.455 / std::pow(std::log(0.06 * Re), 2);
    const double uTau = wind.speed * std::sqrt(0.5 * cf);
    return 2.0 * yPlus * wind.air.kinematicViscosity() / uTau;  // y+ is that of the cell's centre
}

double groundLayerOf(const Settings& s, double length) {
    double fastest = 0.0;
    for (const Point& p : pointsOf(s.schedule)) fastest = std::max(fastest, p.speed);
    return air::plateLayerThickness(s.tunnel.groundLayerRun() * length, fastest, windOf(s, {fastest, 0.0, 0.0}).air.kinematicViscosity());
}

grid::GridSettings gridSettingsOf(const Settings& s, double length) {
    grid::GridSettings g = s.grid;
    if (s.targetYPlus > 0.0) {
        const auto points = pointsOf(s.schedule);
        double fastest = 0.0;
        for (const Point& p : points) fastest = std::max(fastest, p.speed);
        g.firstHeight = firstHeightFor(s.targetYPlus, windOf(s, {fastest, 0.0, 0.0}), length);
    }
    if (s.tunnel.floor == grid::Floor::Fixed && flow::isTurbulent(s.flow.model)) g.groundLayer = groundLayerOf(s, length);
    // A disc needs some twelve cells across to be more than a dot, a block eight along its shortest side.
    for (const auto& d : s.devices.discs) {
        const Vec3 half = d.axis.norm() > 0.0 ? Vec3(0.2 * d.outer * d.axis.normalized()) : Vec3::Zero();
        if (d.outer > 0.0) g.finerPlaces.push_back({grid::FinerPlace::Shape::Cylinder, d.centre - half, d.centre + half, 1.1 * d.outer, d.outer / 6.0});
    }
    for (const auto& b : s.devices.blocks) {
        const double least = (b.to - b.from).cwiseAbs().minCoeff();
        if (least > 0.0) g.finerPlaces.push_back({grid::FinerPlace::Shape::Box, b.from, b.to, 0.0, least / 8.0});
    }
    g.wakeAlong = air::FreeStream{1.0, s.wakeAlpha_deg * base::degree, s.wakeBeta_deg * base::degree, {}}.dragAxis();
    return g;
}

std::vector<double> parseList(const std::string& text, const std::string& where) {
    std::vector<double> out;
    std::string word;
    const auto number = [&](const std::string& t) {
        std::size_t used = 0;
        double v = std::nan("");
        try {
            v = std::stod(t, &used);
        } catch (const std::exception&) {
            used = 0;
        }
        if (used == 0 || t.find_first_not_of(' ', used) != std::string::npos || !std::isfinite(v))
            throw base::InputError(fmt::format("\"{}\" is not a number.", t), where, "Type numbers with commas, or first:last:step.");
        return v;
    };
    const auto take = [&] {
        if (word.find_first_not_of(' ') == std::string::npos) return;
        const auto a = word.find(':');
        if (a == std::string::npos) {
            out.push_back(number(word));
        } else {
            const auto b = word.find(':', a + 1);
            const double from = number(word.substr(0, a)), to = number(word.substr(a + 1, b == std::string::npos ? b : b - a - 1));
            const double step = b == std::string::npos ? 1.0 : number(word.substr(b + 1));
            if (!(step > 0.0) || to < from || (to - from) / step > 1000.0)
                throw base::InputError(fmt::format("the range \"{}\" has no sensible step.", word), where, "Type first:last:step with first below last and a positive step.");
            for (int i = 0; from + i * step <= to + 1e-9 * step; ++i) out.push_back(from + i * step);
        }
        word.clear();
    };
    for (const char c : text)
        if (c == ',' || c == ';' || (c == ' ' && !word.empty() && word.back() != ':'))
            take();
        else
            word += c;
    take();
    if (out.empty()) throw base::InputError("the list is empty.", where, "Type at least one number.");
    return out;
}

std::string listText(const std::vector<double>& v) {
    std::string t;
    for (const double x : v) t += fmt::format("{}{:g}", t.empty() ? "" : ", ", x);
    return t;
}

}  // namespace cvane::campaign
