#pragma once
#include <QWidget>
#include <optional>

#include "wing/aircraft.h"

namespace cvane::desk {

/// An aircraft from above and from ahead. Of the chosen surface stations are dragged: leading and trailing edge in the
/// plan, and in the view from ahead a rib up and down, which is the dihedral of the panel inboard of it.
class PlanformView : public QWidget {
    Q_OBJECT
  public:
    explicit PlanformView(QWidget* parent = nullptr);
    void show(const wing::Aircraft& aircraft, std::size_t surface, int station);
    /// Strips that are beyond their sections' lift, by their quarter points [m].
    void setStalled(std::vector<Vec3> places);
    QSize sizeHint() const override { return {600, 260}; }

    enum class Handle { Leading, Trailing, Ahead };
    /// Where a handle of a station is, in the widget.
    QPointF handleAt(Handle handle, std::size_t station) const;

  signals:
    void chosen(int station);
    void shaping(const wing::Aircraft& aircraft);  ///< while dragged
    void shaped(const wing::Aircraft& aircraft);   ///< let go

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;

  private:
    /// Model to widget: from above y to the right and x down; from ahead y to the right and z up.
    struct Frame {
        QPointF origin;
        double scale = 1.0;
    };
    struct Frames {
        Frame plan, ahead;
    };
    Frames frames() const;
    QPointF inPlan(const Vec3& p) const;
    QPointF inAhead(const Vec3& p) const;
    /// Ends of a station's chord [m], of the half to starboard.
    std::pair<Vec3, Vec3> chordOf(const wing::LiftingSurface& surface, std::size_t station) const;
    void drawSurface(QPainter& p, std::size_t index) const;
    wing::Aircraft draggedTo(const QPointF& mouse) const;

    wing::Aircraft aircraft_;
    std::size_t surface_ = 0;
    int station_ = -1;
    std::vector<Vec3> stalled_;
    struct Held {
        Handle handle;
        std::size_t station;
        wing::Aircraft from;
        Frames frames;
    };
    std::optional<Held> held_;
};

}  // namespace cvane::desk
