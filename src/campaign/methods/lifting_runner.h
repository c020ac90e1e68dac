#pragma once
#include "campaign/methods/runner.h"

namespace cvane::campaign {

/// The lifting surface of an aircraft from numbers, with the sections' drag by strips (lifting/runs.h): a second of one
/// process. Forces of each surface by themselves; what a body does is in the whole alone. As band stands what its two
/// measures of induced drag and of lift differ by.
class LiftingRunner : public Runner {
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
