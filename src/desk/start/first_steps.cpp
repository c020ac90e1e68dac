#include "desk/start/first_steps.h"

#include "base/units.h"
#include "campaign/settings/set_field.h"
#include "desk/model/document.h"
#include "desk/model/run_queue.h"
#include "desk/start/user_settings.h"

namespace cvane::desk {
namespace {
constexpr int kQuickCells = 60000;  // half a minute of grid and a minute or two a point
}

FirstSteps::FirstSteps(Document& document, RunQueue& queue, Card& card, Window window)
    : document_(document), queue_(queue), card_(card), window_(std::move(window)) {
    document_.when(~Changes(), this, [this] { refresh(); });
    document_.when(Change::Campaign, this, [this] {
        if (leading() && !document_.base().hasModel()) leave();
    });
    connect(&queue_, &RunQueue::changed, this, &FirstSteps::refresh);
    connect(&document_, &Document::gridProgressed, this, &FirstSteps::refresh);
}

void FirstSteps::begin() {
    go(Step::Size);
}

void FirstSteps::leave() {
    step_ = Step::None;
    card_.hide();
    UserSettings::noteFirstSteps();
}

void FirstSteps::go(Step step) {
    step_ = step;
    const char* stages[] = {"", "Model", "Tunnel", "Grid", "Run", "Balance", "Flow"};
    window_.goTo(stages[static_cast<int>(step)]);
    refresh();
}

void FirstSteps::setGround(int floor) {
    auto s = document_.settings();
    s.tunnel.floor = static_cast<grid::Floor>(floor);
    document_.change(tr("choose the ground"), s, "Tunnel");
    go(Step::Grid);
}

// What a run could not work with, and the ways out of it.
bool FirstSteps::tellWhatBlocks(const Card::Button& leave) {
    for (const auto& r : document_.remarks()) {
        if (!r.blocks) continue;
        std::vector<Card::Button> buttons;
        for (const auto& m : r.mends)
            buttons.push_back({QString::fromStdString(m.words),
                               [this, assignment = m.assignment] {
                                   auto s = document_.settings();
                                   campaign::setField(s, assignment);
                                   document_.change(tr("mend what the checks found"), s, "Grid");
                                   if (!document_.gridCurrent()) document_.makeGrid();
                                   go(Step::Grid);
                               },
                               "firstMend"});
        buttons.push_back(leave);
        card_.tell(tr("First steps, 4 of 5: to be mended first"), QString::fromStdString(r.text), buttons);
        return true;
    }
    return false;
}

void FirstSteps::refresh() {
    if (!leading()) return;
    if (!document_.modelReady()) {
        card_.tell(tr("First steps"), tr("The surface is being read\u2026"), {});
        card_.show();
        return;
    }
    const Card::Button leave{tr("I find my way"), [this] { this->leave(); }, "firstLeave"};
    const auto* r = document_.selectedReport();
    switch (step_) {
        case Step::None:
            return;
        case Step::Size: {
            const auto unit = base::unitNamed(base::lengthUnits(), document_.settings().units.length);
            const Vec3 size = document_.measures().bounds.size() / unit.inSI;
            const QString u = QString::fromUtf8(unit.symbol.data());
            card_.tell(
                tr("First steps, 1 of 5: the shape"),
                tr("The air comes from the left, along x. The model is %1 %4 long, %2 %4 wide and %3 %4 high. If "
                   "it lies askew, turn it on the right; its unit is changed there too.")
                    .arg(size.x(), 0, 'g', 3)
                    .arg(size.y(), 0, 'g', 3)
                    .arg(size.z(), 0, 'g', 3)
                    .arg(u),
                {{tr("It lies well"), [this] { go(Step::Ground); }, "firstSize"}, leave});
            break;
        }
        case Step::Ground:
            card_.tell(tr("First steps, 2 of 5: the tunnel"),
                       tr("A vehicle stands on a ground that moves along with the air, as the road does under it. What "
                          "flies has none."),
                       {{tr("It drives"), [this] { setGround(static_cast<int>(grid::Floor::Moving)); }, "firstDrives"},
                        {tr("It flies"), [this] { setGround(static_cast<int>(grid::Floor::None)); }, "firstFlies"},
                        leave});
            break;
        case Step::Grid:
            if (document_.gridCurrent() && !document_.gridRunning()) {
                go(Step::Run);
                return;
            }
            if (document_.gridRunning())
                card_.tell(tr("First steps, 3 of 5: the grid"), tr("The cells are being made\u2026"), {leave});
            else
                card_.tell(tr("First steps, 3 of 5: the grid"),
                           tr("The air is parted into cells. %L1 are quick; more of them give narrower bands later.")
                               .arg(kQuickCells),
                           {{tr("Make the grid"),
                             [this] {
                                 auto s = document_.settings();
                                 s.grid.cellBudget = kQuickCells;
                                 document_.change(tr("choose the number of cells"), s, "Grid");
                                 document_.makeGrid();
                             },
                             "firstGrid"},
                            leave});
            break;
        case Step::Run:
            if (r && campaign::isDone(r->state)) {
                go(Step::Read);
                return;
            }
            if (queue_.busy())
                card_.tell(tr("First steps, 4 of 5: the run"),
                           tr("Residuals fall and the coefficients come to rest; what is left is said on the right."),
                           {leave});
            else if (tellWhatBlocks(leave))
                break;
            else
                card_.tell(tr("First steps, 4 of 5: the run"),
                           tr("The wind line above says which air blows: change the speed there if you like."),
                           {{tr("Run"), [this] { queue_.addAllOpen(); }, "firstRun"}, leave});
            break;
        case Step::Read:
            if (!r || !r->result) {
                go(Step::Run);
                return;
            }
            card_.tell(tr("First steps, 5 of 5: the numbers"),
                       tr("CD %1 \u00b1 %2, CL %3 \u00b1 %4. The \u00b1 is how far a value may lie from that of very "
                          "many cells. The table on the right has the rest.")
                           .arg(r->result->coefficients.CD, 0, 'f', 4)
                           .arg(r->result->trust().CD, 0, 'g', 2)
                           .arg(r->result->coefficients.CL, 0, 'f', 3)
                           .arg(r->result->trust().CL, 0, 'g', 2),
                       {{tr("See the flow"), [this] { go(Step::Picture); }, "firstFlow"}, leave});
            break;
        case Step::Picture:
            card_.tell(tr("First steps: the flow"),
                       tr("Colours on the walls are pressures. Slices and streamlines are added on the right."),
                       {{tr("Save this picture"),
                         [this] {
                             window_.savePicture();
                             this->leave();
                         },
                         "firstPicture"},
                        leave});
            break;
    }
    card_.show();
}

}  // namespace cvane::desk
