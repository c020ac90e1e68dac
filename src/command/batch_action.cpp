#include <fmt/format.h>

#include "base/child_process.h"
#include "base/errors.h"
#include "base/files.h"
#include "campaign/launch/batch.h"
#include "campaign/steps/reports.h"
#include "campaign/steps/solver_process.h"
#include "command/edit.h"
#include "command/groups.h"

namespace cvane::command {
using nlohmann::json;
using enum Argument::Kind;
namespace fs = std::filesystem;

namespace {
Outcome batch(const json& a, const Talk&) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    const auto scheduler = a.value("scheduler", std::string("slurm"));
    campaign::BatchOptions o;
    o.scheduler = scheduler == "slurm" ? campaign::Scheduler::Slurm
                  : scheduler == "pbs" ? campaign::Scheduler::Pbs
                                       : campaign::Scheduler::Shell;
    o.ranks = a.value("ranks", campaign::cores());
    o.coresOfNode = a.value("cores-of-node", 0);
    o.hours = a.value("hours", 0.0);
    o.chained = a.value("chained", false);
    o.partition = textIn(a, "partition");
    o.account = textIn(a, "account");
    o.program = base::programFolder() / "cvane";
    campaign::MeasureBook book;
    const auto scripts = campaign::batchScripts(campaign::reportsOf(c, book), o);
    const fs::path folder = c.folder() / "batch" / scheduler;
    std::error_code ec;
    fs::create_directories(folder, ec);
    for (const auto& [name, text] : scripts) {
        base::replaceFile(folder / name, text);
        if (name.ends_with(".sh"))
            fs::permissions(folder / name, fs::perms::owner_exec | fs::perms::group_exec, fs::perm_options::add, ec);
    }
    const auto submit = fs::absolute(folder / "submit.sh").lexically_normal().string();
    return {{{"folder", folder.string()}, {"submit", submit}},
            fmt::format("scripts in {}; submit them with\n    {}\n", folder.string(), submit),
            0};
}
}  // namespace

std::vector<Action> batchActions() {
    return {{"batch",
             "scripts that run what is not done on a cluster",
             {{"campaign", Text, "the campaign's folder", true, true},
              {"scheduler", Text, "whose scripts", false, false, 0, {"slurm", "pbs", "shell"}},
              {"ranks", Whole, "MPI ranks of a point", false, false, 0, {}, 1, 4096},
              {"cores-of-node",
               Whole,
               "cores of a node: with more ranks a point spans several",
               false,
               false,
               0,
               {},
               1,
               4096},
              {"hours",
               Number,
               "that a point may take; else twice what those already run took",
               false,
               false,
               0,
               {},
               0.01,
               1000},
              {"chained", Flag, "points of one speed in one job, each from its neighbour"},
              {"partition", Text, "partition or queue"},
              {"account", Text, "whom the time is charged to"}},
             batch}};
}

}  // namespace cvane::command
