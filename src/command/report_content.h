#pragma once
// What stands in a report's sections.
#include <filesystem>
#include <map>
#include <memory>
#include <set>
#include <span>
#include <string>
#include <vector>

#include "campaign/store/campaign.h"
#include "campaign/store/point_report.h"
#include "command/action.h"
#include "field/flow_field.h"
#include "report/outline.h"
#include "view/picture.h"

namespace cvane::command {

/// What a report is made from, and where its pictures go.
struct ReportMaterial {
    const campaign::Campaign& c;
    std::vector<campaign::PointReport> all, done;  ///< all points; those with results, in the order of the angle
    std::vector<campaign::PointReport> inField;    ///< of the latter those that have a field
    std::filesystem::path folder;                  ///< for pictures
    const Talk& talk;
    int pictures = 0;
    std::map<std::filesystem::path, std::shared_ptr<const field::FlowField>> flows;
    std::set<std::string> told;  ///< groups of settings that have been written

    /// The flow of a run; one at a time is kept, they are large.
    std::shared_ptr<const field::FlowField> flowOf(const campaign::PointReport& r);
    /// Draws into the folder and tells the file.
    std::string draw(const field::FlowField& flow, const std::vector<campaign::FlowItem>& items,
                     view::PictureSettings settings);
};

struct ReportWriter {
    const char *id, *title;
    void (*write)(report::Outline&, ReportMaterial&);
};
std::span<const ReportWriter> reportWriters();

/// A point in a few words: "16 m/s, alpha 4 deg, no wheels", with "(provisional)" where it is.
std::string shownName(const campaign::PointReport& report);
/// The section that answers: what was asked, what came out, how sure it is, one picture, one polar, the date.
void writeAnswer(report::Outline& out, ReportMaterial& material);
/// Lift over drag of each build and wind whose points differ in alpha.
void addDragPolar(report::Outline& out, const ReportMaterial& material);

}  // namespace cvane::command
