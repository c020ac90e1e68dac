// The mouse and the keys of the 3D view.
#include <vtkCamera.h>

#include <QMouseEvent>
#include <QWheelEvent>
#include <cmath>

#include "desk/canvas.h"

namespace cvane::desk {
namespace {
constexpr int kMeant = 6;     ///< pixels that a drag is longer than a click's slip
constexpr double kGrip = 10;  ///< pixels from a handle that still take it
}  // namespace

void Canvas::placeByDragging() {
    const Vec3 towards = frame().towards.cwiseAbs();
    int axis = 1;
    constexpr view::Look along[3] = {view::Look::Front, view::Look::Side, view::Look::Above};
    if (towards.maxCoeff(&axis) < 0.999) lookFrom(along[axis]);
    placing_ = true;
    setCursor(Qt::CrossCursor);
    setFocus();
}

void Canvas::endPlacing() {
    placing_ = false;
    unsetCursor();
    if (rubber_) rubber_->hide();
}

void Canvas::measure() {
    measured_.clear();
    own_.remove("measure");
    measuring_ = true;
    setCursor(Qt::CrossCursor);
    setFocus();
    update();
}

void Canvas::turn(double right_deg, double up_deg, const Vec3& about) {
    setMoving(true);
    const Frame f = frame();
    const double toRadians = M_PI / 180.0;
    const Mat3 R = (Eigen::AngleAxisd(-right_deg * toRadians, f.up) * Eigen::AngleAxisd(-up_deg * toRadians, f.right))
                       .toRotationMatrix();
    auto c = camera();
    c.eye = about + R * (c.eye - about);
    c.focus = about + R * (c.focus - about);
    c.up = R * c.up;
    setCamera(c);
}

void Canvas::shift(const Vec3& by) {
    setMoving(true);
    auto c = camera();
    c.eye += by;
    c.focus += by;
    setCamera(c);
}

void Canvas::zoom(double factor, const QPointF& at) {
    const Vec3 before = placeOf(at);
    auto c = camera();
    c.height /= factor;
    setCamera(c);
    shift(before - placeOf(at));
}

void Canvas::dragHandle(const QPoint& to) {
    auto& h = handles_[static_cast<std::size_t>(held_)];
    const Frame f = frame();
    const Vec3 onPlane = placeOf(to);
    const Vec3 eye = f.focus + f.distance * f.towards;
    // The ray through the pixel.
    const Vec3 from = f.perspective ? eye : onPlane,
               way = f.perspective ? Vec3(onPlane - eye).normalized() : -f.towards;
    if (h.along) {
        // The place on its line that comes nearest to the ray.
        const Vec3 a = h.along->normalized();
        const double b = a.dot(way), clear = 1.0 - b * b;
        if (clear < 1e-4) return;  // seen end-on
        const Vec3 w = from - h.at;
        h.at += (w.dot(a) - b * w.dot(way)) / clear * a;
    } else {
        const double fall = way.dot(f.towards);
        h.at = from + (h.at - from).dot(f.towards) / fall * way;
    }
    const std::string name = h.name;
    const Vec3 at = h.at;
    setHandles(handles_);
    emit handleMoved(QString::fromStdString(name), at);
}

void Canvas::mousePressEvent(QMouseEvent* e) {
    last_ = pressed_ = e->pos();
    held_ = -1;
    typed_.clear();
    pivot_.reset();
    if (e->button() != Qt::LeftButton) return;
    if (placing_) {
        if (!rubber_) rubber_ = new QRubberBand(QRubberBand::Rectangle, this);
        rubber_->setGeometry(QRect(last_, QSize()));
        rubber_->show();
        return;
    }
    if (measuring_) return;
    double nearest = kGrip;
    for (std::size_t k = 0; k < handles_.size(); ++k) {
        const QPointF d = pixelOf(handles_[k].at) - e->position();
        if (const double apart = std::hypot(d.x(), d.y()); apart < nearest)
            nearest = apart, held_ = static_cast<int>(k);
    }
    if (held_ < 0) pivot_ = placeUnder(last_);
}

void Canvas::mouseReleaseEvent(QMouseEvent* e) {
    const bool meant = (e->pos() - pressed_).manhattanLength() > kMeant;
    if (placing_) {
        if (!rubber_ || !rubber_->isVisible()) return;
        const Vec3 from = placeOf(last_), to = placeOf(e->pos());
        int axis = 1;
        frame().towards.cwiseAbs().maxCoeff(&axis);
        endPlacing();
        if (meant) emit dragged(from, to, axis);
        return;
    }
    const bool held = held_ >= 0;
    const QString left = held ? QString::fromStdString(handles_[static_cast<std::size_t>(held_)].name) : QString();
    held_ = -1;
    if (held && (meant || !typed_.isEmpty())) emit handleLeft(left);
    if (pointing_ && !meant) {
        pointing_ = false;
        own_.remove("place");
        update();
    }
    if (held || meant || e->button() != Qt::LeftButton) return;
    const auto place = placeUnder(e->pos());
    if (!place) return;
    if (measuring_)
        takeMeasure(*place);
    else
        emit clicked(*place);
}

void Canvas::mouseMoveEvent(QMouseEvent* e) {
    if (placing_ && rubber_ && rubber_->isVisible()) {
        rubber_->setGeometry(QRect(last_, e->pos()).normalized());
        return;
    }
    const QPoint d = e->pos() - last_;
    last_ = e->pos();
    if (held_ >= 0) {
        if (typed_.isEmpty()) dragHandle(e->pos());
        return;
    }
    if (placing_ || measuring_) {
        if (e->buttons() == Qt::NoButton) return;
    } else if (e->buttons() == Qt::NoButton) {
        bool over = false;
        for (const auto& h : handles_) {
            const QPointF apart = pixelOf(h.at) - e->position();
            over = over || std::hypot(apart.x(), apart.y()) < kGrip;
        }
        setCursor(over ? Qt::OpenHandCursor : Qt::ArrowCursor);
        return;
    }
    const bool shifts =
        (e->buttons() & Qt::MiddleButton) || ((e->buttons() & Qt::LeftButton) && (e->modifiers() & Qt::ShiftModifier));
    if (shifts) {
        const Frame f = frame();
        shift(f.scale * (-d.x() * f.right + d.y() * f.up));
    } else if (e->buttons() & Qt::LeftButton) {
        turn(0.4 * d.x(), 0.4 * d.y(), pivot_.value_or(frame().focus));
    }
}

void Canvas::wheelEvent(QWheelEvent* e) {
    zoom(std::pow(1.0015, e->angleDelta().y()), e->position());
}

bool Canvas::typeWhileHeld(QKeyEvent* e) {
    if (held_ < 0) return false;
    const QString name = QString::fromStdString(handles_[static_cast<std::size_t>(held_)].name);
    const bool enters = e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter;
    if (enters || e->key() == Qt::Key_Escape) {
        held_ = -1;
        pressed_ = last_;  // letting the button go is no click any more
        enters ? emit handleLeft(name) : emit handleGivenUp(name);
        return true;
    }
    if (e->key() == Qt::Key_Backspace)
        typed_.chop(1);
    else if (e->text().size() == 1 && QString("0123456789.,-").contains(e->text()))
        typed_ += e->text() == "," ? "." : e->text();
    else
        return false;
    bool isNumber = false;
    const double value = typed_.toDouble(&isNumber);
    if (isNumber) emit handleTyped(name, value);
    return true;
}

void Canvas::keyPressEvent(QKeyEvent* e) {
    if (typeWhileHeld(e)) return;
    if ((placing_ || measuring_) && e->key() == Qt::Key_Escape) {
        endPlacing();
        measuring_ = false;
        return;
    }
    const Vec3 focus = frame().focus;
    const QPointF middle = paneRect().center();
    switch (e->key()) {
        case Qt::Key_Left:
            turn(-5, 0, focus);
            break;
        case Qt::Key_Right:
            turn(5, 0, focus);
            break;
        case Qt::Key_Up:
            turn(0, -5, focus);
            break;
        case Qt::Key_Down:
            turn(0, 5, focus);
            break;
        case Qt::Key_Plus:
            zoom(1.1, middle);
            break;
        case Qt::Key_Minus:
            zoom(1.0 / 1.1, middle);
            break;
        case Qt::Key_F:
            fit();
            break;
        default:
            QOpenGLWidget::keyPressEvent(e);
    }
}

}  // namespace cvane::desk
