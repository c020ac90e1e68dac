#pragma once
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace cvane::report {

/// What stands in a report, block by block, before it is set in type. Kept as JSON, so that another program can set it.
class Outline {
  public:
    Outline(std::string title, std::string subtitle);
    /// A section of level 1 that stands first may be told to stand on the title's page.
    void heading(int level, const std::string& text, bool onTitlePage = false);
    void text(const std::string& text);
    /// @param numbers  columns after the first are set to the right
    void table(const std::vector<std::string>& head, const std::vector<std::vector<std::string>>& rows,
               bool numbers = true);
    void picture(const std::string& file, const std::string& caption);
    struct Curve {
        std::string name;
        std::vector<double> x, y, band;
        bool points = true;
    };
    void plot(const std::string& title, const std::string& x, const std::string& y, const std::vector<Curve>& curves,
              bool upsideDown = false);
    const nlohmann::json& value() const { return json_; }

  private:
    nlohmann::json json_;
};

}  // namespace cvane::report
