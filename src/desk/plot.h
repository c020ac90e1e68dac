#pragma once
#include <qcustomplot.h>

#include <QStackedWidget>
#include <QVector>

#include "desk/canvas.h"

namespace cvane::desk {

/// A plot in the window's look: pan by dragging, zoom by wheel, double click shows everything again; the right button
/// has what can be done with it.
class Plot : public QCustomPlot {
    Q_OBJECT
  public:
    explicit Plot(QWidget* parent = nullptr);
    void begin(const QString& x, const QString& y, bool logY = false);
    /// Bands stand as bars at the points, of the value and of x. Style 0 line, 1 points with a line, 2 dashed line, 3
    /// points, 4 small open points.
    static constexpr int kOpenMarks = 5;
    void add(const QString& name, const std::vector<double>& x, const std::vector<double>& y, const QColor& colour,
             int style, const std::vector<double>& band = {}, const std::vector<double>& bandX = {});
    /// Values with what is known of them.
    struct Measured {
        std::vector<double> x, y, band, bandX;  ///< of a place that is missing: not a number; the curve ends there
        std::vector<bool> known;                ///< whether the band holds all that it should
    };
    /// A curve with a full mark and its band at each value whose band is known, an open mark without one at others.
    void addMeasured(const QString& name, const Measured& values, const QColor& colour, Qt::PenStyle line,
                     bool inLegend = true);
    /// Thin strokes between places, parted by places that are not numbers.
    void addStrokes(const QString& name, const std::vector<double>& x, const std::vector<double>& y,
                    const QColor& colour);
    /// A line across the plot at a place of its x axis, with a few words at its head.
    void markAt(double x, const QString& words);
    /// After finish(): a metre is as long on both axes.
    void keepProportions();
    /// Bars of one width side by side from x = 0 on; with a logarithmic axis those of zero are left out.
    void addBars(const QString& name, double width, const std::vector<double>& heights, const QColor& colour);
    /// Shows all data, unless the user has chosen a part of these axes by wheel or hand: a curve that grows must not
    /// take it away. A double click shows all again.
    void finish(bool upsideDown = false);
    /// Draws again, once it has a place to draw in.
    void redraw();
    /// Axes by hand, until all is asked for again.
    void setAxes(const QCPRange& x, const QCPRange& y);
    void showAll();
    /// From now on limits only grow, until they are let go: for pictures that are played through.
    void holdLimits(bool on);
    QStringList names();  ///< of the curves that the legend has
    void showLegend(bool on);

  protected:
    void changeEvent(QEvent* e) override;
    void contextMenuEvent(QContextMenuEvent* e) override;

  private:
    void askForAxes();
    void dress();  ///< in the colours of the theme that is on
    bool held_ = false;
    QCPRange heldX_, heldY_;        ///< of all data while limits are held
    bool byHand_ = false;           ///< the user has chosen what is seen
    QCPRange pressedX_, pressedY_;  ///< as a drag began
    QCPRange spanX_, spanY_;        ///< of the data since begin()
    bool empty_ = true;
};

/// The middle of the window: the 3D view, and the plots over it when a stage asks for them.
class Middle : public QStackedWidget {
    Q_OBJECT
  public:
    explicit Middle(QWidget* parent = nullptr);
    Canvas& canvas() { return *canvas_; }
    Plot& upper() { return *upper_; }
    Plot& lower() { return *lower_; }
    void showCanvas() { setCurrentIndex(0); }
    void showPlots(bool both);
    /// Lays a card over the middle, at its lower edge; nothing moves for it. The middle owns it.
    void addCard(QWidget* card);

  protected:
    void resizeEvent(QResizeEvent* e) override;
    bool eventFilter(QObject* of, QEvent* e) override;

  private:
    void placeCards();
    std::vector<QWidget*> cards_;
    Canvas* canvas_;
    Plot *upper_, *lower_;
};

}  // namespace cvane::desk
