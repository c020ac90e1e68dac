#pragma once
#include <string>
#include <vector>

namespace cvane::command {

/// What a report may hold, in the order in which it stands without a template.
struct ReportSection {
    std::string id, title;
};
std::vector<ReportSection> reportSections();

/// Name of the file in a campaign's folder that keeps its report's sections and texts.
inline constexpr const char* kReportPlan = "report.json";

}  // namespace cvane::command
