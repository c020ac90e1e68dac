#include "desk/plot.h"

#include <QEvent>
#include <QSplitter>
#include <algorithm>
#include <cmath>

#include "desk/look.h"

namespace cvane::desk {

Plot::Plot(QWidget* parent) : QCustomPlot(parent) {
    setInteractions(QCP::Interactions(QCP::iRangeDrag) | QCP::iRangeZoom);
    dress();
    connect(this, &QCustomPlot::mouseDoubleClick, this, &Plot::showAll);
    connect(this, &QCustomPlot::mouseWheel, this, [this] { byHand_ = true; });
    connect(this, &QCustomPlot::mousePress, this, [this] { pressedX_ = xAxis->range(), pressedY_ = yAxis->range(); });
    connect(this, &QCustomPlot::mouseRelease, this, [this] {
        if (xAxis->range() != pressedX_ || yAxis->range() != pressedY_) byHand_ = true;
    });
    // As many numbers as have room beside each other.
    connect(this, &QCustomPlot::beforeReplot, this, [this] {
        xAxis->ticker()->setTickCount(std::clamp(width() / 75, 2, 5));
        yAxis->ticker()->setTickCount(std::clamp(height() / 45, 2, 5));
    });
}

void Plot::dress() {
    setBackground(look::sheet);
    for (auto* a : {xAxis, yAxis}) {
        a->setBasePen(QPen(look::ink));
        a->setTickPen(QPen(look::ink));
        a->setSubTickPen(QPen(look::faint));
        a->setLabelColor(look::ink);
        a->setTickLabelColor(look::ink);
        a->grid()->setPen(QPen(look::line, 1, Qt::DotLine));
        a->grid()->setZeroLinePen(QPen(look::faint));
        a->setLabelFont(font());
        a->setTickLabelFont(font());
    }
    QColor ground = look::sheet;
    ground.setAlpha(220);
    legend->setBrush(ground);
    legend->setTextColor(look::ink);
    legend->setBorderPen(Qt::NoPen);
    legend->setFont(font());
}

void Plot::changeEvent(QEvent* e) {
    QCustomPlot::changeEvent(e);
    if (e->type() != QEvent::PaletteChange) return;
    dress();
    redraw();
}

void Plot::begin(const QString& x, const QString& y, bool logY) {
    clearPlottables();
    clearItems();
    empty_ = true;
    const auto scale = logY ? QCPAxis::stLogarithmic : QCPAxis::stLinear;
    // What was chosen of other axes says nothing of these.
    if (xAxis->label() != x || yAxis->label() != y || yAxis->scaleType() != scale) byHand_ = false;
    xAxis->setLabel(x);
    yAxis->setLabel(y);
    yAxis->setScaleType(scale);
    yAxis->setTicker(logY ? QSharedPointer<QCPAxisTicker>(new QCPAxisTickerLog)
                          : QSharedPointer<QCPAxisTicker>(new QCPAxisTicker));
    yAxis->setNumberFormat(logY ? "eb" : "gb");
    yAxis->setNumberPrecision(logY ? 0 : 4);
    yAxis->setRangeReversed(false);
}

void Plot::add(const QString& name, const std::vector<double>& x, const std::vector<double>& y, const QColor& colour,
               int style, const std::vector<double>& band, const std::vector<double>& bandX) {
    for (std::size_t i = 0; i < std::min(x.size(), y.size()); ++i) {
        if (!std::isfinite(x[i]) || !std::isfinite(y[i])) continue;
        if (empty_) {
            spanX_ = {x[i], x[i]};
            spanY_ = {y[i], y[i]};
            empty_ = false;
        }
        const double across = i < bandX.size() && std::isfinite(bandX[i]) ? bandX[i] : 0.0;
        spanX_.expand(x[i] - across);
        spanX_.expand(x[i] + across);
        const double reach = i < band.size() && std::isfinite(band[i]) ? band[i] : 0.0;
        spanY_.expand(y[i] - reach);
        spanY_.expand(y[i] + reach);
    }
    // A curve keeps the order of its points; a graph would sort them by x and fold a polar.
    auto* c = new QCPCurve(xAxis, yAxis);
    c->setName(name);
    if (name.isEmpty()) c->removeFromLegend();
    c->setData(QVector<double>(x.begin(), x.end()), QVector<double>(y.begin(), y.end()));
    c->setPen(QPen(colour, 1.8, style == 2 ? Qt::DashLine : Qt::SolidLine));
    if (style >= 3) c->setLineStyle(QCPCurve::lsNone);
    if (style == 1 || style == 3) c->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, colour, look::sheet, 7));
    if (style == 4) c->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle, QPen(colour, 1.0), Qt::NoBrush, 4));
    if (style == kOpenMarks)
        c->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle, QPen(colour, 1.6), QBrush(look::sheet), 8));
    const auto addBand = [&](const std::vector<double>& of, QCPErrorBars::ErrorType along) {
        if (of.empty()) return;
        auto* bars = new QCPErrorBars(xAxis, yAxis);
        bars->setDataPlottable(c);
        bars->setErrorType(along);
        bars->setPen(QPen(colour));
        bars->setData(QVector<double>(of.begin(), of.end()));
        bars->removeFromLegend();
    };
    addBand(band, QCPErrorBars::etValueError);
    addBand(bandX, QCPErrorBars::etKeyError);
}

void Plot::addMeasured(const QString& name, const Measured& v, const QColor& colour, Qt::PenStyle line, bool inLegend) {
    // The curve itself has all values, and the bands that are known; marks over it say which.
    Measured full, open, bars = v;
    for (std::size_t i = 0; i < v.x.size(); ++i) {
        const bool known = v.known[i] && std::isfinite(v.y[i]);
        auto& to = known ? full : open;
        to.x.push_back(v.x[i]);
        to.y.push_back(v.y[i]);
        for (auto* band : {&bars.band, &bars.bandX})
            if (!known && i < band->size()) (*band)[i] = 0.0;
    }
    add(name, v.x, v.y, colour, line == Qt::NoPen ? kOpenMarks : line == Qt::DashLine ? 2 : 0, bars.band, bars.bandX);
    for (int k = plottableCount() - 1; k >= 0 && !inLegend; --k)
        if (plottable(k)->name() == name) plottable(k)->removeFromLegend();
    if (line == Qt::NoPen) return;
    if (!full.x.empty()) add({}, full.x, full.y, colour, 3);
    if (!open.x.empty()) add({}, open.x, open.y, colour, kOpenMarks);
}

void Plot::addStrokes(const QString& name, const std::vector<double>& x, const std::vector<double>& y,
                      const QColor& colour) {
    add(name, x, y, colour, 0);
    plottable()->setPen(QPen(colour, 0.8));
}

void Plot::markAt(double x, const QString& words) {
    auto* line = new QCPItemStraightLine(this);
    line->point1->setCoords(x, 1.0);
    line->point2->setCoords(x, 2.0);
    line->setPen(QPen(look::faint, 1.2, Qt::DashLine));
    auto* text = new QCPItemText(this);
    text->position->setTypeX(QCPItemPosition::ptPlotCoords);
    text->position->setTypeY(QCPItemPosition::ptAxisRectRatio);
    text->position->setCoords(x, 0.01 + 0.055 * (itemCount() / 2 - 1));  // one below the other
    text->setPositionAlignment(Qt::AlignLeft | Qt::AlignTop);
    text->setText(" " + words);
    text->setFont(font());
    text->setColor(look::ink);
}

void Plot::keepProportions() {
    yAxis->setScaleRatio(xAxis, 1.0);
    // What was framed before must still be seen.
    if (yAxis->range().size() < spanY_.size()) {
        yAxis->setRange(spanY_.center(), 1.1 * spanY_.size(), Qt::AlignCenter);
        xAxis->setScaleRatio(yAxis, 1.0);
    }
    redraw();
}

void Plot::addBars(const QString& name, double width, const std::vector<double>& heights, const QColor& colour) {
    auto* bars = new QCPBars(xAxis, yAxis);
    bars->setName(name);
    bars->setWidth(0.9 * width);
    bars->setPen(Qt::NoPen);
    bars->setBrush(colour);
    const bool log = yAxis->scaleType() == QCPAxis::stLogarithmic;
    bars->setBaseValue(log ? 0.7 : 0.0);
    for (std::size_t i = 0; i < heights.size(); ++i)
        if (heights[i] > 0.0) bars->addData((static_cast<double>(i) + 0.5) * width, heights[i]);
    spanX_ = {0.0, width * static_cast<double>(heights.size())};
    spanY_ = {log ? 1.0 : 0.0,
              heights.empty() ? 1.0 : std::max(1.0, *std::max_element(heights.begin(), heights.end()))};
    empty_ = false;
}

void Plot::finish(bool upsideDown) {
    // A single value gets an axis of its own size about it; the library would keep whatever range was there before.
    const auto frame = [](QCPAxis* axis, const QCPRange& span) {
        if (axis->scaleType() == QCPAxis::stLogarithmic) {
            axis->setRange(std::max(span.lower, 1e-16) * 0.7, std::max(span.upper, 1e-15) * 1.4);
            return;
        }
        const double size = span.upper - span.lower, margin = size > 0.0 ? 0.05 * size
                                                              : span.lower == 0.0
                                                                  ? 1.0
                                                                  : std::max(0.1 * std::abs(span.lower), 1e-3);
        axis->setRange(span.lower - margin, span.upper + margin);
    };
    if (held_ && !empty_) {
        // Of pictures that are played through the axes hold all that was seen of them.
        if (heldX_.size() > 0.0) {
            spanX_.expand(heldX_);
            spanY_.expand(heldY_);
        }
        heldX_ = spanX_;
        heldY_ = spanY_;
    }
    if (!byHand_) frame(xAxis, empty_ ? QCPRange(0.0, 1.0) : spanX_);
    if (!byHand_) frame(yAxis, empty_ ? QCPRange(0.0, 1.0) : spanY_);
    yAxis->setRangeReversed(upsideDown);
    showLegend(names().size() > 1);
    redraw();
}

void Plot::holdLimits(bool on) {
    held_ = on;
    heldX_ = heldY_ = QCPRange(0.0, 0.0);
}

void Plot::redraw() {
    if (!viewport().isEmpty()) replot();
}

QStringList Plot::names() {
    QStringList out;
    for (int k = 0; k < plottableCount(); ++k)
        if (const auto name = plottable(k)->name(); !name.isEmpty() && legend->hasItemWithPlottable(plottable(k)))
            out << name;
    return out;
}

// In a line above the axes, where it covers nothing and leaves them their width; none of a single curve.
void Plot::showLegend(bool on) {
    constexpr int kInALine = 4;
    const bool isAbove = legend->layout() == plotLayout();
    if (on && !isAbove) {
        plotLayout()->insertRow(0);
        legend->layout()->take(legend);
        plotLayout()->addElement(0, 0, legend);
        plotLayout()->setRowStretchFactor(0, 0.001);
        legend->setFillOrder(QCPLegend::foColumnsFirst);
        legend->setWrap(kInALine);
        legend->setMargins(QMargins(8, 4, 8, 0));
    }
    if (!on && isAbove) {
        plotLayout()->take(legend);
        plotLayout()->simplify();
        axisRect()->insetLayout()->addElement(legend, Qt::AlignTop | Qt::AlignRight);
    }
    legend->setVisible(on);
}

Middle::Middle(QWidget* parent) : QStackedWidget(parent) {
    canvas_ = new Canvas;
    addWidget(canvas_);
    auto* split = new QSplitter(Qt::Vertical);
    upper_ = new Plot;
    lower_ = new Plot;
    upper_->setObjectName("upperPlot");
    lower_->setObjectName("lowerPlot");
    connect(this, &QStackedWidget::currentChanged, this, &Middle::placeCards);
    split->addWidget(upper_);
    split->addWidget(lower_);
    addWidget(split);
}

void Middle::addCard(QWidget* card) {
    card->setParent(this);
    card->installEventFilter(this);
    cards_.push_back(card);
    placeCards();
}

// One above the other from the lower edge up, the first lowest.
void Middle::placeCards() {
    constexpr int kMargin = 14, kWidest = 560;
    int bottom = height() - kMargin;
    for (QWidget* card : cards_) {
        if (card->isHidden()) continue;
        const int wide = std::min(kWidest, width() - 2 * kMargin),
                  high = card->hasHeightForWidth() ? card->heightForWidth(wide) : card->sizeHint().height();
        card->setGeometry((width() - wide) / 2, bottom - high, wide, high);
        card->raise();
        bottom -= high + kMargin;
    }
}

void Middle::resizeEvent(QResizeEvent* e) {
    QStackedWidget::resizeEvent(e);
    placeCards();
}

bool Middle::eventFilter(QObject* of, QEvent* e) {
    if (e->type() == QEvent::Show || e->type() == QEvent::Hide || e->type() == QEvent::LayoutRequest) placeCards();
    return QStackedWidget::eventFilter(of, e);
}

void Middle::showPlots(bool both) {
    // Names that the upper plot has are not said again.
    if (both && upper_->legend->visible() && lower_->legend->visible() && upper_->names() == lower_->names()) {
        lower_->showLegend(false);
        lower_->redraw();
    }
    lower_->setVisible(both);
    setCurrentIndex(1);
}

}  // namespace cvane::desk
