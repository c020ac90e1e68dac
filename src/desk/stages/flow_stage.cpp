#include "desk/stages/flow_stage.h"

#include <QtConcurrent>

#include "desk/scene.h"

namespace cvane::desk {

FlowStage::FlowStage(Document& d, Middle& m) : Stage(d, m) {
    makeSheet();
    words_ = note();
    column_->addWidget(words_);
    auto* view = group(tr("On a cut through the air"));
    what_ = new QComboBox;
    what_->setObjectName("flowField");
    what_->addItems({tr("speed over free stream"), tr("Cp"), tr("lost total pressure, over q"), tr("eddy over molecular viscosity")});
    view->addRow(tr("Show"), what_);
    axis_ = new QComboBox;
    axis_->addItems({tr("across x"), tr("across y"), tr("across z")});
    axis_->setCurrentIndex(1);
    view->addRow(tr("Cut"), axis_);
    place_ = new QSlider(Qt::Horizontal);
    place_->setRange(-100, 300);
    place_->setValue(50);
    view->addRow(tr("Place"), place_);
    column_->addStretch(1);
    const auto again = [this] {
        if (current_) show();
    };
    connect(what_, &QComboBox::currentIndexChanged, this, again);
    connect(axis_, &QComboBox::currentIndexChanged, this, again);
    connect(place_, &QSlider::valueChanged, this, again);
    connect(&document_, &Document::selectionChanged, this, again);
    connect(&job_, &QFutureWatcherBase::finished, this, [this] {
        fields_ = job_.result();
        if (current_) show();
    });
}

void FlowStage::load() {
    const auto* r = document_.selectedReport();
    if (!r || !r->result || r->result->verdict == flow::Verdict::Diverged) {
        fields_.reset();
        loaded_.clear();
        return;
    }
    const auto folder = campaign::runFolder(document_.campaign(), r->point);
    const std::string key = folder.string() + std::to_string(r->result->seconds);
    if (key == loaded_ || job_.isRunning()) return;
    loaded_ = key;
    fields_.reset();
    job_.setFuture(QtConcurrent::run(readFields, folder, campaign::gridFile(document_.campaign()), document_.grid(), document_.geometry(), true));
}

QString FlowStage::keyFigure() const { return fields_ && fields_->grid ? what_->currentText() : QString(); }
Stage::State FlowStage::state() const {
    const auto* r = document_.selectedReport();
    return !r || !r->result ? State::NeedsYou : r->state == campaign::PointState::OutOfDate ? State::OutOfDate : State::Ready;
}

void FlowStage::draw() {
    const int axis = axis_->currentIndex(), what = what_->currentIndex();
    const Box b = document_.measures().bounds;
    const double at = b.low[axis] + (0.01 * place_->value() + 1.7e-4) * b.size()[axis];
    const auto cut = grid::cutAlongAxis(*fields_->grid, axis, at);
    const double V = fields_->wind.speed, q = 0.5 * V * V, nu = fields_->wind.air.kinematicViscosity();
    std::vector<double> values;
    values.reserve(cut.cell.size());
    for (const auto c : cut.cell) {
        const double* v = fields_->cellData.data() + 7 * static_cast<std::size_t>(c);
        const double U2 = v[0] * v[0] + v[1] * v[1] + v[2] * v[2], Cp = v[3] / q;
        values.push_back(what == 0 ? std::sqrt(U2) / V : what == 1 ? Cp : what == 2 ? std::max(0.0, 1.0 - Cp - U2 / (V * V)) : v[6] / nu);
    }
    const double most = what == 3 && !values.empty() ? *std::max_element(values.begin(), values.end()) : 1.0;
    static const char* names[] = {"V / Vinf", "Cp", "loss / q", "nu_t / nu"};
    auto actor = scene::cutActor(cut, values, what == 1 ? -1.5 : 0.0, what == 0 ? 1.4 : what == 3 ? most : 1.0, false, what == 1);
    auto* r = middle_.canvas().renderer();
    r->AddActor(actor);
    r->AddActor2D(scene::scaleFor(actor, names[what]));
    r->AddActor(scene::wallActor(*fields_->grid, {}, 0, 1, false));
    words_->setText(tr("Plane at %1 m.").arg(at, 0, 'g', 4));
}

void FlowStage::show() {
    load();
    middle_.showCanvas();
    clearScene();
    if (!fields_ || !fields_->grid || fields_->cellData.empty())
        words_->setText(job_.isRunning() ? tr("Reading the flow\u2026") : fields_ && !fields_->error.isEmpty() ? fields_->error : tr("The selected point has no result yet."));
    else
        draw();
    middle_.canvas().refresh();
}

}  // namespace cvane::desk
