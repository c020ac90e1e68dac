// What the stage Grid says of a grid before there is one.
#include <QTimer>
#include <cmath>

#include "base/time_left.h"
#include "campaign/plan/forecast.h"
#include "campaign/plan/points.h"
#include "desk/note_room.h"
#include "desk/stages/grid_stage.h"
#include "desk/stages/planned_grid.h"
#include "grid/limits.h"

namespace cvane::desk {

namespace {
// A slider from coarse to fine: so many cells at a place of it, by equal factors.
constexpr double kFewest = 1e4, kMost = 1e7;
constexpr int kPlaces = 60;
int cellsAt(int place) {
    const double cells = kFewest * std::pow(kMost / kFewest, static_cast<double>(place) / kPlaces);
    const double digits = std::pow(10.0, std::floor(std::log10(cells)) - 1.0);  // two that count
    return static_cast<int>(digits * std::round(cells / digits));
}
int placeOf(int cells) {
    return static_cast<int>(std::lround(kPlaces * std::log(std::max(1, cells) / kFewest) / std::log(kMost / kFewest)));
}
}  // namespace

// From coarse to fine by hand, with what so many cells cost and bring.
void GridStage::addFidelity(QFormLayout* form) {
    fidelity_ = new QSlider(Qt::Horizontal);
    fidelity_->setObjectName("fidelity");
    fidelity_->setRange(0, kPlaces);
    fidelity_->setAccessibleName(tr("From coarse to fine"));
    fidelity_->setToolTip(tr("From coarse to fine: the budget of cells"));
    form->addRow(tr("Coarse to fine"), fidelity_);
    forecast_ = note();
    forecast_->setObjectName("forecast");
    form->addRow(roomFor(forecast_, 4));
    connect(fidelity_, &QSlider::valueChanged, this, [this](int place) { showForecast(cellsAt(place)); });
    const auto take = [this] {
        if (!document_.isOpen() || placeOf(document_.settings().grid.cellBudget) == fidelity_->value()) return;
        auto s = document_.settings();
        s.grid.cellBudget = cellsAt(fidelity_->value());
        change(tr("change the cell budget"), s);
    };
    // As it is let go, or step by step by keys: while it is dragged only the words follow.
    connect(fidelity_, &QSlider::sliderReleased, this, take);
    connect(fidelity_, &QSlider::actionTriggered, this, [this, take](int action) {
        if (action != QAbstractSlider::SliderMove) QTimer::singleShot(0, this, take);
    });
    document_.when(Change::Settings | Change::Values | Change::Campaign, this, [this] {
        if (fidelity_->isSliderDown()) return;
        const QSignalBlocker quiet(fidelity_);
        fidelity_->setValue(placeOf(document_.settings().grid.cellBudget));
        showForecast(document_.settings().grid.cellBudget);
    });
}

void GridStage::showForecast(int cells) {
    // Of a half that stands for the whole: what is computed.
    const bool half = document_.isOpen() && campaign::isHalfOfBudget(document_.settings());
    const auto f = campaign::forecastFor(half ? grid::halfOfBudget(cells) : cells, document_.reports());
    forecast_->setText(tr("%L1 cells: %2 GB, %3 a point, CD to about \u00b1%4 %, by %5.")
                           .arg(cells)
                           .arg(f.memory_GB, 0, 'g', 2)
                           .arg(QString::fromStdString(base::TimeLeft::about(f.pointSeconds)))
                           .arg(100.0 * f.bandOfDrag, 0, 'g', 2)
                           .arg(f.byOwn ? tr("the points of this campaign")
                                        : tr("what is usual; a point that has run says it better")));
}

// What a grid of the present settings will be, worked out beside the window while there is none.
void GridStage::plan() {
    const auto placed = document_.placedShared();
    if (!document_.modelReady() || document_.gridCurrent() || document_.gridRunning()) {
        planJob_.forget();
        planned_.clear();
        return;
    }
    const auto asked = campaign::gridFile(document_.campaign()).string();
    if (asked == planned_) return;
    planned_ = asked;
    planGrid(
        planJob_, document_.campaign(), placed,
        [](const grid::Plan& p) {
            return tr("Planned: %L1 cells, %2 m on the model, %3 wall layers from %4 m.")
                .arg(p.cells)
                .arg(p.surfaceCell, 0, 'g', 3)
                .arg(p.fewestLayers == p.mostLayers ? QString::number(p.mostLayers)
                                                    : tr("%1 to %2").arg(p.fewestLayers).arg(p.mostLayers))
                .arg(p.firstHeight, 0, 'g', 2);
        },
        [this](const QString& words) {
            if (!words.isEmpty() && !document_.gridCurrent() && !document_.gridRunning())
                summary_->setText(tr("No grid for the present settings.") + "\n" + words);
        });
}

// Where first heights are for another wind than the fastest of the schedule: which, and a way back.
void GridStage::addKeptHeights(QFormLayout* form) {
    auto* follow = new QPushButton(tr("Follow the schedule"));
    follow->setObjectName("followSchedule");
    follow->setToolTip(tr("First heights for the fastest wind of the schedule, in its air: it takes another grid."));
    auto* kept = note();
    kept->setObjectName("keptHeights");
    form->addRow(kept);
    form->addRow(follow);
    document_.when(Change::Settings, follow, [this, follow, kept] {
        const auto& wind = document_.settings().schedule.heightsWind;
        const bool rests = document_.isOpen() && campaign::heightsFollowWind(document_.settings());
        follow->setEnabled(rests && wind.has_value());
        kept->setText(!rests  ? tr("First heights follow no wind.")
                      : !wind ? tr("First heights are for the fastest wind of the schedule.")
                              : tr("First heights are kept for %1 m/s.").arg(wind->x(), 0, 'g', 4));
    });
    connect(follow, &QPushButton::clicked, this, [this] {
        auto s = document_.settings();
        s.schedule.heightsWind.reset();
        change(tr("let first heights follow the schedule"), s);
    });
}

}  // namespace cvane::desk
