#pragma once
#include "campaign/launch/point_run.h"
#include "campaign/steps/hold.h"
#include "command/action.h"

namespace cvane::command {

/// Runs points one after the other and tells of them.
class PointRunner {
  public:
    PointRunner(const campaign::Campaign& base, int ranks, campaign::StartOptions options, const Talk& talk)
        : base_(base), ranks_(ranks), options_(options), talk_(talk) {}

    /// @return whether to go on with the next
    bool run(const campaign::Point& point);
    /// Runs points until one has a held lift, each noted in the campaign's schedule.
    /// @return whether to go on
    bool hold(const campaign::HeldLift& held);
    int code() const { return stopped_ ? 4 : code_; }
    campaign::MeasureBook& book() { return book_; }

  private:
    void follow(const campaign::Campaign& c, const campaign::Point& p, const air::Reference& reference);
    void judge(const campaign::Point& p, const campaign::PointReport& report);

    campaign::Campaign base_;
    int ranks_;
    campaign::StartOptions options_;
    const Talk& talk_;
    campaign::MeasureBook book_;
    std::string failed_;  ///< why the last start led to nothing
    int code_ = 0;
    bool stopped_ = false;
};

}  // namespace cvane::command
