// The middle of the stage Wing: both views, a polar with axes of choice, and what runs along the span.
#include <QSplitter>

#include "base/units.h"
#include "desk/by_turns.h"
#include "desk/look.h"
#include "desk/stages/wing/wing_stage.h"
#include "desk/wrap_layout.h"
#include "lifting/tables.h"

namespace cvane::desk {
using base::degree;

namespace {
/// What a polar's axis shows of an angle, and of a point of the field.
struct Quantity {
    const char* name;
    std::function<double(const lifting::Row&, const air::Reference&)> value;
    std::function<double(const readout::Result&)> ofField;
};
const std::vector<Quantity>& quantities() {
    using R = lifting::Row;
    using F = air::Reference;
    using X = readout::Result;
    static const std::vector<Quantity> all{
        {"alpha [deg]", [](const R& r, const F&) { return r.wind.alpha / degree; },
         [](const X& x) { return x.wind.alpha / degree; }},
        {"CL", [](const R& r, const F&) { return r.coefficients.CL; }, [](const X& x) { return x.coefficients.CL; }},
        {"CD", [](const R& r, const F&) { return r.coefficients.CD; }, [](const X& x) { return x.coefficients.CD; }},
        {"induced CD", [](const R& r, const F&) { return r.inducedFar; }, {}},
        {"profile CD", [](const R& r, const F&) { return r.profile; }, {}},
        {"Cm", [](const R& r, const F&) { return r.coefficients.Cm; }, [](const X& x) { return x.coefficients.Cm; }},
        {"L/D", [](const R& r, const F&) { return r.liftOverDrag(); },
         [](const X& x) { return x.coefficients.CL / x.coefficients.CD; }},
        {"e", [](const R& r, const F&) { return r.efficiency; }, {}},
        {"speed [m/s]", [](const R& r, const F&) { return r.wind.speed; }, [](const X& x) { return x.wind.speed; }},
        {"sink [m/s]", [](const R& r, const F& f) { return lifting::flightOf(r, f).sink; }, {}},
        {"power [W]", [](const R& r, const F& f) { return lifting::flightOf(r, f).power; }, {}},
        {"trim [deg]", [](const R& r, const F&) { return r.trimAngle_deg; }, {}},
        {"stalled share", [](const R& r, const F&) { return r.stalledShare; }, {}},
    };
    return all;
}

/// What runs along the span.
struct AlongSpan {
    const char* name;
    std::function<double(const lifting::SpanLoad&)> value;
};
const std::vector<AlongSpan>& alongs() {
    using L = lifting::SpanLoad;
    static const std::vector<AlongSpan> all{
        {"cl c / mean chord", [](const L& l) { return l.loading; }},
        {"cl", [](const L& l) { return l.strip->load.cl; }},
        {"downwash [m/s]", [](const L& l) { return l.strip->load.downwash; }},
        {"cd", [](const L& l) { return l.strip->cd; }},
        {"shear [N]", [](const L& l) { return l.shear; }},
        {"bending moment [N m]", [](const L& l) { return l.bending; }},
        {"Reynolds number", [](const L& l) { return l.strip->reynolds; }},
    };
    return all;
}
}  // namespace

void WingStage::makePage() {
    page_ = new QWidget;
    auto* column = new QVBoxLayout(page_);
    column->setContentsMargins(6, 6, 6, 6);
    view_ = new PlanformView;
    connect(view_, &PlanformView::chosen, this, [this](int station) {
        const QSignalBlocker quiet(stations_);
        stations_->setCurrentCell(station, 0);
    });
    connect(view_, &PlanformView::shaping, this, [this](const wing::Aircraft& a) {
        try {
            auto quick = asked();
            quick.sectionDrag = quick.holdStrips = quick.derivatives = false;
            work_.ask(a, quick);
        } catch (const std::exception&) {
            return;  // what is typed beside is no number yet: the plots stay
        }
    });
    connect(view_, &PlanformView::shaped, this, [this](const wing::Aircraft& a) {
        changeAircraft(tr("drag a station"), [&](wing::Aircraft& now) { now = a; });
    });
    auto* plots = new QWidget;
    constexpr int kLeastLines = 13;
    plots->setMinimumHeight(kLeastLines * page_->fontMetrics().height());
    auto* plotColumn = new QVBoxLayout(plots);
    plotColumn->setContentsMargins(0, 0, 0, 0);
    auto* tools = new WrapLayout(6);
    const char* names[3] = {"polarX", "polarY", "spanY"};
    for (std::size_t k = 0; k < 3; ++k) {
        axes_[k] = new QComboBox;
        axes_[k]->setObjectName(names[k]);
        axes_[k]->setAccessibleName(
            QStringList{tr("Polar, over"), tr("Polar"), tr("Along the span")}[static_cast<int>(k)]);
        if (k < 2)
            for (const auto& q : quantities()) axes_[k]->addItem(q.name);
        else
            for (const auto& q : alongs()) axes_[k]->addItem(q.name);
        axes_[k]->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        axes_[k]->setMinimumContentsLength(8);
    }
    axes_[1]->setCurrentIndex(1);
    tools->addTogether({axes_[1], new QLabel(tr("over")), axes_[0]});
    tools->addTogether({axes_[2], new QLabel(tr("along the span"))});
    plotColumn->addLayout(tools);
    auto* pair = new QSplitter(Qt::Horizontal);
    polar_ = new Plot;
    polar_->setObjectName("wingPolar");
    span_ = new Plot;
    span_->setObjectName("spanLoading");
    pair->addWidget(polar_);
    pair->addWidget(span_);
    plotColumn->addWidget(pair, 1);
    constexpr int kRoomForBoth = 24;
    auto* panes = new ByTurns(view_, tr("Shape"), plots, tr("Polars"), kRoomForBoth * page_->fontMetrics().height());
    panes->setName("wingByTurns");
    column->addWidget(panes);
    for (std::size_t k = 0; k < 2; ++k) connect(axes_[k], &QComboBox::currentIndexChanged, this, &WingStage::plotPolar);
    connect(axes_[2], &QComboBox::currentIndexChanged, this, &WingStage::plotSpan);
    connect(polar_, &QCustomPlot::mousePress, this, [this](QMouseEvent* e) { pressed_ = e->position(); });
    connect(polar_, &QCustomPlot::mouseRelease, this, [this](QMouseEvent* e) {
        // A drag moves the picture, and a click chooses.
        if ((e->position() - pressed_).manhattanLength() < QApplication::startDragDistance())
            chooseOnPolar(e->position());
    });
    middle_.addWidget(page_);
}

void WingStage::show() {
    if (draws())
        middle_.showCanvas();
    else
        middle_.setCurrentWidget(page_);
    plot();
}

void WingStage::showScene(bool on) {
    Stage::showScene(on);
    if (on) looking_->draw();
}

void WingStage::showAngle() {
    looking_->take(work_.shown());
    plotPolar();
    plotSpan();
    if (current_ && draws()) looking_->draw();
}

// The angle whose point on the polar is the nearest.
void WingStage::chooseOnPolar(const QPointF& pixel) {
    const auto shown = work_.shown();
    if (!shown) return;
    const auto x = static_cast<std::size_t>(axes_[0]->currentIndex()),
               y = static_cast<std::size_t>(axes_[1]->currentIndex());
    constexpr double kNear = 24.0;  // [pixels]
    double nearest = kNear;
    for (std::size_t k = 0; k < shown->outcome.rows.size(); ++k) {
        const auto& r = shown->outcome.rows[k];
        const QPointF at(polar_->xAxis->coordToPixel(quantities()[x].value(r, shown->outcome.reference)),
                         polar_->yAxis->coordToPixel(quantities()[y].value(r, shown->outcome.reference)));
        const double off = std::hypot(at.x() - pixel.x(), at.y() - pixel.y());
        if (off < nearest) nearest = off, looking_->choose(k);
    }
}

void WingStage::plot() {
    const auto shown = work_.shown();
    QString text;
    if (shown && shown->outcome.derivatives) {
        const auto& d = *shown->outcome.derivatives;
        text = tr("Neutral point at x %1%2, static margin %3 % of the mean chord. Per rad: CL %4 and Cm %5 by alpha, "
                  "Cn %6 and Cl "
                  "%7 by beta; Cl %8 by roll, Cm %9 by pitch rate.")
                   .arg(d.neutralPoint.x() / lengthUnit(), 0, 'f', 4)
                   .arg(lengthSuffix())
                   .arg(100.0 * d.staticMargin, 0, 'f', 1)
                   .arg(d.alpha.CL, 0, 'f', 3)
                   .arg(d.alpha.Cm, 0, 'f', 3)
                   .arg(d.beta.Cn, 0, 'f', 4)
                   .arg(d.beta.Cl, 0, 'f', 4)
                   .arg(d.roll.Cl, 0, 'f', 3)
                   .arg(d.pitch.Cm, 0, 'f', 2);
    }
    if (shown) {
        for (const auto& r : shown->outcome.rows)
            if (!r.reached) {
                text += " " +
                        tr("Alpha %1 deg: %2").arg(r.wind.alpha / degree, 0, 'g', 3).arg(QString::fromStdString(r.why));
                break;
            }
        if (const auto v = lifting::stallSpeed(shown->outcome, shown->aircraft.mass, shown->asked.air))
            text += " " + tr("Stall speed %1 m/s.").arg(*v, 0, 'f', 2);
        for (const auto& r : shown->outcome.remarks) text += " " + QString::fromStdString(r);
    }
    if (!work_.trouble().isEmpty()) text = work_.trouble();
    stability_->setText(text);
    if (hasAircraft()) fillMeasures();
    says_->setText(work_.words().isEmpty() ? QString() : tr("At work: %1.").arg(work_.words()));
    showAngle();
}

void WingStage::plotField(std::size_t x, std::size_t y) {
    const auto& all = quantities();
    if (!all[x].ofField || !all[y].ofField) return;
    std::vector<std::pair<double, double>> points;
    for (const auto& r : document_.reports())
        if (r.result && r.point.method == campaign::Method::Field &&
            r.point.configuration == document_.configuration() && r.point.setUp == document_.setUp() &&
            r.state == campaign::PointState::Settled)
            points.emplace_back(all[x].ofField(*r.result), all[y].ofField(*r.result));
    if (points.empty()) return;
    std::sort(points.begin(), points.end());
    std::vector<double> px, py;
    for (const auto& [a, b] : points) px.push_back(a), py.push_back(b);
    polar_->add(tr("field"), px, py, look::curve(1), 3);
}

void WingStage::plotPolar() {
    const auto shown = work_.shown();
    const auto x = static_cast<std::size_t>(axes_[0]->currentIndex()),
               y = static_cast<std::size_t>(axes_[1]->currentIndex());
    const auto& all = quantities();
    polar_->begin(all[x].name, all[y].name);
    if (shown) {
        std::vector<double> px, py, failedX, failedY;
        const auto& rows = shown->outcome.rows;
        for (const auto& r : rows) {
            const double a = all[x].value(r, shown->outcome.reference), b = all[y].value(r, shown->outcome.reference);
            if (r.reached)
                px.push_back(a), py.push_back(b);
            else
                failedX.push_back(a), failedY.push_back(b);
        }
        polar_->add(shown->whole ? tr("lifting surface") : tr("without profile drag"), px, py, look::curve(0), 1);
        for (std::size_t k = 0; k < shown->outcomes.size(); ++k) {
            const auto& other = shown->outcomes[k];
            std::vector<double> ox, oy;
            for (const auto& r : other.rows)
                if (r.reached)
                    ox.push_back(all[x].value(r, other.reference)), oy.push_back(all[y].value(r, other.reference));
            // The first colours are those of the aircraft itself and of the field.
            polar_->add(QString::fromStdString(shown->loadings[k].name()), ox, oy, look::curve(k + 2), 0);
        }
        if (!failedX.empty()) polar_->add(tr("not reached"), failedX, failedY, look::faint, 4);
        const auto at = std::min(looking_->angle(), rows.size() - 1);
        polar_->add(tr("at the slider"), {all[x].value(rows[at], shown->outcome.reference)},
                    {all[y].value(rows[at], shown->outcome.reference)}, look::accent, 3);
        plotField(x, y);
    }
    polar_->finish();
}

void WingStage::plotSpan() {
    const auto shown = work_.shown();
    const auto& what = alongs()[static_cast<std::size_t>(axes_[2]->currentIndex())];
    const double unit = lengthUnit();
    // Along the surface, not y: a ring comes back over the same y.
    span_->begin(tr("along the surface [%1], port left").arg(lengthSuffix().trimmed()), what.name);
    std::vector<Vec3> stalled;
    if (shown && !shown->outcome.rows.empty()) {
        const auto at = std::min(looking_->angle(), shown->outcome.rows.size() - 1);
        const auto& row = shown->outcome.rows[at];
        const auto loads = lifting::spanLoads(row, shown->outcome.reference);
        for (std::size_t s = 0; s < shown->aircraft.surfaces.size(); ++s) {
            std::vector<std::pair<double, double>> points;
            for (const auto& l : loads) {
                if (l.strip->strip.surface != s) continue;
                const double y = (l.strip->strip.port ? -1.0 : 1.0) * l.strip->strip.along / unit;
                points.emplace_back(y, what.value(l));
                // Of a symmetric flow the lattice has the starboard half.
                if (shown->aircraft.surfaces[s].mirrored && wing::isSymmetric(shown->aircraft) && row.wind.beta == 0.0)
                    points.emplace_back(-y, what.value(l));
            }
            if (points.empty()) continue;
            std::sort(points.begin(), points.end());
            std::vector<double> px, py;
            for (const auto& [a, b] : points) px.push_back(a), py.push_back(b);
            span_->add(QString::fromStdString(shown->aircraft.surfaces[s].name), px, py, look::curve(s), 0);
        }
        for (const auto& s : row.strips)
            if (s.stalled) {
                stalled.push_back(s.strip.quarter);
                if (shown->aircraft.surfaces[s.strip.surface].mirrored)
                    stalled.emplace_back(s.strip.quarter.x(), -s.strip.quarter.y(), s.strip.quarter.z());
            }
    }
    span_->finish();
    view_->setStalled(std::move(stalled));
}

}  // namespace cvane::desk
