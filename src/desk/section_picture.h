#pragma once
#include <QWidget>
#include <optional>

#include "desk/model/section_work.h"
#include "section/outline/edit.h"
#include "section/outline/faults.h"

namespace cvane::desk {

/// A section as large as the place allows, with what its air does: pressures as a band along the outline (suction
/// outside in the accent, pressure inside), the displaced outline and the wake, transition and separation marked, the
/// cells of the field. Wheel and drag lead closer, a double click shows everything again; by hand, thickness, camber
/// and nose are dragged.
class SectionPicture : public QWidget {
    Q_OBJECT
  public:
    explicit SectionPicture(QWidget* parent = nullptr);
    /// @param field  of the same angle, or null
    void show(const SectionWork::View& view, std::vector<section::Fault> faults,
              const campaign::SectionFieldPoint* field);
    void setPressures(bool on);
    void setByHand(bool on);
    /// Figures of the section without its flap, for what is dragged.
    void setShape(const section::Figures& figures);
    void setCells(SectionWork::Cells cells);
    /// An outline that is being shaped, until another view is shown.
    void preview(const section::Contour& outline);
    void draw(QPainter& painter, const QRectF& place) const;
    QSize sizeHint() const override { return {600, 260}; }

    /// Where a part that can be dragged is, in the widget.
    enum class Handle { Thickness, Camber, Nose };
    std::optional<QPointF> handleAt(Handle handle) const;

  signals:
    void shaping(const section::SectionEdit& edit);  ///< while dragged
    void shaped(const section::SectionEdit& edit);   ///< let go

  protected:
    void paintEvent(QPaintEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;

  private:
    /// From the section's axes [chords] to the widget.
    struct Frame {
        QPointF origin;
        double scale = 1.0, ca = 1.0, sa = 0.0;
        QPointF at(double x, double z) const;
        QPointF back(const QPointF& place) const;  ///< x and z
    };
    Frame frameIn(const QRectF& place) const;
    QRectF place() const { return QRectF(rect()).adjusted(10, 8, -10, -8); }
    void drawPressures(QPainter& p, const Frame& to, double height) const;
    void drawLayers(QPainter& p, const Frame& to) const;
    void drawCells(QPainter& p, const Frame& to) const;
    void drawHandles(QPainter& p) const;
    section::SectionEdit editTo(const QPointF& mouse) const;

    SectionWork::View view_;
    std::optional<campaign::SectionFieldPoint> field_;
    std::vector<section::Fault> faults_;
    section::Figures shape_;
    SectionWork::Cells cells_;
    std::optional<section::Contour> preview_;
    bool pressures_ = true, byHand_ = false;
    double zoom_ = 1.0;
    QPointF shift_;  ///< of the picture [pixels]
    std::optional<Handle> held_;
    std::optional<QPointF> panFrom_;
};

}  // namespace cvane::desk
