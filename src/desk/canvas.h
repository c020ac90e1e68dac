#pragma once
#include <vtkActor.h>
#include <vtkGenericOpenGLRenderWindow.h>
#include <vtkNew.h>
#include <vtkRenderer.h>

#include <QOpenGLWidget>
#include <QRubberBand>
#include <optional>

#include "base/vec3.h"

namespace cvane::desk {

/// The 3D view that lives through all stages. Left drag turns, middle or Shift+left drag shifts, wheel zooms.
class Canvas : public QOpenGLWidget {
    Q_OBJECT
  public:
    explicit Canvas(QWidget* parent = nullptr);
    /// The OpenGL that the 3D view needs, as default of all surfaces; before the QApplication is made.
    static void chooseFormat();
    vtkRenderer* renderer() { return renderer_; }
    void refresh() { update(); }
    /// Looks along an axis: 0 from the front, 1 from the side (air from left to right), 2 from above, 3 oblique.
    /// @param at  what shall fill the view; without it all that is seen
    void lookFrom(int view, const std::optional<Box>& at = {});
    bool savePicture(const QString& file);
    /// The next left drag draws a rectangle instead of turning the view; dragged() tells where. Looks along an axis for
    /// it: the one that the view is nearest to. Escape gives it up.
    void placeByDragging();

  signals:
    /// Two opposite corners in the plane through the middle of the view across `axis` [m].
    void dragged(const Vec3& from, const Vec3& to, int axis);

  protected:
    void initializeGL() override;
    void paintGL() override;
    void resizeGL(int w, int h) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;
    void wheelEvent(QWheelEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;

  private:
    vtkNew<vtkGenericOpenGLRenderWindow> window_;
    vtkNew<vtkRenderer> renderer_;
    struct Frame {
        Vec3 focus, right, up, towards;  ///< middle of the view; unit vectors on the screen and to the eye
        double scale;                    ///< [m] a pixel
    };
    Frame frame() const;
    Vec3 placeOf(const QPoint& pixel) const;  ///< in the plane through the middle of the view
    void endPlacing();
    QPoint last_;
    QRubberBand* rubber_ = nullptr;
    bool placing_ = false;
};

}  // namespace cvane::desk
