#include "desk/canvas.h"

#include <vtkCamera.h>
#include <vtkOpenGLState.h>

#include <QMouseEvent>
#include <QOpenGLContext>
#include <QOpenGLFunctions>
#include <QSurfaceFormat>
#include <QWheelEvent>
#include <cmath>

#include "desk/look.h"

namespace cvane::desk {

void Canvas::chooseFormat() {
    QSurfaceFormat format;
    format.setVersion(3, 2);
    format.setProfile(QSurfaceFormat::CoreProfile);
    format.setDepthBufferSize(24);
    QSurfaceFormat::setDefaultFormat(format);
}

Canvas::Canvas(QWidget* parent) : QOpenGLWidget(parent) {
    setObjectName("canvas");
    setFocusPolicy(Qt::StrongFocus);
    setMinimumSize(320, 220);
    window_->AddRenderer(renderer_);
    renderer_->SetBackground(look::paper.redF(), look::paper.greenF(), look::paper.blueF());
    renderer_->GetActiveCamera()->ParallelProjectionOn();
    lookFrom(3);
}

void Canvas::initializeGL() {
    window_->SetIsCurrent(true);
    window_->InitializeFromCurrentContext();
    window_->SetSupportsOpenGL(1);
    window_->SetIsDirect(1);
    window_->SetMapped(true);
    window_->SetReadyForRendering(true);
}

void Canvas::resizeGL(int w, int h) {
    window_->SetSize(static_cast<int>(w * devicePixelRatioF()), static_cast<int>(h * devicePixelRatioF()));
}

void Canvas::paintGL() {
    window_->GetState()->Reset();
    window_->SetFrameBlitModeToNoBlit();
    renderer_->ResetCameraClippingRange();
    window_->Render();
    window_->Frame();
    context()->functions()->glBindFramebuffer(GL_DRAW_FRAMEBUFFER, defaultFramebufferObject());
    window_->BlitDisplayFramebuffer();
}

void Canvas::lookFrom(int view, const std::optional<Box>& at) {
    vtkCamera* c = renderer_->GetActiveCamera();
    c->SetFocalPoint(0, 0, 0);
    c->SetViewUp(0, 0, 1);
    switch (view) {
        case 0:
            c->SetPosition(-1, 0, 0);
            break;
        case 1:
            c->SetPosition(0, -1, 0);
            break;
        case 2:
            c->SetPosition(0, 0, 1);
            c->SetViewUp(0, 1, 0);
            break;
        default:
            c->SetPosition(-0.55, -1.0, 0.45);
    }
    double b[6];
    if (at)
        for (int k = 0; k < 3; ++k) b[2 * k] = at->low[k], b[2 * k + 1] = at->high[k];
    else
        renderer_->ComputeVisiblePropBounds(b);
    if (b[0] <= b[1]) {
        renderer_->ResetCamera(b);
        c->Zoom(1.2);
    }
    update();
}

bool Canvas::savePicture(const QString& file) {
    return grabFramebuffer().save(file);
}

Canvas::Frame Canvas::frame() const {
    vtkCamera* c = renderer_->GetActiveCamera();
    c->OrthogonalizeViewUp();
    Frame f;
    c->GetFocalPoint(f.focus.data());
    c->GetViewUp(f.up.data());
    c->GetViewPlaneNormal(f.towards.data());
    f.right = f.up.cross(f.towards);
    f.scale = 2.0 * c->GetParallelScale() / std::max(1, height());
    return f;
}

Vec3 Canvas::placeOf(const QPoint& pixel) const {
    const Frame f = frame();
    return f.focus + f.scale * ((pixel.x() - 0.5 * width()) * f.right + (0.5 * height() - pixel.y()) * f.up);
}

void Canvas::placeByDragging() {
    const Vec3 towards = frame().towards.cwiseAbs();
    int axis = 1;
    if (towards.maxCoeff(&axis) < 0.999) lookFrom(axis);
    placing_ = true;
    setCursor(Qt::CrossCursor);
    setFocus();
}

void Canvas::endPlacing() {
    placing_ = false;
    unsetCursor();
    if (rubber_) rubber_->hide();
}

void Canvas::mousePressEvent(QMouseEvent* e) {
    last_ = e->pos();
    if (!placing_ || e->button() != Qt::LeftButton) return;
    if (!rubber_) rubber_ = new QRubberBand(QRubberBand::Rectangle, this);
    rubber_->setGeometry(QRect(last_, QSize()));
    rubber_->show();
}

void Canvas::mouseReleaseEvent(QMouseEvent* e) {
    if (!placing_ || !rubber_ || !rubber_->isVisible()) return;
    const Vec3 from = placeOf(last_), to = placeOf(e->pos());
    int axis = 1;
    frame().towards.cwiseAbs().maxCoeff(&axis);
    const bool meant = (e->pos() - last_).manhattanLength() > 6;
    endPlacing();
    if (meant) emit dragged(from, to, axis);
}

void Canvas::mouseMoveEvent(QMouseEvent* e) {
    if (placing_ && rubber_ && rubber_->isVisible()) {
        rubber_->setGeometry(QRect(last_, e->pos()).normalized());
        return;
    }
    const QPoint d = e->pos() - last_;
    last_ = e->pos();
    vtkCamera* c = renderer_->GetActiveCamera();
    const bool shift =
        (e->buttons() & Qt::MiddleButton) || ((e->buttons() & Qt::LeftButton) && (e->modifiers() & Qt::ShiftModifier));
    if (shift) {
        const Frame f = frame();
        const Vec3 m = f.scale * (-d.x() * f.right + d.y() * f.up), focus = f.focus + m;
        Vec3 eye;
        c->GetPosition(eye.data());
        eye += m;
        c->SetFocalPoint(focus.data());
        c->SetPosition(eye.data());
    } else if (e->buttons() & Qt::LeftButton) {
        c->Azimuth(-0.4 * d.x());
        c->Elevation(0.4 * d.y());
        c->OrthogonalizeViewUp();
    } else {
        return;
    }
    update();
}

void Canvas::wheelEvent(QWheelEvent* e) {
    renderer_->GetActiveCamera()->Zoom(std::pow(1.0015, e->angleDelta().y()));
    update();
}

void Canvas::keyPressEvent(QKeyEvent* e) {
    vtkCamera* c = renderer_->GetActiveCamera();
    if (placing_ && e->key() == Qt::Key_Escape) {
        endPlacing();
        return;
    }
    switch (e->key()) {
        case Qt::Key_Left:
            c->Azimuth(5);
            break;
        case Qt::Key_Right:
            c->Azimuth(-5);
            break;
        case Qt::Key_Up:
            c->Elevation(5);
            break;
        case Qt::Key_Down:
            c->Elevation(-5);
            break;
        case Qt::Key_Plus:
            c->Zoom(1.1);
            break;
        case Qt::Key_Minus:
            c->Zoom(1.0 / 1.1);
            break;
        default:
            QOpenGLWidget::keyPressEvent(e);
            return;
    }
    c->OrthogonalizeViewUp();
    update();
}

}  // namespace cvane::desk
