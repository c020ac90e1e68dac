#include "command/point_runner.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <thread>

#include "campaign/methods/runner.h"
#include "campaign/store/run_standing.h"

namespace cvane::command {
using nlohmann::json;

bool PointRunner::run(const campaign::Point& p) {
    const auto c = base_.of(p);
    const auto reference = book_.reference(c);
    auto report = campaign::reportOf(c, p, reference);
    const auto damage = campaign::isDone(report.state) ? campaign::damageOf(report.folder) : std::string();
    if (!damage.empty()) talk_({{"warning", fmt::format("{}: {}", p.name(), damage)}});
    if (campaign::isDone(report.state) && damage.empty() && !options_.anew && options_.further == 0) {
        talk_({{"text", fmt::format("{}: {} already\n", p.name(), campaign::nameOf(report.state))}});
    } else {
        follow(c, p, reference);
        report = campaign::reportOf(c, p, reference);
    }
    judge(p, report);
    return !stopped_;
}

bool PointRunner::hold(const campaign::HeldLift& held) {
    const auto words = campaign::wordsOf(held);
    for (int run = 0;; ++run) {
        const auto step = campaign::holdingOf(base_, held, book_);
        if (step.kind == campaign::NextTry::Kind::Reached) {
            talk_({{"text", fmt::format("{}: reached by {} with {:.5g}\n", words, step.point.name(), *step.value)},
                   {"held", words},
                   {"point", step.point.name()},
                   {"value", *step.value}});
            return true;
        }
        const bool tooMany = run == campaign::kMostTries;
        if (step.kind == campaign::NextTry::Kind::Cannot || tooMany) {
            talk_({{"warning",
                    fmt::format("{}: {}", words, tooMany ? fmt::format("not reached in {} runs.", run) : step.why)}});
            code_ = 1;
            return true;
        }
        // What others have changed meanwhile stays.
        base_ = campaign::Campaign::open(base_.folder());
        campaign::noteTry(base_.settings, step.point);
        base_.save();
        if (!this->run(step.point)) return false;
        const auto seen = base_.of(step.point);
        if (!campaign::isDone(campaign::reportOf(seen, step.point, book_.reference(seen)).state))
            return true;  // why has been said
    }
}

void PointRunner::follow(const campaign::Campaign& c, const campaign::Point& p, const air::Reference& reference) {
    if (campaign::runnerOf(p.method).needsGrid())
        talk_({{"text", fmt::format("{}: running on {} ranks\n", p.name(), ranks_)}});
    else
        talk_({{"text", fmt::format("{}: running\n", p.name())}});
    const auto run = campaign::PointRun::start(c, p, reference, ranks_, options_);
    for (int tick = 0; run.alive(); ++tick) {
        std::this_thread::sleep_for(std::chrono::milliseconds(200));
        constexpr int kTicksPerWord = 5;
        json news = json::object();
        if (tick % kTicksPerWord == 0) {
            const auto r = campaign::reportOf(c, p, reference);
            news = {{"point", p.name()}, {"coarse", r.coarse}, {"iteration", r.iterations}, {"most", r.mostIterations},
                    {"CL", r.CL},        {"CD", r.CD},         {"left_s", r.secondsLeft},   {"in_time", r.inTime}};
        }
        if (!talk_(news) && !stopped_) {
            stopped_ = true;
            run.askToStop();
            talk_({{"text", "\nstopping after this iteration, the checkpoint is kept\n"}});
        }
    }
    // The old result would pass for the new one where the solver gave up before it had any.
    const auto after = campaign::reportOf(c, p, reference);
    if (campaign::isDone(after.state) && !campaign::standingOf(run.folder()).ended() && !stopped_)
        failed_ = after.message.empty() ? "the solver ended before its first iteration" : after.message;
}

void PointRunner::judge(const campaign::Point& p, const campaign::PointReport& report) {
    if (!failed_.empty()) {
        talk_({{"warning", fmt::format("{}: {}", p.name(), failed_)}});
        failed_.clear();
        code_ = 1;
        return;
    }
    switch (report.state) {
        case campaign::PointState::Settled:
            break;
        case campaign::PointState::Unsteady:
            code_ = std::max(code_, code_ == 1 ? 1 : 3);
            break;
        default: {
            const std::string why = !report.message.empty() ? report.message
                                    : report.latest.empty() ? "the folder of its run has vanished. Run it again."
                                                            : "";
            talk_({{"warning", fmt::format("{}: {}{}{}", p.name(), campaign::nameOf(report.state),
                                           why.empty() ? "" : ": ", why)}});
            code_ = 1;
        }
    }
}

}  // namespace cvane::command
