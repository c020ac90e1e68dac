// The middle of the stage Sections: the picture, its slider, and two plots of polars with one legend.
#include <QCheckBox>
#include <QMenu>
#include <QScrollArea>
#include <QSplitter>
#include <QToolButton>

#include "base/units.h"
#include "desk/by_turns.h"
#include "desk/look.h"
#include "desk/stages/sections_stage.h"
#include "desk/wrap_layout.h"

namespace cvane::desk {
using base::degree;

namespace {

/// What a plot's axis can show of a polar.
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
        {"Mach number", [](const F& f) { return f.mach; }},
        {"n of transition", [](const F& f) { return f.nCritical; }},
    };
    return all;
}

/// What a plot can show along the chord; the field knows some of it.
struct Along {
    const char* name;
    std::function<double(const section::LayerSample&)> value;
    std::function<double(const campaign::SectionFieldPoint::Wall&)> ofField;
};
const std::vector<Along>& alongs() {
    using L = section::LayerSample;
    using W = campaign::SectionFieldPoint::Wall;
    static const std::vector<Along> all{
        {"Cp", [](const L& s) { return s.Cp; }, [](const W& w) { return w.Cp; }},
        {"edge speed over V", [](const L& s) { return s.speed; },
         [](const W& w) { return std::sqrt(std::max(1.0 - w.Cp, 0.0)); }},
        {"cf", [](const L& s) { return s.cf; }, [](const W& w) { return w.cf; }},
        {"displacement thickness / c", [](const L& s) { return s.deltaStar; }, {}},
        {"momentum thickness / c", [](const L& s) { return s.theta; }, {}},
        {"shape factor", [](const L& s) { return s.H; }, {}},
        {"amplification n", [](const L& s) { return s.amplification; }, {}},
    };
    return all;
}

void withEdit(campaign::SectionEntry& e, const section::SectionEdit& edit) {
    if (edit.thickness) e.thickness = edit.thickness;
    if (edit.thicknessAt) e.thicknessAt = edit.thicknessAt;
    if (edit.camber) e.camber = edit.camber;
    if (edit.camberAt) e.camberAt = edit.camberAt;
    if (edit.noseRadius) e.noseRadius = edit.noseRadius;
}

/// The field's points have the colour of the panels' curve of the same section and Reynolds number.
QColor colourOf(const std::vector<SectionWork::Curve>& all, std::size_t i) {
    const auto same = [&](const SectionWork::Curve& c) {
        return !c.field && c.asked.section == all[i].asked.section &&
               c.asked.flapTurn_deg == all[i].asked.flapTurn_deg &&
               c.asked.what.flow.air.reynolds == all[i].asked.what.flow.air.reynolds;
    };
    const auto panels = all[i].field ? std::find_if(all.begin(), all.end(), same) : all.end();
    return look::curve(panels == all.end() ? i : static_cast<std::size_t>(panels - all.begin()));
}

}  // namespace

void SectionsStage::makePage() {
    page_ = new QWidget;
    auto* column = new QVBoxLayout(page_);
    column->setContentsMargins(6, 6, 6, 6);
    auto* pane = new QWidget;
    auto* paneColumn = new QVBoxLayout(pane);
    paneColumn->setContentsMargins(0, 0, 0, 0);
    picture_ = new SectionPicture;
    paneColumn->addWidget(picture_, 1);
    auto* plots = new QWidget;
    auto* plotColumn = new QVBoxLayout(plots);
    plotColumn->setContentsMargins(0, 0, 0, 0);
    auto* tools = new WrapLayout(6);
    reynolds_ = new QComboBox;
    reynolds_->setObjectName("viewReynolds");
    reynolds_->setAccessibleName(tr("Reynolds number of the picture"));
    angle_ = new QSlider(Qt::Horizontal);
    angle_->setObjectName("sectionAngle");
    angle_->setAccessibleName(tr("Angle of the picture"));
    angle_->setToolTip(tr("Angle of attack of the picture"));
    angleWords_ = new QLabel;
    angleWords_->setMinimumWidth(8 * page_->fontMetrics().averageCharWidth());
    auto* band = new QCheckBox(tr("Pressures"));
    band->setChecked(true);
    connect(band, &QCheckBox::toggled, picture_, &SectionPicture::setPressures);
    constexpr int kSlider = 150;
    angle_->setFixedWidth(kSlider);
    tools->addTogether({new QLabel(tr("Picture at Re")), reynolds_});
    tools->addTogether({angle_, angleWords_});
    grid_ = new QCheckBox(tr("Grid"));
    grid_->setObjectName("showGrid");
    grid_->setToolTip(tr("Cells that the field is solved on; the wheel leads to the layers, a double click back"));
    byHand_ = new QCheckBox(tr("Shape by hand"));
    byHand_->setObjectName("shapeByHand");
    byHand_->setToolTip(tr("Drag thickness, camber and nose in the picture"));
    connect(grid_, &QCheckBox::toggled, this, [this](bool on) {
        if (on && chosen())
            work_.makeGrid(chosen_);
        else
            picture_->setCells({});
    });
    connect(byHand_, &QCheckBox::toggled, picture_, &SectionPicture::setByHand);
    connect(picture_, &SectionPicture::shaping, this, [this](const section::SectionEdit& edit) {
        if (const auto* e = chosen()) try {
                auto tried = *e;
                withEdit(tried, edit);
                picture_->preview(campaign::outlineOf(document_.campaign(), tried));
            } catch (const std::exception&) {
                return;  // beyond what a section can be: the last shape stays
            }
    });
    connect(picture_, &SectionPicture::shaped, this, [this](const section::SectionEdit& edit) {
        // Drags of one part are one step, those of another part another.
        const QString part = edit.noseRadius ? tr("nose") : edit.camber ? tr("camber") : tr("thickness");
        changeChosen(tr("drag the %1 of a section").arg(part), [&](auto& e) { withEdit(e, edit); });
    });
    for (auto* box : {band, grid_, byHand_}) tools->addWidget(box);
    paneColumn->addLayout(tools);
    auto* choose = new WrapLayout(6);
    const char* names[4] = {"leftX", "leftY", "rightX", "rightY"};
    for (int i = 0; i < 4; ++i) {
        axes_[i] = new QComboBox;
        axes_[i]->setObjectName(names[i]);
        axes_[i]->setAccessibleName(
            QStringList{tr("Left plot, over"), tr("Left plot"), tr("Right plot, over"), tr("Right plot")}[i]);
        axes_[i]->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        axes_[i]->setMinimumContentsLength(6);
        connect(axes_[i], &QComboBox::currentIndexChanged, this, &SectionsStage::plotPolars);
    }
    // In one menu, so that a narrow window has room for the plots.
    auto* usual = new QToolButton;
    usual->setObjectName("arrange");
    usual->setText(tr("Arrange"));
    usual->setToolTip(tr("What the two plots show, by habit"));
    usual->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(usual);
    const auto habit = [&](const QString& text, const char* name, const QString& tip, bool chord,
                           const std::array<int, 4>& axes) {
        auto* action = menu->addAction(text, this, [this, chord, axes] { arrange(chord, axes); });
        action->setObjectName(name);
        action->setToolTip(tip);
    };
    habit(tr("Over angle"), "arrangeAngle", tr("Lift and moment over the angle of attack"), false, {0, 1, 0, 3});
    habit(tr("Over lift"), "arrangeLift", tr("Drag and moment over lift, as wind-tunnel reports have them"), false,
          {2, 1, 3, 1});
    habit(tr("Along the chord"), "arrangeChord", tr("Pressure, friction and layers at the picture's angle"), true,
          {0, 0, 0, 2});
    menu->setToolTipsVisible(true);
    usual->setMenu(menu);
    choose->addTogether({axes_[1], new QLabel(tr("over")), axes_[0]});
    choose->addTogether({usual});
    choose->addTogether({axes_[3], new QLabel(tr("over")), axes_[2]});
    plotColumn->addLayout(choose);
    // One legend for both plots, whose names switch their curves.
    auto* strip = new QScrollArea;
    strip->setFocusPolicy(Qt::NoFocus);
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
    constexpr int kRoomForBoth = 40;  // lines
    column->addWidget(
        new ByTurns(pane, tr("Picture"), plots, tr("Polars"), kRoomForBoth * page_->fontMetrics().height()));
    middle_.addWidget(page_);
    connect(angle_, &QSlider::valueChanged, this, &SectionsStage::lookAtAngle);
    connect(reynolds_, &QComboBox::currentIndexChanged, this, [this] {
        lookAtAngle();
        plotPolars();
    });
    arrange(false, {0, 1, 2, 1});
}

void SectionsStage::arrange(bool alongChord, std::array<int, 4> to) {
    alongChord_ = alongChord;
    for (int i = 0; i < 4; ++i) {
        const QSignalBlocker quiet(axes_[i]);
        axes_[i]->clear();
        if (alongChord && i % 2 == 0) axes_[i]->addItem("x/c");
        if (alongChord && i % 2 == 1)
            for (const auto& q : alongs()) axes_[i]->addItem(q.name);
        if (!alongChord)
            for (const auto& q : quantities()) axes_[i]->addItem(q.name);
        axes_[i]->setCurrentIndex(to[static_cast<std::size_t>(i)]);
    }
    plotPolars();
}

QString SectionsStage::nameOf(const SectionWork::Curve& c) const {
    const auto& s = document_.settings().sections;
    const auto& flow = c.asked.what.flow;
    QString name = QString::fromStdString(c.asked.section);
    if (s.reynolds.size() > 1) name += "  " + reynoldsText(flow.air.reynolds);
    if (s.flapTurns_deg.size() > 1) name += tr("  flap %1").arg(c.asked.flapTurn_deg, 0, 'g', 3);
    if (c.field) return name + tr("  field");
    if (s.mach.size() > 1) name += tr("  M %1").arg(flow.air.mach, 0, 'g', 3);
    if (s.nCritical.size() > 1) name += tr("  n %1").arg(flow.nCritical, 0, 'g', 3);
    return name;
}

void SectionsStage::plotPair(Plot& to, std::size_t x, std::size_t y) {
    const auto& q = quantities();
    to.begin(q[x].name, q[y].name);
    const auto add = [&](const QString& name, const std::vector<section::PolarPoint>& points, const QColor& ink,
                         int style) {
        std::vector<double> px, py;
        for (const auto& p : points) {
            if (!p.figures.converged) continue;
            px.push_back(q[x].value(p.figures));
            py.push_back(q[y].value(p.figures));
        }
        to.add(name, px, py, ink, style);
    };
    for (std::size_t i = 0; i < work_.curves().size(); ++i) {
        const auto& c = work_.curves()[i];
        const QColor ink = colourOf(work_.curves(), i);
        const QString name = nameOf(c);
        if (off_.contains(name)) continue;
        if (c.asked.section == chosen_ && !c.before.empty()) add(tr("%1 before").arg(name), c.before, ink, 2);
        add(name, c.points, ink, c.field ? 3 : c.asked.section == chosen_ ? 1 : 0);
    }
    drawReadings(to, q[x].name, q[y].name);
}

void SectionsStage::drawReadings(Plot& to, const QString& x, const QString& y) {
    for (const auto& c : work_.curves()) {
        if (c.field || c.asked.section != chosen_ || off_.contains(nameOf(c)) ||
            c.asked.what.flow.air.reynolds != reynolds_->currentData().toDouble())
            continue;
        const auto f = section::figuresOfPolar(c.points);
        if (!f) return;
        const auto line = [&](const std::vector<double>& px, const std::vector<double>& py) {
            to.add(tr("read out"), px, py, look::faint, 2);
        };
        const double slope = f->slope * degree, zero = f->zeroLift / degree, best = f->bestRatio;
        if (x == "alpha [deg]" && y == "cl") {
            line({zero, zero + f->clMax / slope}, {0.0, f->clMax});
            if (f->stalls) line({zero + 0.6 * f->clMax / slope, f->clMaxAt / degree}, {f->clMax, f->clMax});
        }
        if (x == "cd" && y == "cl" && best > 0.0) {
            line({0.0, f->bestRatioAt / best}, {0.0, f->bestRatioAt});
            line({f->cdMin, f->cdMin}, {0.0, f->cdMinAt});
        }
        return;  // of the first one: the picture's
    }
}

void SectionsStage::plotAlong(Plot& to, std::size_t what) {
    const auto& q = alongs()[what];
    const auto& d = work_.view().distribution;
    to.begin("x/c", q.name);
    const auto* field = work_.fieldView();
    for (const bool up : {true, false}) {
        std::vector<double> x, y;
        for (const auto& s : up ? d.upper : d.lower) x.push_back(s.x), y.push_back(q.value(s));
        to.add(up ? tr("upper") : tr("lower"), x, y, up ? look::accent : look::calm, 0);
        if (!field || !q.ofField) continue;
        x.clear(), y.clear();
        for (const auto& w : up ? field->upper : field->lower) x.push_back(w.x), y.push_back(q.ofField(w));
        to.add(up ? tr("upper, field") : tr("lower, field"), x, y, up ? look::accent : look::calm, 4);
    }
}

void SectionsStage::fillLegend() {
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
            dot.fill(colourOf(work_.curves(), static_cast<std::size_t>(i)));
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
}

void SectionsStage::plotPolars() {
    fillLegend();
    const auto index = [this](int i) { return static_cast<std::size_t>(std::max(axes_[i]->currentIndex(), 0)); };
    const std::pair<Plot*, int> both[] = {{left_, 0}, {right_, 2}};
    for (const auto& [plot, first] : both) {
        if (alongChord_)
            plotAlong(*plot, index(first + 1));
        else
            plotPair(*plot, index(first), index(first + 1));
        if (plot == left_)
            for (const auto& r : references_) plot->add(r.name, r.x, r.y, look::faint, 3);
        plot->finish(alongChord_ && index(first + 1) == 0);  // suction upwards, as pressures are drawn
        plot->showLegend(alongChord_);
        plot->redraw();
    }
    std::size_t missed = 0, known = 0;
    for (const auto& c : work_.curves())
        for (const auto& p : c.points)
            if (!c.field) ++known, missed += !p.figures.converged;
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
        picture_->show({}, {}, nullptr);
        return;
    }
    work_.look(chosen_, reynolds_->count() > 0 ? reynolds_->currentData().toDouble() : 1e6,
               0.5 * angle_->value() * degree);
}

void SectionsStage::show() {
    middle_.setCurrentWidget(page_);
    lookAtAngle();
}

}  // namespace cvane::desk
