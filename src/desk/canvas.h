#pragma once
#include <vtkActor.h>
#include <vtkGenericOpenGLRenderWindow.h>
#include <vtkNew.h>
#include <vtkRenderer.h>

#include <QOpenGLWidget>
#include <QRubberBand>
#include <QTimer>
#include <optional>

#include "base/vec3.h"
#include "desk/scene_items.h"
#include "view/surroundings.h"

namespace cvane::desk {

/// Something in the 3D view that can be taken by the mouse.
struct Handle {
    std::string name;
    Vec3 at = Vec3::Zero();     ///< [m]
    std::optional<Vec3> along;  ///< it moves along this only; nothing: in the plane of the screen
};

/// The 3D view that lives through all stages. Left drag turns about what is under the pointer, middle or Shift+left
/// drag shifts, the wheel zooms to the pointer; handles are dragged, a click tells the place that was hit.
class Canvas : public QOpenGLWidget {
    Q_OBJECT
  public:
    explicit Canvas(QWidget* parent = nullptr);
    ~Canvas() override;
    /// The OpenGL that the 3D view needs, as default of all surfaces; before the QApplication is made.
    static void chooseFormat();
    vtkRenderer* renderer() { return renderer_; }
    /// The strip along the left edge, where axes and colour bar stand clear of the model.
    vtkRenderer* margin() { return margin_; }
    /// Pixels of the screen to one of the window.
    double unit() const;
    void refresh() { update(); }
    /// Takes the colours of the theme that is on. What stands around the model has to be set again after it.
    void dress();
    /// Puts a mark at a place [m] and brings it to the middle of the view; the next click takes the mark away.
    void pointAt(const Vec3& place);
    /// @param at  what shall fill the view; without it all that is seen
    void lookFrom(view::Look look, const std::optional<Box>& at = {});
    view::Camera camera() const;
    void setCamera(const view::Camera& camera);
    void setPerspective(bool on);
    /// Fills the view from where it looks. @param at  with what; without it with all that is seen
    void fit(const std::optional<Box>& at = {});
    view::Surroundings& surroundings() { return *around_; }
    bool savePicture(const QString& file);
    /// The view as it stands, with its size in pixels of the screen.
    QImage picture() { return grabFramebuffer(); }
    /// The next left drag draws a rectangle instead of turning the view; dragged() tells where. Looks along an axis for
    /// it: the one that the view is nearest to. Escape gives it up.
    void placeByDragging();
    /// The next two clicks on what is seen are the ends of a measure, which is drawn until the next is begun.
    void measure();
    void setHandles(std::vector<Handle> handles);
    /// Where a handle is on the widget; nothing: there is none of that name.
    std::optional<QPointF> pixelOf(const std::string& handle) const;
    QPointF pixelOf(const Vec3& place) const;
    /// What is drawn under a pixel [m]; nothing: the ground of the picture.
    std::optional<Vec3> placeUnder(const QPoint& pixel);
    /// Parts the view into 1, 2 or 4 panes with one camera. The first is renderer().
    void setPanes(int count);
    vtkRenderer* pane(int i) { return i == 0 ? renderer_.Get() : panes_[static_cast<std::size_t>(i - 1)].Get(); }
    int panes() const { return 1 + static_cast<int>(panes_.size()); }

  signals:
    /// Two opposite corners in the plane through the middle of the view across `axis` [m].
    void dragged(const Vec3& from, const Vec3& to, int axis);
    void handleMoved(const QString& name, const Vec3& to);
    void handleLeft(const QString& name);                 ///< it was let go where it is
    void handleTyped(const QString& name, double value);  ///< a number was typed while it is held
    void handleGivenUp(const QString& name);              ///< by Escape, while it was held
    void clicked(const Vec3& place);
    void measured(const Vec3& from, const Vec3& to);

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
    struct Frame {
        Vec3 focus, right, up, towards;  ///< middle of the view; unit vectors on the screen and to the eye
        double scale;                    ///< [m] a pixel, at the focus
        double distance;                 ///< of the eye [m]
        bool perspective;
    };
    Frame frame() const;
    QRect paneRect() const;                    ///< of the first pane on the widget
    Vec3 placeOf(const QPointF& pixel) const;  ///< in the plane through the middle of the view
    void endPlacing();
    void turn(double right_deg, double up_deg, const Vec3& about);
    void shift(const Vec3& by);
    void zoom(double factor, const QPointF& at);
    void layOut();  ///< gives margin and panes their places
    void takeMeasure(const Vec3& place);
    void setMoving(bool moving);  ///< few pieces while it moves, all of them once it rests
    void dragHandle(const QPoint& to);
    bool typeWhileHeld(QKeyEvent* e);

    vtkNew<vtkGenericOpenGLRenderWindow> window_;
    vtkNew<vtkRenderer> renderer_, margin_;
    std::vector<vtkSmartPointer<vtkRenderer>> panes_;  ///< besides the first
    std::unique_ptr<view::Surroundings> around_;
    SceneItems own_{renderer_};  ///< handles and measures
    std::vector<Handle> handles_;
    QPoint last_, pressed_;
    std::optional<Vec3> pivot_;
    QTimer rest_;
    int held_ = -1;  ///< the handle that is dragged
    QString typed_;  ///< a number, while it is held: the mouse moves it no longer
    QRubberBand* rubber_ = nullptr;
    bool placing_ = false, measuring_ = false, pointing_ = false;
    std::vector<Vec3> measured_;
};

}  // namespace cvane::desk
