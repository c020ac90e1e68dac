#include "desk/stages/pressures_stage.h"

#include <QApplication>
#include <QClipboard>
#include <QPushButton>

#include "desk/look.h"
#include "desk/scene.h"

namespace cvane::desk {

PressuresStage::PressuresStage(Document& d, Middle& m) : Stage(d, m), loader_(d) {
    makeSheet();
    words_ = note();
    column_->addWidget(words_);
    auto* view = section(tr("Look at"));
    what_ = new QComboBox;
    what_->setObjectName("pressureView");
    what_->addItems({tr("Cp on the surface"), tr("Cp along a cut")});
    view->addRow(tr("Show"), what_);
    axis_ = new QComboBox;
    axis_->setObjectName("stationAxis");
    axis_->addItems({tr("across x"), tr("across y"), tr("across z")});
    axis_->setCurrentIndex(1);
    view->addRow(tr("Cut"), axis_);
    place_ = new QDoubleSpinBox;
    place_->setObjectName("stationPlace");
    place_->setRange(-1e4, 1e4);
    place_->setDecimals(4);
    place_->setSingleStep(0.05);
    place_->setSuffix(" m");
    view->addRow(tr("At"), place_);
    auto* copy = new QPushButton(tr("Copy the cut for a spreadsheet"));
    view->addRow(copy);
    column_->addStretch(1);
    connect(copy, &QPushButton::clicked, this, [this] {
        if (!loader_.ready()) return;
        QString text = QString::fromStdString(
            readout::toCsv(readout::cutStation(*loader_.fields().grid, *loader_.fields().geometry,
                                               loader_.fields().wall, axis_->currentIndex(), place_->value())));
        QApplication::clipboard()->setText(text.replace(',', '\t'));
    });
    const auto again = [this] {
        if (current_) show();
    };
    connect(what_, &QComboBox::currentIndexChanged, this, again);
    connect(axis_, &QComboBox::currentIndexChanged, this, again);
    connect(place_, &QDoubleSpinBox::valueChanged, this, again);
    document_.when(Change::Selection, this, again);
    document_.when(Change::Grid, this, again);
    document_.when(Change::Model, this, [this] {
        const QSignalBlocker quiet(place_);
        place_->setValue(document_.measures().bounds.centre()[axis_->currentIndex()] +
                         1e-4 * document_.measures().bounds.size().norm());
    });
    connect(&loader_, &FieldLoader::changed, this, again);
}

QString PressuresStage::keyFigure() const {
    if (!loader_.ready() || loader_.fields().wall.Cp.empty()) return {};
    const auto [lo, hi] = std::minmax_element(loader_.fields().wall.Cp.begin(), loader_.fields().wall.Cp.end());
    return QString("Cp %1 \u2026 %2").arg(*lo, 0, 'f', 2).arg(*hi, 0, 'f', 2);
}

Stage::State PressuresStage::state() const {
    return stateOfResult();
}

void PressuresStage::plot() {
    const auto station = readout::cutStation(*loader_.fields().grid, *loader_.fields().geometry, loader_.fields().wall,
                                             axis_->currentIndex(), place_->value());
    auto &top = middle_.upper(), &bottom = middle_.lower();
    const QString along = axis_->currentIndex() == 0 ? "z/h" : "x/c";
    top.begin(along, "Cp");
    bottom.begin(along, "Cf");
    for (const bool upper : {true, false}) {
        std::vector<double> x, Cp, Cf;
        for (const auto& s : station.samples)
            if (s.upper == upper) {
                x.push_back(s.fraction);
                Cp.push_back(s.Cp);
                Cf.push_back(s.Cf);
            }
        if (x.empty()) continue;
        const QString name = axis_->currentIndex() == 1 ? (upper ? tr("upper side") : tr("lower side"))
                                                        : (upper ? tr("starboard") : tr("port"));
        top.add(name, x, Cp, upper ? look::accent : look::calm, 1);
        bottom.add(name, x, Cf, upper ? look::accent : look::calm, 1);
    }
    // Suction upwards, as sections are read in this trade.
    top.finish(true);
    bottom.finish();
    middle_.showPlots(true);
    words_->setText(
        station.samples.empty()
            ? tr("The plane misses the model.")
            : tr("%1 places; the cut is %2 m long.").arg(station.samples.size()).arg(station.chord, 0, 'g', 4));
}

void PressuresStage::show() {
    loader_.wanted();
    if (!loader_.ready()) {
        middle_.showCanvas();
        scene_.begin();
        scene_.finish();
        words_->setText(loader_.excuse());
        middle_.canvas().refresh();
        return;
    }
    if (what_->currentIndex() == 1) {
        plot();
        return;
    }
    middle_.showCanvas();
    scene_.begin();
    const auto from = std::to_string(loader_.generation());
    scene_.keep("wall", from, [&] {
        return scene::wallActor(*loader_.fields().grid, loader_.fields().CpAtPoints, -1.5, 1.0, false);
    });
    scene_.keep("scale", from, [&] { return scene::scaleFor(-1.5, 1.0, field::Sense::AboutZero, "Cp"); });
    scene_.finish();
    words_->setText(tr("Colours from -1.5 to 1; pale is the free stream's pressure."));
    middle_.canvas().refresh();
}

}  // namespace cvane::desk
