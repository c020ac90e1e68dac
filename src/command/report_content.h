#pragma once
// What stands in a report's sections.
#include <filesystem>
#include <map>
#include <memory>
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
    std::filesystem::path folder;                  ///< for pictures
    const Talk& talk;
    int pictures = 0;
    std::map<std::filesystem::path, std::shared_ptr<const field::FlowField>> flows;

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

}  // namespace cvane::command
