#include "report/outline.h"

#include <cmath>

namespace cvane::report {
using nlohmann::json;

Outline::Outline(std::string title, std::string subtitle) {
    json_ = {{"title", std::move(title)}, {"subtitle", std::move(subtitle)}, {"blocks", json::array()}};
}

void Outline::heading(int level, const std::string& text, bool onTitlePage) {
    json_["blocks"].push_back({{"kind", "heading"}, {"level", level}, {"text", text}, {"on_title_page", onTitlePage}});
}

void Outline::text(const std::string& text) {
    json_["blocks"].push_back({{"kind", "text"}, {"text", text}});
}

void Outline::table(const std::vector<std::string>& head, const std::vector<std::vector<std::string>>& rows,
                    bool numbers) {
    json_["blocks"].push_back({{"kind", "table"}, {"head", head}, {"rows", rows}, {"numbers", numbers}});
}

void Outline::picture(const std::string& file, const std::string& caption) {
    json_["blocks"].push_back({{"kind", "picture"}, {"file", file}, {"caption", caption}});
}

void Outline::plot(const std::string& title, const std::string& x, const std::string& y,
                   const std::vector<Curve>& curves, bool upsideDown) {
    json all = json::array();
    for (const auto& c : curves) {
        json one = {{"name", c.name},
                    {"x", json::array()},
                    {"y", json::array()},
                    {"band", json::array()},
                    {"points", c.points}};
        for (std::size_t i = 0; i < std::min(c.x.size(), c.y.size()); ++i) {
            if (!std::isfinite(c.x[i]) || !std::isfinite(c.y[i])) continue;
            one["x"].push_back(c.x[i]);
            one["y"].push_back(c.y[i]);
            if (i < c.band.size()) one["band"].push_back(std::isfinite(c.band[i]) ? c.band[i] : 0.0);
        }
        all.push_back(one);
    }
    json_["blocks"].push_back(
        {{"kind", "plot"}, {"title", title}, {"x", x}, {"y", y}, {"curves", all}, {"upside_down", upsideDown}});
}

}  // namespace cvane::report
