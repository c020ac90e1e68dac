#pragma once
#include "campaign/methods/runner.h"

namespace cvane::campaign {

/// Potential flow past the closed model (panels/panel_flow.h) with boundary layers along its surface lines: seconds of
/// one process. Drag is what the wakes carry away and friction; what a wake behind a blunt base takes is not in it. As
/// band stands what two measures of drag and lift differ by and what a third of the panels changes.
class PanelRunner : public Runner {
  public:
    int version() const override;
    nlohmann::json caseOf(const Campaign& campaign, const Condition& condition) const override;
    void prepare(const Campaign& campaign, const Point& point) const override;
    std::size_t size(const Campaign& campaign) const override;
    void writeOrder(const Campaign& campaign, const OrderHead& head, const Beginning& begin, int further,
                    const std::function<std::vector<std::filesystem::path>()>& neighbours,
                    const std::filesystem::path& folder) const override;
    void solve(const std::filesystem::path& folder, const flow::Ranks& ranks) const override;
};

}  // namespace cvane::campaign
