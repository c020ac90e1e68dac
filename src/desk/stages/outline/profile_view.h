#pragma once
#include <QWidget>
#include <optional>

#include "vehicle/outline.h"

namespace cvane::desk {

/// A vehicle's outline from the side, the wind from the left, and from above; corners of both are dragged. What it was
/// drawn from stays behind it as a thin line.
class ProfileView : public QWidget {
    Q_OBJECT
  public:
    explicit ProfileView(QWidget* parent = nullptr);
    /// @param behind  another build to be compared with; null: none
    void show(const vehicle::Outline& outline, const vehicle::Outline* behind, int corner);
    QSize sizeHint() const override { return {600, 400}; }

    enum class Line { Profile, Plan };
    /// Where a corner is, in the widget.
    QPointF handleAt(Line line, std::size_t corner) const;

  signals:
    void chosen(int line, int corner);             ///< of the profile 0, of the plan 1
    void shaped(const vehicle::Outline& outline);  ///< let go

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;

  private:
    struct Frame {
        QPointF side, plan;  ///< of x = z = 0 and of x = y = 0
        double scale = 1.0;
    };
    Frame frame() const;
    void draw(QPainter& p, const vehicle::Outline& outline, const QPen& pen, bool filled) const;
    vehicle::Outline outline_;
    std::optional<vehicle::Outline> behind_;
    int corner_ = -1;
    struct Held {
        Line line;
        std::size_t corner;
        Frame frame;
    };
    std::optional<Held> held_;
};

}  // namespace cvane::desk
