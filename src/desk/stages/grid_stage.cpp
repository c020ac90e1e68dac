#include "desk/stages/grid_stage.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QtConcurrent>

#include "desk/scene.h"

namespace cvane::desk {

GridStage::GridStage(Document& d, Middle& m) : Stage(d, m) {
    makeSheet();
    summary_ = note();
    summary_->setObjectName("gridSummary");
    column_->addWidget(summary_);
    auto* row = new QHBoxLayout;
    make_ = new QPushButton(tr("Make the grid"));
    make_->setObjectName("makeGrid");
    cancel_ = new QPushButton(tr("Cancel"));
    cancel_->setEnabled(false);
    row->addWidget(make_, 1);
    row->addWidget(cancel_);
    column_->addLayout(row);
    bar_ = new QProgressBar;
    bar_->setObjectName("gridProgress");
    bar_->hide();
    column_->addWidget(bar_);
    auto* size = group(tr("Cells"));
    whole(size, tr("Budget"), "cellBudget", 2000, 20000000, 10000, tr("change the cell budget"), [](campaign::Settings& s) -> int& { return s.grid.cellBudget; });
    whole(size, tr("Finer where it turns, levels"), "curvatureLevels", 0, 6, 1, tr("change the refinement"), [](campaign::Settings& s) -> int& { return s.grid.curvatureLevels; });
    number(size, tr("Refined wake, body lengths"), "wakeLength", 0, 20, 2, "", tr("change the wake region"), [](campaign::Settings& s) -> double& { return s.grid.wakeLength; });
    auto* wall = group(tr("Wall layers"));
    auto* count = whole(wall, tr("Layers"), "layers", 0, 40, 1, tr("change the wall layers"), [](campaign::Settings& s) -> int& { return s.grid.layers; });
    count->setSpecialValueText(tr("as growth asks"));
    number(wall, tr("Growth from layer to layer"), "layerGrowth", 1.05, 3.0, 2, "", tr("change the layers' growth"), [](campaign::Settings& s) -> double& { return s.grid.layerGrowth; });
    number(wall, tr("Aim for y+ (0: type height)"), "targetYPlus", 0, 1000, 1, "", tr("change the aimed y+"), [](campaign::Settings& s) -> double& { return s.targetYPlus; });
    auto* height = number(wall, tr("First height (0: by cell size)"), "firstHeight", 0, 10, 6, " m", tr("change the first wall height"), [](campaign::Settings& s) -> double& { return s.grid.firstHeight; });
    connect(&document_, &Document::settingsChanged, height, [this, height] { height->setEnabled(document_.settings().targetYPlus <= 0.0); });
    auto* view = group(tr("Look at"));
    axis_ = new QComboBox;
    axis_->setObjectName("cutAxis");
    axis_->addItems({tr("surface cells only"), tr("cut across x"), tr("cut across y"), tr("cut across z")});
    axis_->setCurrentIndex(2);
    place_ = new QSlider(Qt::Horizontal);
    place_->setObjectName("cutPlace");
    place_->setRange(-100, 200);
    place_->setValue(52);
    view->addRow(tr("Cells"), axis_);
    view->addRow(tr("Place"), place_);
    column_->addStretch(1);
    connect(make_, &QPushButton::clicked, &document_, &Document::makeGrid);
    connect(cancel_, &QPushButton::clicked, &document_, &Document::cancelGrid);
    connect(&document_, &Document::gridProgressed, this, [this](double f, const QString& doing) {
        bar_->setValue(static_cast<int>(100.0 * f));
        bar_->setFormat(doing + " %p%");
    });
    const auto refresh = [this] {
        const bool running = document_.gridRunning();
        make_->setEnabled(document_.modelReady() && !running && !document_.gridCurrent());
        cancel_->setEnabled(running);
        bar_->setVisible(running);
        if (!document_.isOpen()) return;
        summary_->setText(running ? tr("Making the grid\u2026") : document_.gridCurrent() ? QString::fromStdString(campaign::gridSummary(document_.campaign())) : tr("No grid for the present settings."));
        if (current_) show();
    };
    connect(&document_, &Document::gridChanged, this, refresh);
    connect(&document_, &Document::modelChanged, this, refresh);
    connect(axis_, &QComboBox::currentIndexChanged, this, [this] { show(); });
    connect(place_, &QSlider::valueChanged, this, [this] { show(); });
    connect(&cutJob_, &QFutureWatcherBase::finished, this, [this] {
        if (!current_) return;
        auto* r = middle_.canvas().renderer();
        r->AddActor(scene::cutActor(cutJob_.result(), {}, 0, 1, true, false));
        middle_.canvas().refresh();
    });
}

QString GridStage::keyFigure() const {
    if (document_.gridRunning()) return tr("being made");
    return document_.grid() ? tr("%L1 cells").arg(document_.grid()->cells()) : document_.gridCurrent() ? tr("stored") : tr("none yet");
}

Stage::State GridStage::state() const { return document_.gridRunning() ? State::AtWork : document_.gridCurrent() ? State::Ready : document_.modelReady() ? State::OutOfDate : State::NeedsYou; }

void GridStage::show() {
    middle_.showCanvas();
    clearScene();
    const auto g = document_.grid();
    if (g) {
        middle_.canvas().renderer()->AddActor(scene::wallActor(*g, {}, 0, 1, true));
        const int axis = axis_->currentIndex() - 1;
        if (axis >= 0 && !cutJob_.isRunning()) {
            const Box b = document_.measures().bounds;
            // A little off round values, so that the plane does not run along cell sides.
            const double at = b.low[axis] + (0.01 * place_->value() + 1.7e-4) * b.size()[axis];
            cutJob_.setFuture(QtConcurrent::run([g, axis, at] { return grid::cutAlongAxis(*g, axis, at); }));
        }
    }
    middle_.canvas().refresh();
}

}  // namespace cvane::desk
