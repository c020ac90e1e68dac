#pragma once
#include "campaign/methods/runner.h"

namespace cvane::campaign {

/// The field: a grid about the placed model in the tunnel, and the flow solver on it (steps/solve_point.h).
class FieldRunner : public Runner {
  public:
    int version() const override;
    nlohmann::json caseOf(const Campaign& campaign, const Condition& condition) const override;
    bool needsGrid() const override { return true; }
    void prepare(const Campaign& campaign, const Point& point) const override;
    std::size_t size(const Campaign& campaign) const override;
    std::string whyItGoesOn(const Standing& standing, const Settings& now) const override;
    bool asksThis(const Standing& standing, const Settings& now) const override;
    Beginning beginningOf(const std::vector<std::filesystem::path>& own,
                          const std::filesystem::path& beyond) const override;
    void writeOrder(const Campaign& campaign, const OrderHead& head, const Beginning& begin, int further,
                    const std::function<std::vector<std::filesystem::path>()>& neighbours,
                    const std::filesystem::path& folder) const override;
    void solve(const std::filesystem::path& folder, const flow::Ranks& ranks) const override;
    void checkFiles(const std::filesystem::path& folder, const readout::Result& result) const override;
    air::Reference referenceOf(const std::filesystem::path& folder) const override;
};

}  // namespace cvane::campaign
