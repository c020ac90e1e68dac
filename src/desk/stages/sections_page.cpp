// The middle of the stage Sections: the picture, its slider, and two plots of polars with one legend.
#include <QCheckBox>
#include <QFileDialog>
#include <QScrollArea>
#include <QSplitter>
#include <QToolButton>

#include "base/errors.h"
#include "base/files.h"
#include "base/units.h"
#include "desk/look.h"
#include "desk/stages/sections_stage.h"

namespace cvane::desk {
using base::degree;

namespace {

/// What a plot's axis can show.
struct Quantity {
    const char* name;
    std::function<double(const section::PointFigures&)> value;
};
const std::vector<Quantity>& quantities() {
    using F = section::PointFigures;
    static const std::vector<Quantity> all{
        {"alpha [deg]", [](const F& f) { return f.alpha / degree; }},
        {"cl", [](const F& f) { return f.cl; }},
        {"cd", [](const F& f) { return f.cd; }},
        {"cm", [](const F& f) { return f.cm; }},
        {"cl/cd", [](const F& f) { return f.cd > 0.0 ? f.cl / f.cd : 0.0; }},
        {"transition, upper [x/c]", [](const F& f) { return f.transition[0]; }},
        {"transition, lower [x/c]", [](const F& f) { return f.transition[1]; }},
        {"cd of friction", [](const F& f) { return f.cdFriction; }},
        {"lowest Cp", [](const F& f) { return f.lowestCp; }},
        {"Reynolds number", [](const F& f) { return f.reynolds; }},
    };
    return all;
}

/// Colours of the curves, apart in lightness too.
QColor colourOf(std::size_t i) {
    static const QColor all[] = {QColor(0xc2, 0x55, 0x1c), QColor(0x2f, 0x5d, 0x7c), QColor(0x6b, 0x8e, 0x23),
                                 QColor(0x7a, 0x3b, 0x69), QColor(0xb8, 0x8a, 0x1e), QColor(0x26, 0x2b, 0x33),
                                 QColor(0x3f, 0x8f, 0x86), QColor(0xa0, 0x3a, 0x3a)};
    return all[i % std::size(all)];
}

}  // namespace

void SectionsStage::makePage() {
    page_ = new QWidget;
    auto* column = new QVBoxLayout(page_);
    column->setContentsMargins(6, 6, 6, 6);
    auto* split = new QSplitter(Qt::Vertical);
    picture_ = new SectionPicture;
    split->addWidget(picture_);
    auto* plots = new QWidget;
    auto* plotColumn = new QVBoxLayout(plots);
    plotColumn->setContentsMargins(0, 0, 0, 0);
    auto* tools = new QHBoxLayout;
    reynolds_ = new QComboBox;
    reynolds_->setObjectName("viewReynolds");
    angle_ = new QSlider(Qt::Horizontal);
    angle_->setObjectName("sectionAngle");
    angle_->setToolTip(tr("Angle of attack of the picture"));
    angleWords_ = new QLabel;
    angleWords_->setMinimumWidth(8 * page_->fontMetrics().averageCharWidth());
    auto* band = new QCheckBox(tr("Pressures"));
    band->setChecked(true);
    connect(band, &QCheckBox::toggled, picture_, &SectionPicture::setPressures);
    tools->addWidget(new QLabel(tr("Picture at Re")));
    tools->addWidget(reynolds_);
    tools->addWidget(angle_, 1);
    tools->addWidget(angleWords_);
    tools->addWidget(band);
    plotColumn->addLayout(tools);
    auto* choose = new QHBoxLayout;
    const int defaults[4] = {0, 1, 2, 1};
    const char* names[4] = {"leftX", "leftY", "rightX", "rightY"};
    for (int i = 0; i < 4; ++i) {
        axes_[i] = new QComboBox;
        axes_[i]->setObjectName(names[i]);
        axes_[i]->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        axes_[i]->setMinimumContentsLength(6);
        for (const auto& q : quantities()) axes_[i]->addItem(q.name);
        axes_[i]->setCurrentIndex(defaults[i]);
        connect(axes_[i], &QComboBox::currentIndexChanged, this, &SectionsStage::plotPolars);
    }
    const auto arrange = [this](std::array<int, 4> to) {
        for (int i = 0; i < 4; ++i) {
            const QSignalBlocker quiet(axes_[i]);
            axes_[i]->setCurrentIndex(to[static_cast<std::size_t>(i)]);
        }
        plotPolars();
    };
    auto* overAngle = new QPushButton(tr("Over angle"));
    overAngle->setObjectName("arrangeAngle");
    auto* overLift = new QPushButton(tr("Over lift"));
    overLift->setObjectName("arrangeLift");
    overLift->setToolTip(tr("Drag and moment over lift, as wind-tunnel reports have them"));
    connect(overAngle, &QPushButton::clicked, this, [arrange] { arrange({0, 1, 0, 3}); });
    connect(overLift, &QPushButton::clicked, this, [arrange] { arrange({2, 1, 3, 1}); });
    choose->addWidget(axes_[1]);
    choose->addWidget(new QLabel(tr("over")));
    choose->addWidget(axes_[0]);
    choose->addStretch(1);
    choose->addWidget(overAngle);
    choose->addWidget(overLift);
    choose->addStretch(1);
    choose->addWidget(axes_[3]);
    choose->addWidget(new QLabel(tr("over")));
    choose->addWidget(axes_[2]);
    plotColumn->addLayout(choose);
    // One legend for both plots, whose names switch their curves.
    auto* strip = new QScrollArea;
    strip->setFrameShape(QFrame::NoFrame);
    strip->setWidgetResizable(true);
    strip->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* inside = new QWidget;
    legend_ = new QHBoxLayout(inside);
    legend_->setContentsMargins(0, 0, 0, 0);
    legend_->setSpacing(2);
    strip->setWidget(inside);
    strip->setFixedHeight(3 * page_->fontMetrics().height());
    plotColumn->addWidget(strip);
    auto* pair = new QSplitter(Qt::Horizontal);
    left_ = new Plot;
    left_->setObjectName("leftPolar");
    right_ = new Plot;
    right_->setObjectName("rightPolar");
    pair->addWidget(left_);
    pair->addWidget(right_);
    plotColumn->addWidget(pair, 1);
    cursor_ = new QLabel(" ");
    cursor_->setProperty("role", "note");
    plotColumn->addWidget(cursor_);
    for (Plot* p : {left_, right_}) {
        p->setMouseTracking(true);
        connect(p, &QCustomPlot::mouseMove, this, [this, p](QMouseEvent* e) {
            cursor_->setText(QString("%1 %2   %3 %4")
                                 .arg(p->xAxis->label())
                                 .arg(p->xAxis->pixelToCoord(e->pos().x()), 0, 'g', 4)
                                 .arg(p->yAxis->label())
                                 .arg(p->yAxis->pixelToCoord(e->pos().y()), 0, 'g', 4));
        });
    }
    split->addWidget(plots);
    split->setStretchFactor(0, 2);
    split->setStretchFactor(1, 3);
    column->addWidget(split);
    middle_.addWidget(page_);
    connect(angle_, &QSlider::valueChanged, this, &SectionsStage::lookAtAngle);
    connect(reynolds_, &QComboBox::currentIndexChanged, this, &SectionsStage::lookAtAngle);
}

void SectionsStage::plotPolars() {
    const auto& q = quantities();
    const bool several = document_.settings().sections.reynolds.size() > 1;
    const auto nameOf = [&](const SectionWork::Curve& c) {
        QString name = QString::fromStdString(c.asked.section);
        if (several) name += "  " + reynoldsText(c.asked.what.flow.air.reynolds);
        return name;
    };
    const auto plot = [&](Plot& to, int x, int y) {
        to.begin(q[static_cast<std::size_t>(x)].name, q[static_cast<std::size_t>(y)].name);
        std::size_t colour = 0;
        for (const auto& c : work_.curves()) {
            const QColor ink = colourOf(colour++);
            if (off_.contains(nameOf(c))) continue;
            std::vector<double> px, py;
            for (const auto& p : c.points) {
                if (!p.figures.converged) continue;
                px.push_back(q[static_cast<std::size_t>(x)].value(p.figures));
                py.push_back(q[static_cast<std::size_t>(y)].value(p.figures));
            }
            if (c.asked.section == chosen_ && !c.before.empty()) {
                std::vector<double> bx, by;
                for (const auto& p : c.before) {
                    if (!p.figures.converged) continue;
                    bx.push_back(q[static_cast<std::size_t>(x)].value(p.figures));
                    by.push_back(q[static_cast<std::size_t>(y)].value(p.figures));
                }
                to.add(tr("%1 before").arg(nameOf(c)), bx, by, ink, 2);
            }
            to.add(nameOf(c), px, py, ink, c.asked.section == chosen_ ? 1 : 0);
        }
        if (&to == left_)
            for (const auto& r : references_) to.add(r.name, r.x, r.y, look::faint, 3);
        to.finish();
        to.legend->setVisible(false);
        to.replot();
    };
    QStringList names;
    for (const auto& c : work_.curves()) names << nameOf(c);
    if (names != legendNames_) {
        legendNames_ = names;
        while (auto* item = legend_->takeAt(0)) {
            if (item->widget()) item->widget()->deleteLater();
            delete item;
        }
        for (int i = 0; i < names.size(); ++i) {
            auto* b = new QToolButton;
            QPixmap dot(14, 14);
            dot.fill(colourOf(static_cast<std::size_t>(i)));
            b->setIcon(dot);
            b->setText(names[i]);
            b->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
            b->setCheckable(true);
            b->setChecked(!off_.contains(names[i]));
            b->setAutoRaise(true);
            b->setToolTip(tr("Shows or hides this curve"));
            connect(b, &QToolButton::toggled, this, [this, name = names[i]](bool on) {
                if (on)
                    off_.remove(name);
                else
                    off_.insert(name);
                plotPolars();
            });
            legend_->addWidget(b);
        }
        legend_->addStretch(1);
    }
    plot(*left_, axes_[0]->currentIndex(), axes_[1]->currentIndex());
    plot(*right_, axes_[2]->currentIndex(), axes_[3]->currentIndex());
    std::size_t missed = 0, known = 0;
    for (const auto& c : work_.curves())
        for (const auto& p : c.points) ++known, missed += !p.figures.converged;
    const double share = work_.share();
    progress_->setText(work_.running() ? tr("computing, %1 %").arg(100.0 * share, 0, 'f', 0)
                       : share < 1.0   ? tr("stopped at %1 %").arg(100.0 * share, 0, 'f', 0)
                       : known == 0    ? tr("no polars yet")
                       : missed > 0    ? tr("%1 points; %2 did not converge and are left out").arg(known).arg(missed)
                                       : tr("%1 points, all converged").arg(known));
    stop_->setText(work_.running() ? tr("Stop") : tr("Go on"));
    stop_->setEnabled(work_.running() || share < 1.0);
}

void SectionsStage::lookAtAngle() {
    angleWords_->setText(QString("%1 deg").arg(0.5 * angle_->value(), 0, 'f', 1));
    if (!current_ && !page_->isVisible()) return;
    if (!chosen()) {
        picture_->show({}, {});
        return;
    }
    work_.look(chosen_, reynolds_->count() > 0 ? reynolds_->currentData().toDouble() : 1e6,
               0.5 * angle_->value() * degree);
}

void SectionsStage::show() {
    middle_.setCurrentWidget(page_);
    lookAtAngle();
}

void SectionsStage::addReference() {
    const QString file =
        QFileDialog::getOpenFileName(sheet_, tr("Published data"), {}, tr("Tables (*.csv *.txt *.dat)"));
    if (file.isEmpty()) return;
    try {
        Reference r{QFileInfo(file).completeBaseName(), {}, {}};
        for (const QString& line : QString::fromStdString(base::readFile(file.toStdString())).split('\n')) {
            const auto words = QString(line).replace(',', ' ').replace(';', ' ').simplified().split(' ');
            bool okX = false, okY = false;
            if (words.size() < 2) continue;
            const double x = words[0].toDouble(&okX), y = words[1].toDouble(&okY);
            if (okX && okY) r.x.push_back(x), r.y.push_back(y);
        }
        if (r.x.empty())
            throw base::InputError("holds no rows of two numbers.", QFileInfo(file).fileName().toStdString(),
                                   "Give x and y in the axes of the left plot.");
        references_.push_back(r);
        plotPolars();
    } catch (const std::exception& problem) {
        emit document_.problem(problem.what());
    }
}

}  // namespace cvane::desk
