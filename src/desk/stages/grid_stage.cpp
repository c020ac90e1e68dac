#include "desk/stages/grid_stage.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QStandardItemModel>
#include <QtConcurrent>
#include <algorithm>
#include <cmath>
#include <numeric>

#include "base/errors.h"
#include "base/nearest_point.h"
#include "base/units.h"
#include "campaign/plan/points.h"
#include "campaign/steps/first_flow.h"
#include "desk/look.h"
#include "desk/note_room.h"
#include "desk/scene.h"
#include "desk/stages/finer_table.h"
#include "grid/layer_coverage.h"
#include "grid/quality.h"

namespace cvane::desk {

namespace {
// What is seen of a grid, worked out away from the window's thread.
enum Colour { Plain, Level, Size, Angle, Covered, Asked };
constexpr double kMostCovered = 2.0;  // of the boundary layer: more is shown alike
constexpr double kLeastAsked = 1e-3;  // of the shown weights: less moves nothing

// What the first flow asked for at each cell of a grid; empty: nothing, its cells do not follow a flow.
std::vector<double> askedOf(const campaign::Campaign& c, const grid::Geometry& geo) {
    std::vector<double> out;
    if (const auto asked = campaign::askedByFlow(c)) {
        const base::NearestPoint nearest(asked->place);
        for (const auto& x : geo.cellCentre)
            out.push_back(std::log10(std::max(asked->weight[nearest(x)], kLeastAsked)));
    }
    return out;
}

// Per point of the grid how the wall layers there stand to the boundary layer; 0 off the wall.
std::vector<double> coveredOf(const Document& d, const grid::Grid& g, const grid::Geometry& geo) {
    std::vector<double> sum(g.points.size(), 0.0), faces(g.points.size(), 0.0);
    try {
        const auto layer = campaign::layerOnModel(d.settings(), d.measures().bounds.low.x());
        for (const auto& column : grid::wallColumns(g, geo)) {
            const double here = layer(geo.faceCentre[static_cast<std::size_t>(column.face)]);
            const double share = here > 0.0 ? std::min(column.thickness / here, kMostCovered) : kMostCovered;
            for (const auto p : g.polygon(column.face)) {
                sum[static_cast<std::size_t>(p)] += share;
                faces[static_cast<std::size_t>(p)] += 1.0;
            }
        }
    } catch (const base::InputError&) {
        return {};  // no wind: the preflight list says so
    }
    for (std::size_t i = 0; i < sum.size(); ++i) sum[i] /= std::max(faces[i], 1.0);
    return sum;
}

// @param asked  found before for this grid
// @param of     the campaign, to find it; empty but where it is shown for the first time
GridStage::Shown shownOf(std::shared_ptr<const grid::Grid> g, std::shared_ptr<const grid::Geometry> geo, int axis,
                         double at, int colour, bool worst, std::shared_ptr<const std::vector<double>> asked,
                         std::optional<campaign::Campaign> of) {
    GridStage::Shown s;
    s.asked = of ? std::make_shared<const std::vector<double>>(askedOf(*of, *geo)) : std::move(asked);
    s.of = g;
    std::vector<double> angles;
    if (colour == Angle || worst) angles = grid::worstAngles(*g, *geo);
    if (axis >= 0) s.cut = grid::cutAlongAxis(*g, axis, at);
    const auto each = [&](auto&& value) {
        for (const auto c : s.cut.cell) s.values.push_back(value(static_cast<std::size_t>(c)));
    };
    if (colour == Level) each([&](std::size_t i) { return g->level[i]; });
    if (colour == Size) each([&](std::size_t i) { return std::log10(std::cbrt(geo->volume[i])); });
    if (colour == Angle) each([&](std::size_t i) { return angles[i]; });
    if (colour == Asked && s.asked && !s.asked->empty()) each([&](std::size_t i) { return (*s.asked)[i]; });
    if (!s.values.empty()) {
        const auto [lo, hi] = std::minmax_element(s.values.begin(), s.values.end());
        s.low = colour == Angle ? 0.0 : *lo;
        s.high = colour == Angle ? 90.0 : *hi;
    }
    if (colour == Covered) {
        s.low = 0.0;
        s.high = kMostCovered;
        s.ofWall = true;
    }
    s.name = colour == Level     ? "level"
             : colour == Size    ? "log10 size/m"
             : colour == Angle   ? "angle, deg"
             : colour == Covered ? "layers / b.l."
                                 : "log10 asked";
    if (worst) {
        std::vector<std::size_t> order(angles.size());
        std::iota(order.begin(), order.end(), 0u);
        const auto count = static_cast<std::ptrdiff_t>(std::min<std::size_t>(50, order.size()));
        std::partial_sort(order.begin(), order.begin() + count, order.end(),
                          [&](auto a, auto b) { return angles[a] > angles[b]; });
        for (std::ptrdiff_t i = 0; i < count; ++i)
            s.worst.push_back(geo->cellCentre[order[static_cast<std::size_t>(i)]]);
    }
    return s;
}
}  // namespace

GridStage::GridStage(Document& d, Middle& m) : Stage(d, m), planJob_(*this, d.pool()) {
    makeSheet();
    summary_ = note();
    summary_->setObjectName("gridSummary");
    column_->addWidget(roomFor(summary_, 8));
    auto* row = new QHBoxLayout;
    make_ = new QPushButton(tr("Make the grid"));
    make_->setObjectName("makeGrid");
    cancel_ = new QPushButton(tr("Cancel"));
    cancel_->setObjectName("cancelGrid");
    cancel_->setEnabled(false);
    row->addWidget(make_, 1);
    row->addWidget(cancel_);
    column_->addLayout(row);
    seal_ = new QPushButton;
    seal_->setObjectName("closeLeaks");
    seal_->setToolTip(
        tr("Lines in the view lead the way that the air takes into the model. Closing sets the width below so that "
           "these openings are closed, too."));
    seal_->hide();
    bar_ = new QProgressBar;
    bar_->setObjectName("gridProgress");
    bar_->hide();
    // One of them at a time, in a place that is kept for it.
    auto* place = new QWidget;
    auto* inPlace = new QVBoxLayout(place);
    inPlace->setContentsMargins(0, 0, 0, 0);
    inPlace->addWidget(seal_);
    inPlace->addWidget(bar_);
    place->setFixedHeight(seal_->sizeHint().height());
    column_->addWidget(place);
    auto* size = section(tr("Cells"));
    addFidelity(size);
    const auto refinement = tr("change the refinement"), wake = tr("change the wake region");
    whole(size, "grid.cell_budget", tr("Budget"), "cellBudget", 10000, tr("change the cell budget"));
    whole(size, "grid.curvature_levels", tr("Refinement by curvature, levels"), "curvatureLevels", 1, refinement);
    number(size, "grid.wake_lengths", tr("Refined wake, body lengths"), "wakeLength", 2, wake);
    whole(size, "grid.gap_levels", tr("Refinement in gaps, levels"), "gapLevels", 1, refinement)
        ->setSpecialValueText(tr("as it takes"));
    addToolTip(
        *choice(size, "grid.cells_follow_flow", tr("Flow-adapted cells"), "cellsFollowFlow",
                tr("change how cells are chosen"), {tr("no"), tr("by a first flow")}),
        tr("Flows at the schedule\u2019s outermost angles on half of the cells say where the other half goes. It "
           "takes about as long as a point, once for all of them."));
    auto* more = foldedGroup(tr("More about the cells"), "moreCells");
    choice(more, "grid.leave_gaps_filled", tr("Gaps without cells"), "leaveGapsFilled",
           tr("change what becomes of gaps"), {tr("must be opened"), tr("may stay filled")});
    number(more, "grid.wake_alpha_deg", tr("Wake region along alpha"), "wakeAlpha", 1, wake);
    number(more, "grid.wake_beta_deg", tr("and beta"), "wakeBeta", 1, wake);
    whole(more, "grid.buffer_cells", tr("Buffer cells"), "bufferCells", 1, refinement);
    number(more, "grid.turn_angle_deg", tr("Turning angle within a cell"), "turnAngle", 1, refinement);
    number(more, "grid.sharp_angle_deg", tr("Feature edges from"), "sharpAngle", 1, tr("change which edges are kept"));
    number(more, "grid.close_leaks_up_to_m", tr("Close leaks up to"), "sealWidth", 4,
           tr("change what counts as a leak"))
        ->setSpecialValueText(tr("3 % of the model"));
    const char* const axes[3] = {"x", "y", "z"};
    for (int k = 0; k < 3; ++k)
        number(more, "grid.stretch",
               k == 0 ? tr("Cells longer along %1, times").arg(axes[k]) : tr("along %1").arg(axes[k]),
               (std::string("stretch") + axes[k]).c_str(), 2, tr("stretch the cells"), k)
            ->setSpecialValueText(tr("as suits the model"));
    auto* wall = section(tr("Wall layers"));
    whole(wall, "grid.layers", tr("Layers"), "layers", 1, tr("change the wall layers"))
        ->setSpecialValueText(tr("as growth asks"));
    number(wall, "grid.layer_growth", tr("Growth ratio"), "layerGrowth", 2, tr("change the layers' growth"));
    number(wall, "grid.target_y_plus", tr("Target y+ (0: type height)"), "targetYPlus", 1, tr("change the aimed y+"));
    addKeptHeights(wall);
    auto* height = number(wall, "grid.first_height_m", tr("First height (0: by cell size)"), "firstHeight", 6,
                          tr("change the first wall height"));
    document_.when(Change::Settings, height,
                   [this, height] { height->setEnabled(document_.settings().targetYPlus <= 0.0); });
    auto* view = section(tr("Look at"));
    axis_ = new QComboBox;
    axis_->setObjectName("cutAxis");
    axis_->addItems({tr("surface cells only"), tr("cut across x"), tr("cut across y"), tr("cut across z")});
    axis_->setCurrentIndex(2);
    place_ = new QSlider(Qt::Horizontal);
    place_->setObjectName("cutPlace");
    place_->setRange(-100, 200);
    place_->setValue(52);
    view->addRow(tr("Cells"), axis_);
    colour_ = new QComboBox;
    colour_->setObjectName("cellColour");
    colour_->addItems({tr("plain"), tr("octree level"), tr("cell size"), tr("worst non-orthogonality"),
                       tr("layers over boundary layer"), tr("first flow's indicator")});
    colour_->setItemData(
        Covered,
        tr("Thickness of the wall layers together over that of the turbulent boundary layer of a plate "
           "that begins at the model's nose; below 0.9 the outer cells cut it off."),
        Qt::ToolTipRole);
    colour_->setItemData(
        Asked,
        tr("Where the cells follow the flow: change of pressure across a cell of the first grid over the "
           "dynamic pressure, or its vorticity times its size over the speed, as a power of ten. The "
           "cells with the most are halved."),
        Qt::ToolTipRole);
    document_.when(Change::Settings, this, [this] {
        const bool follows = document_.settings().cellsFollowFlow;
        if (auto* items = qobject_cast<QStandardItemModel*>(colour_->model())) items->item(Asked)->setEnabled(follows);
        if (!follows && colour_->currentIndex() == Asked) colour_->setCurrentIndex(Plain);
    });
    view->addRow(tr("Colour"), colour_);
    worst_ = new QCheckBox(tr("Mark the worst cells"));
    worst_->setObjectName("markWorst");
    view->addRow(worst_);
    view->addRow(tr("Place"), place_);
    auto* finer = section(tr("Refinement regions and parts"));
    finer_ = new FinerTable(document_, middle_.canvas());
    finer->addRow(finer_);
    auto* quality = section(tr("Non-orthogonality and counts"));
    histogram_ = new Plot;
    histogram_->setObjectName("gridHistogram");
    histogram_->setFixedHeight(10 * histogram_->fontMetrics().height());
    quality->addRow(histogram_);
    counts_ = note();
    counts_->setObjectName("gridCounts");
    quality->addRow(counts_);
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
        summary_->setText(running ? tr("Making the grid\u2026")
                          : document_.gridCurrent()
                              ? QString::fromStdString(campaign::gridSummary(document_.campaign()))
                              : tr("No grid for the present settings."));
        if (current_) plan();
        showFigures();
        leaks_ = document_.gridCurrent() ? campaign::gridLeaks(document_.campaign()) : std::vector<grid::Leak>{};
        const auto open = std::count_if(leaks_.begin(), leaks_.end(), [](const grid::Leak& l) { return !l.sealed; });
        seal_->setVisible(open > 0 && !document_.gridRunning());
        seal_->setText(tr("Close the leaks (%1)").arg(open));
        if (current_) show();
    };
    connect(seal_, &QPushButton::clicked, this, [this] {
        auto s = document_.settings();
        for (const auto& l : leaks_) s.grid.sealWidth = std::max(s.grid.sealWidth, 1.2 * l.width);
        change(tr("close the leaks"), s);
    });
    document_.when(Change::Grid, this, refresh);
    document_.when(Change::Model, this, refresh);
    connect(axis_, &QComboBox::currentIndexChanged, this, [this] { show(); });
    connect(colour_, &QComboBox::currentIndexChanged, this, [this] { show(); });
    connect(worst_, &QCheckBox::toggled, this, [this] { show(); });
    document_.when(Change::Settings, this, [this] {
        if (current_ && !document_.settings().grid.finerPlaces.empty()) show();
    });
    connect(place_, &QSlider::valueChanged, this, [this] { show(); });
    connect(&cutJob_, &QFutureWatcherBase::finished, this, [this] {
        if (!current_) return;
        const Shown s = cutJob_.result();
        asked_ = s.asked;
        askedGrid_ = s.of;
        auto actor = scene::cutActor(s.cut, s.values, s.low, s.high, true, false);
        scene_.add("cut", actor);
        for (const char* other : {"scale", "worst"}) scene_.remove(other);
        if (!s.values.empty() || s.ofWall)
            scene_.add("scale", scene::scaleFor(s.low, s.high, s.ofWall ? field::Sense::AboutZero : field::Sense::Level,
                                                s.name, middle_.canvas().unit()));
        if (!s.worst.empty()) scene_.add("worst", scene::pointsActor(s.worst, look::accent));
        middle_.canvas().refresh();
        if (again_) show();
    });
}

void GridStage::showFigures() {
    const auto f = campaign::gridFigures(document_.campaign());
    histogram_->setVisible(f.has_value());
    counts_->setVisible(f.has_value());
    if (!f) return;
    histogram_->begin(tr("non-orthogonality [deg]"), tr("faces"), true);
    histogram_->addBars(tr("faces"), 10.0, {f->facesByTenDegrees.begin(), f->facesByTenDegrees.end()}, look::calm);
    histogram_->finish();
    QStringList parts, levels;
    for (const auto& [part, faces] : f->wallFacesByPart)
        parts << tr("%1 %L2").arg(QString::fromStdString(part)).arg(faces);
    for (const auto& [level, cells] : f->cellsByLevel) levels << tr("%1: %L2").arg(level).arg(cells);
    counts_->setText(tr("Wall faces: %1.\nCells by level, from the coarsest: %2.\nMade in %3 s with %4 GB.")
                         .arg(parts.join(", "), levels.join(", "))
                         .arg(f->seconds, 0, 'f', 1)
                         .arg(f->peakMemory_GB, 0, 'f', 2) +
                     (f->layers
                          ? tr("\nWall layers grow by 1.3 at most on %1 % of the wall and cover the boundary layer "
                               "on %2 %; in the middle they are %3 times as thick.")
                                .arg(100.0 * f->layers->growsGently, 0, 'f', 0)
                                .arg(100.0 * f->layers->covered, 0, 'f', 0)
                                .arg(f->layers->medianShare, 0, 'g', 2)
                          : QString()));
}

QString GridStage::keyFigure() const {
    if (document_.gridRunning()) return tr("being made");
    return document_.grid()          ? tr("%L1 cells").arg(document_.grid()->cells())
           : document_.gridCurrent() ? tr("stored")
                                     : tr("none yet");
}

Stage::Need GridStage::need() const {
    return document_.modelReady() && !document_.gridCurrent() && !document_.gridRunning() ? Need::Grid : Need::Nothing;
}

Stage::State GridStage::state() const {
    return document_.gridRunning()   ? State::AtWork
           : document_.gridCurrent() ? State::Ready
           : document_.modelReady()  ? State::OutOfDate
                                     : State::NeedsModel;
}

void GridStage::show() {
    middle_.showCanvas();
    scene_.begin();
    const auto g = document_.grid();
    if (!g && document_.modelReady()) {
        // Before there is one: the model, and where cells will be finer.
        plan();
        drawModel();
        Box wake = document_.measures().bounds;
        const Vec3 size = wake.size();
        const double along = document_.settings().grid.wakeLength * size.maxCoeff();
        wake.add(
            Vec3(wake.high + Vec3(along, 0.0, along * std::tan(document_.settings().wakeAlpha_deg * base::degree))));
        scene_.add("wake", scene::boxActor(wake, look::calm));
    }
    if (g) {
        const auto geo = document_.geometry();
        const bool covered = colour_->currentIndex() == Covered && geo;
        scene_.keep("wall", std::to_string(document_.gridGeneration()) + (covered ? " covered" : ""), [&] {
            return covered ? scene::wallActor(*g, coveredOf(document_, *g, *geo), 0, kMostCovered, true)
                           : scene::wallActor(*g, {}, 0, 1, true);
        });
        for (const char* other : {"cut", "scale", "worst"}) scene_.hold(other);
        again_ = cutJob_.isRunning();
        if (!again_ && geo) {
            const int axis = axis_->currentIndex() - 1, colour = colour_->currentIndex();
            const double at = axis < 0 ? 0.0 : placeAt(axis, place_->value());
            if (askedGrid_.lock() != g) asked_.reset();
            const bool looksUp = colour == Asked && !asked_;
            cutJob_.setFuture(QtConcurrent::run(shownOf, g, geo, axis, at, colour, worst_->isChecked(), asked_,
                                                looksUp ? std::optional(document_.campaign()) : std::nullopt));
        }
    }
    std::vector<Vec3> holes;  // closed along their rims: no air has found a way there
    int number = 0;
    for (const auto& leak : leaks_)
        if (leak.path.empty())
            holes.push_back(leak.place);
        else
            scene_.add("leak " + std::to_string(number++),
                       scene::pathActor(leak.path, leak.sealed ? look::calm : look::accent));
    if (!holes.empty()) scene_.add("holes", scene::pointsActor(holes, look::calm));
    for (const auto& place :
         document_.isOpen() ? document_.settings().grid.finerPlaces : std::vector<grid::FinerPlace>{})
        scene_.add("place " + std::to_string(number++), scene::boxActor(place.bounds(), look::accent));
    scene_.finish();
    middle_.canvas().refresh();
}

}  // namespace cvane::desk
