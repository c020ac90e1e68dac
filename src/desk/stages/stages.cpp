#include "desk/stages/stages.h"

#include "desk/stages/balance_stage.h"
#include "desk/stages/compare/compare_stage.h"
#include "desk/stages/flow/flow_stage.h"
#include "desk/stages/grid_stage.h"
#include "desk/stages/model_stage.h"
#include "desk/stages/outline/outline_stage.h"
#include "desk/stages/pressures/pressures_stage.h"
#include "desk/stages/report_stage.h"
#include "desk/stages/run_stage.h"
#include "desk/stages/schedule_stage.h"
#include "desk/stages/sections_stage.h"
#include "desk/stages/tunnel_stage.h"
#include "desk/stages/wing/wing_stage.h"

namespace cvane::desk {

namespace {
template <class Page>
MakeStage make() {
    return [](Document& d, Middle& m, RunQueue& q) -> Stage* {
        if constexpr (std::is_constructible_v<Page, Document&, Middle&, RunQueue&>)
            return new Page(d, m, q);
        else
            return new Page(d, m);
    };
}
}  // namespace

const std::vector<MakeStage>& stageMakers() {
    static const std::vector<MakeStage> makers{
        make<SectionsStage>(), make<WingStage>(),      make<OutlineStage>(),  make<ModelStage>(),
        make<TunnelStage>(),   make<GridStage>(),      make<ScheduleStage>(), make<RunStage>(),
        make<BalanceStage>(),  make<PressuresStage>(), make<FlowStage>(),     make<CompareStage>(),
        make<ReportStage>(),
    };
    return makers;
}

}  // namespace cvane::desk
