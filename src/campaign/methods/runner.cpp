#include "campaign/methods/runner.h"

#include "campaign/methods/field_runner.h"
#include "campaign/methods/lifting_runner.h"
#include "campaign/methods/panel_runner.h"

namespace cvane::campaign {

std::string Runner::whyItGoesOn(const Standing& standing, const Settings&) const {
    return standing.ended() ? std::string() : "It has not come to its end.";
}

void Runner::checkFiles(const std::filesystem::path& folder, const readout::Result& result) const {
    for (const auto& [name, sum] : result.sums) checkRunFile(folder, name);
}

const Runner& runnerOf(Method method) {
    static const FieldRunner field;
    static const LiftingRunner lifting;
    static const PanelRunner panels;
    switch (method) {
        case Method::Field:
            return field;
        case Method::LiftingSurface:
            return lifting;
        case Method::Panels:
            return panels;
    }
    return field;
}

}  // namespace cvane::campaign
