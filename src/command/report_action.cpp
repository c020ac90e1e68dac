// The report: what was asked, what was found and how far it can be trusted, set in type by cvane-paper.
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <thread>

#include "base/child_process.h"
#include "base/errors.h"
#include "base/files.h"
#include "base/text.h"
#include "campaign/steps/reports.h"
#include "campaign/store/table.h"
#include "command/edit.h"
#include "command/groups.h"
#include "command/report_content.h"
#include "command/report_sections.h"

namespace cvane::command {
using nlohmann::json;
using enum Argument::Kind;

namespace {
/// Which sections in which order, with what is said in each.
json templateOf(const json& a, const campaign::Campaign& c) {
    std::filesystem::path file = c.folder() / kReportPlan;
    if (a.contains("template"))
        file = textIn(a, "template");
    else if (!std::filesystem::exists(file)) {
        json out = {{"title", c.settings.name}, {"sections", json::array()}};
        for (const auto& s : reportWriters()) out["sections"].push_back({{"id", s.id}});
        return out;
    }
    const auto t = base::readJson(file);
    const auto where = file.filename().string();
    if (!t.is_object() || !t.contains("sections") || !t["sections"].is_array())
        throw base::InputError("has no list \"sections\".", where,
                               "Give {\"title\": .., \"sections\": [{\"id\": ..}]}.");
    for (const auto& s : t["sections"]) {
        const auto id = s.is_object() && s.contains("id") && s["id"].is_string() ? s["id"].get<std::string>() : "";
        if (std::none_of(reportWriters().begin(), reportWriters().end(), [&](const auto& k) { return id == k.id; })) {
            std::string known;
            for (const auto& k : reportWriters()) known += fmt::format("{}{}", known.empty() ? "" : ", ", k.id);
            throw base::InputError(fmt::format("has a section \"{}\" that there is not.", base::printable(id)), where,
                                   fmt::format("There are: {}.", known));
        }
        if (s.contains("text") && !s["text"].is_string())
            throw base::InputError(fmt::format("has a text of \"{}\" that is none.", id), where,
                                   "Give words in quotes.");
    }
    return t;
}

/// A folder that goes with its owner.
class Scratch {
  public:
    Scratch() {
        std::string pattern = (std::filesystem::temp_directory_path() / "cvane-report-XXXXXX").string();
        if (!::mkdtemp(pattern.data()))
            throw base::InputError("cannot be made.", pattern, "Check the space for temporary files.");
        path_ = pattern;
    }
    ~Scratch() {
        std::error_code ec;
        std::filesystem::remove_all(path_, ec);
    }
    Scratch(const Scratch&) = delete;
    Scratch& operator=(const Scratch&) = delete;
    const std::filesystem::path& path() const { return path_; }

  private:
    std::filesystem::path path_;
};

int setInType(const std::filesystem::path& outline, const std::filesystem::path& out, const std::string& paper,
              const std::filesystem::path& said) {
    const auto id = base::startDetached({(base::programFolder() / "cvane-paper").string(), outline.string(),
                                         std::filesystem::absolute(out).string(), paper},
                                        said, {});
    const auto started = base::processStart(id);
    while (base::isAlive(id, started)) std::this_thread::sleep_for(std::chrono::milliseconds(20));
    const auto words = std::filesystem::exists(said) ? base::readFile(said) : std::string();
    const auto told = words.rfind("pages ");
    const int pages = told == std::string::npos ? 0 : std::atoi(words.c_str() + told + 6);
    if (pages < 1)
        throw base::InputError(fmt::format("was not set in type: {}", base::printable(words.substr(0, 300))),
                               out.string(), "Check the folder and the free space.");
    return pages;
}

Outcome reportAction(const json& a, const Talk& talk) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    const std::filesystem::path out = textIn(a, "out");
    const auto plan = templateOf(a, c);
    const Scratch scratch;
    campaign::MeasureBook book;
    ReportMaterial m{c, campaign::reportsOf(c, book), {}, {}, scratch.path(), talk, 0, {}, {}};
    for (const auto& r : m.all)
        if (r.result && r.result->verdict != flow::Verdict::Diverged) m.done.push_back(r);
    if (m.done.empty()) throw base::InputError("no point has a result.", c.settings.name, "Run the schedule first.");
    campaign::sortByAngle(m.done);
    for (const auto& r : m.done)
        if (r.point.method == campaign::Method::Field) m.inField.push_back(r);
    report::Outline outline(plan.value("title", c.settings.name), plan.value("subtitle", std::string()));
    const auto& wanted = plan["sections"];
    double done = 0.0;
    for (const auto& w : wanted) {
        const auto id = w["id"].get<std::string>();
        const auto& section =
            *std::find_if(reportWriters().begin(), reportWriters().end(), [&](const auto& k) { return id == k.id; });
        if (!talk({{"progress", done / static_cast<double>(wanted.size() + 1)}, {"doing", section.title}}))
            throw base::Cancelled();
        outline.heading(1, w.value("title", section.title), id == "answer" && &w == &wanted.front());
        if (w.contains("text")) outline.text(w["text"]);
        section.write(outline, m);
        done += 1.0;
    }
    base::replaceFile(scratch.path() / "outline.json", outline.value().dump());
    const int pages = setInType(scratch.path() / "outline.json", out, a.value("paper", plan.value("paper", "A4")),
                                scratch.path() / "said");
    return {{{"file", out.string()}, {"pages", pages}}, fmt::format("{} pages\n", pages), 0};
}
}  // namespace

std::vector<ReportSection> reportSections() {
    std::vector<ReportSection> out;
    for (const auto& s : reportWriters()) out.push_back({s.id, s.title});
    return out;
}

std::vector<Action> reportActions() {
    return {{"report",
             "a PDF of all that was asked and found; no display is needed",
             {{"campaign", Text, "the campaign's folder", true, true},
              {"out", Output, "the PDF file", true},
              {"template", Text, "sections and their texts (JSON); without it the campaign's report.json, or all"},
              {"paper", Text, "size of its pages", false, false, 0, {"A4", "letter"}}},
             reportAction}};
}

}  // namespace cvane::command
