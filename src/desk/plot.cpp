#include "desk/plot.h"

#include <QSplitter>

#include "desk/look.h"

namespace cvane::desk {

Plot::Plot(QWidget* parent) : QCustomPlot(parent) {
    setBackground(look::sheet);
    setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
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
    legend->setBrush(QColor(255, 253, 248, 220));
    legend->setBorderPen(QPen(look::line));
    legend->setFont(font());
    connect(this, &QCustomPlot::mouseDoubleClick, this, [this] {
        rescaleAxes();
        replot();
    });
}

void Plot::begin(const QString& x, const QString& y, bool logY) {
    clearPlottables();
    clearItems();
    xAxis->setLabel(x);
    yAxis->setLabel(y);
    yAxis->setScaleType(logY ? QCPAxis::stLogarithmic : QCPAxis::stLinear);
    yAxis->setTicker(logY ? QSharedPointer<QCPAxisTicker>(new QCPAxisTickerLog) : QSharedPointer<QCPAxisTicker>(new QCPAxisTicker));
    yAxis->setNumberFormat(logY ? "eb" : "gb");
    yAxis->setNumberPrecision(logY ? 0 : 4);
    yAxis->setRangeReversed(false);
}

void Plot::add(const QString& name, const std::vector<double>& x, const std::vector<double>& y, const QColor& colour, int style, const std::vector<double>& band) {
    // A curve keeps the order of its points; a graph would sort them by x and fold a polar.
    auto* c = new QCPCurve(xAxis, yAxis);
    c->setName(name);
    c->setData(QVector<double>(x.begin(), x.end()), QVector<double>(y.begin(), y.end()));
    c->setPen(QPen(colour, 1.8, style == 2 ? Qt::DashLine : Qt::SolidLine));
    if (style == 1) c->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, colour, look::sheet, 7));
    if (!band.empty()) {
        auto* bars = new QCPErrorBars(xAxis, yAxis);
        bars->setDataPlottable(c);
        bars->setPen(QPen(colour));
        bars->setData(QVector<double>(band.begin(), band.end()));
        bars->removeFromLegend();
    }
}

void Plot::finish(bool upsideDown) {
    rescaleAxes();
    for (auto* a : {xAxis, yAxis}) {
        if (a->scaleType() == QCPAxis::stLinear) {
            a->scaleRange(1.08, a->range().center());
            if (a->range().size() <= 0.0) a->setRange(a->range().center() - 1.0, a->range().center() + 1.0);
        }
    }
    yAxis->setRangeReversed(upsideDown);
    legend->setVisible(plottableCount() > 1);
    replot();
}

Middle::Middle(QWidget* parent) : QStackedWidget(parent) {
    canvas_ = new Canvas;
    addWidget(canvas_);
    auto* split = new QSplitter(Qt::Vertical);
    upper_ = new Plot;
    lower_ = new Plot;
    upper_->setObjectName("upperPlot");
    lower_->setObjectName("lowerPlot");
    split->addWidget(upper_);
    split->addWidget(lower_);
    addWidget(split);
}

void Middle::showPlots(bool both) {
    lower_->setVisible(both);
    setCurrentIndex(1);
}

}  // namespace cvane::desk
