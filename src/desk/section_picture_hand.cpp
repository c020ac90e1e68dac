// Hand on the picture of a section: closer and farther, cells, and shaping by dragging.
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <cmath>

#include "desk/look.h"
#include "desk/section_picture.h"

namespace cvane::desk {

namespace {
constexpr double kNearest = 2e4, kGrasp = 12.0;  // zoom; pixels about a handle
}

void SectionPicture::setByHand(bool on) {
    byHand_ = on;
    held_.reset();
    preview_.reset();
    update();
}

void SectionPicture::setShape(const section::Figures& figures) {
    shape_ = figures;
    update();
}

void SectionPicture::preview(const section::Contour& outline) {
    preview_ = outline;
    update();
}

void SectionPicture::drawCells(QPainter& p, const Frame& to) const {
    p.setPen(QPen(look::faint, 0.6));
    p.setBrush(Qt::NoBrush);
    const QRectF seen = QRectF(rect());
    for (const auto& cell : cells_) {
        QPointF q[4];
        double left = 1e9, right = -1e9, top = 1e9, bottom = -1e9;
        for (std::size_t k = 0; k < 4; ++k) {
            q[k] = to.at(static_cast<double>(cell[k].x()), static_cast<double>(cell[k].y()));
            left = std::min(left, q[k].x()), right = std::max(right, q[k].x());
            top = std::min(top, q[k].y()), bottom = std::max(bottom, q[k].y());
        }
        if (right < seen.left() || left > seen.right() || bottom < seen.top() || top > seen.bottom()) continue;
        // Cells thinner than a pixel would only make a blot.
        if (std::abs((q[1].x() - q[0].x()) * (q[2].y() - q[0].y()) - (q[1].y() - q[0].y()) * (q[2].x() - q[0].x())) <
            0.8 * std::hypot(right - left, bottom - top))
            continue;
        p.drawPolygon(q, 4);
    }
}

std::optional<QPointF> SectionPicture::handleAt(Handle handle) const {
    if (view_.outline.points.empty() || shape_.halfDepth.empty()) return {};
    const Frame to = frameIn(place());
    switch (handle) {
        case Handle::Thickness:
            return to.at(shape_.thicknessAt,
                         section::heightAt(shape_.meanLine, shape_.thicknessAt) + 0.5 * shape_.thickness);
        case Handle::Camber:
            if (std::abs(shape_.camber) < 1e-4) return {};  // nothing to scale
            return to.at(shape_.camberAt, shape_.camber);
        case Handle::Nose:
            return to.at(2.0 * shape_.noseRadius, 0.0);
    }
    return {};
}

void SectionPicture::drawHandles(QPainter& p) const {
    p.setRenderHint(QPainter::Antialiasing);
    p.setClipping(false);
    const Frame to = frameIn(place());
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(look::accent, 1.0, Qt::DotLine));
    const double r = shape_.noseRadius * to.scale;
    p.drawEllipse(to.at(shape_.noseRadius, 0.0), r, r);
    const std::pair<Handle, QString> all[] = {
        {Handle::Thickness, tr("thickness")}, {Handle::Camber, tr("camber")}, {Handle::Nose, tr("nose")}};
    for (const auto& [handle, words] : all) {
        const auto q = handleAt(handle);
        if (!q) continue;
        p.setPen(QPen(look::accent, 1.6));
        p.setBrush(held_ == handle ? look::accent : look::sheet);
        p.drawRect(QRectF(q->x() - 4, q->y() - 4, 8, 8));
        p.setPen(look::accent);
        p.drawText(*q + QPointF(8, handle == Handle::Nose ? 16 : -4), words);
    }
}

section::SectionEdit SectionPicture::editTo(const QPointF& mouse) const {
    const QPointF q = frameIn(place()).back(mouse);
    const auto at = [](double x) { return std::clamp(std::round(200.0 * x) / 200.0, 0.05, 0.95); };
    section::SectionEdit e;
    switch (*held_) {
        case Handle::Thickness:
            e.thickness = std::clamp(2.0 * (q.y() - section::heightAt(shape_.meanLine, q.x())), 0.005, 0.6);
            // A drag straight up keeps the place.
            if (std::abs(q.x() - shape_.thicknessAt) > 0.02) e.thicknessAt = at(q.x());
            break;
        case Handle::Camber:
            e.camber = std::clamp(q.y(), -0.25, 0.25);
            if (std::abs(q.x() - shape_.camberAt) > 0.02) e.camberAt = at(q.x());
            break;
        case Handle::Nose:
            e.noseRadius = std::clamp(0.5 * q.x(), 1e-4, 0.3);
            break;
    }
    return e;
}

void SectionPicture::wheelEvent(QWheelEvent* e) {
    const double factor = std::pow(1.0015, e->angleDelta().y());
    const double next = std::clamp(zoom_ * factor, 0.2, kNearest);
    // What is under the cursor stays there.
    const QPointF arm = e->position() - place().center();
    shift_ = arm + (next / zoom_) * (shift_ - arm);
    zoom_ = next;
    update();
    e->accept();
}

void SectionPicture::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    if (byHand_)
        for (const Handle h : {Handle::Thickness, Handle::Camber, Handle::Nose}) {
            const auto q = handleAt(h);
            if (q && std::hypot(q->x() - e->position().x(), q->y() - e->position().y()) < kGrasp) {
                held_ = h;
                update();
                return;
            }
        }
    panFrom_ = e->position() - shift_;
}

void SectionPicture::mouseMoveEvent(QMouseEvent* e) {
    if (held_)
        emit shaping(editTo(e->position()));
    else if (panFrom_) {
        shift_ = e->position() - *panFrom_;
        update();
    }
}

void SectionPicture::mouseReleaseEvent(QMouseEvent* e) {
    panFrom_.reset();
    if (!held_) return;
    const auto edit = editTo(e->position());
    held_.reset();
    emit shaped(edit);
}

void SectionPicture::mouseDoubleClickEvent(QMouseEvent*) {
    zoom_ = 1.0;
    shift_ = {};
    update();
}

}  // namespace cvane::desk
