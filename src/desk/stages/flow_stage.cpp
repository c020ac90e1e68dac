#include "desk/stages/flow_stage.h"

#include "desk/scene.h"

namespace cvane::desk {

FlowStage::FlowStage(Document& d, Middle& m) : Stage(d, m), loader_(d, true) {
    makeSheet();
    words_ = note();
    column_->addWidget(words_);
    auto* view = section(tr("On a cut through the air"));
    what_ = new QComboBox;
    what_->setObjectName("flowField");
    what_->addItems({tr("speed over free stream"), tr("Cp"), tr("lost total pressure, over q"),
                     tr("eddy over molecular viscosity")});
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
    document_.when(Change::Selection, this, again);
    connect(&loader_, &FieldLoader::changed, this, again);
}

QString FlowStage::keyFigure() const {
    return loader_.ready() ? what_->currentText() : QString();
}
Stage::State FlowStage::state() const {
    return stateOfResult();
}

void FlowStage::draw() {
    const int axis = axis_->currentIndex(), what = what_->currentIndex();
    const double at = placeAt(axis, place_->value());
    const auto cut = grid::cutAlongAxis(*loader_.fields().grid, axis, at);
    const double V = loader_.fields().wind.speed, q = 0.5 * V * V, nu = loader_.fields().wind.air.kinematicViscosity();
    std::vector<double> values;
    values.reserve(cut.cell.size());
    for (const auto c : cut.cell) {
        const double* v = loader_.fields().cellData.data() + 7 * static_cast<std::size_t>(c);
        const double U2 = v[0] * v[0] + v[1] * v[1] + v[2] * v[2], Cp = v[3] / q;
        values.push_back(what == 0   ? std::sqrt(U2) / V
                         : what == 1 ? Cp
                         : what == 2 ? std::max(0.0, 1.0 - Cp - U2 / (V * V))
                                     : v[6] / nu);
    }
    const double most = what == 3 && !values.empty() ? *std::max_element(values.begin(), values.end()) : 1.0;
    static const char* names[] = {"V / Vinf", "Cp", "loss / q", "nu_t / nu"};
    auto actor = scene::cutActor(cut, values, what == 1 ? -1.5 : 0.0,
                                 what == 0   ? 1.4
                                 : what == 3 ? most
                                             : 1.0,
                                 false, what == 1);
    scene_.add("cut", actor);
    scene_.add("scale", scene::scaleFor(actor, names[what]));
    scene_.keep("wall", std::to_string(loader_.generation()),
                [&] { return scene::wallActor(*loader_.fields().grid, {}, 0, 1, false); });
    words_->setText(tr("Plane at %1 m.").arg(at, 0, 'g', 4));
}

void FlowStage::show() {
    loader_.wanted();
    middle_.showCanvas();
    scene_.begin();
    if (!loader_.ready() || loader_.fields().cellData.empty())
        words_->setText(loader_.excuse());
    else
        draw();
    scene_.finish();
    middle_.canvas().refresh();
}

}  // namespace cvane::desk
