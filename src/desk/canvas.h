#pragma once
#include <QOpenGLWidget>
#include <vtkActor.h>
#include <vtkGenericOpenGLRenderWindow.h>
#include <vtkNew.h>
#include <vtkRenderer.h>

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
    void lookFrom(int view);
    bool savePicture(const QString& file);

  protected:
    void initializeGL() override;
    void paintGL() override;
    void resizeGL(int w, int h) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void wheelEvent(QWheelEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;

  private:
    vtkNew<vtkGenericOpenGLRenderWindow> window_;
    vtkNew<vtkRenderer> renderer_;
    QPoint last_;
};

}  // namespace cvane::desk
