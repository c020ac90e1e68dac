#include "desk/stages/outline/profile_view.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "desk/look.h"
#include "vehicle/body_skin.h"
#include "vehicle/rounded_line.h"

namespace cvane::desk {
namespace {
constexpr double kHandle = 5.0, kCatch = 9.0;  // [pixels]
constexpr double kMargin = 28.0;
constexpr double kRest = 1e-3;  // what is dragged comes to rest on [m]

double rested(double v) {
    return std::round(v / kRest) * kRest;
}
}  // namespace

ProfileView::ProfileView(QWidget* parent) : QWidget(parent) {
    setObjectName("profileView");
    setAccessibleName(tr("Side view and plan of the vehicle"));
    setToolTip(tr("Drag corners of the side view and half widths of the plan; the wind blows from the left"));
    setMinimumHeight(160);
}

void ProfileView::show(const vehicle::Outline& outline, const vehicle::Outline* behind, int corner) {
    if (held_) return;
    outline_ = outline;
    behind_ = behind ? std::optional(*behind) : std::nullopt;
    corner_ = corner;
    update();
}

ProfileView::Frame ProfileView::frame() const {
    if (held_) return held_->frame;
    double left = 1e300, right = -1e300, top = 0.0, half = 0.1;
    const auto add = [&](const vehicle::Outline& o) {
        const Box body = vehicle::bodyBox(o);
        left = std::min(left, body.low.x());
        right = std::max(right, body.high.x());
        top = std::max(top, body.high.z());
        half = std::max(half, body.high.y());
        for (const auto& p : o.plates) {
            left = std::min(left, p.middle.x() - 0.5 * p.length);
            right = std::max(right, p.middle.x() + 0.5 * p.length);
            top = std::max(top, p.middle.z() + 0.5 * p.height);
        }
    };
    add(outline_);
    if (behind_) add(*behind_);
    if (!(right > left)) return {};
    Frame f;
    const double tall = top + 2.0 * half;
    f.scale = std::max(1e-3, std::min((width() - 2.0 * kMargin) / (right - left), (height() - 3.5 * kMargin) / tall));
    const double x = 0.5 * (width() - f.scale * (left + right)), spare = height() - 3.5 * kMargin - f.scale * tall;
    f.side = {x, kMargin + f.scale * top + 0.3 * spare};
    f.plan = {x, f.side.y() + 1.5 * kMargin + f.scale * half + 0.4 * spare};
    return f;
}

QPointF ProfileView::handleAt(Line line, std::size_t k) const {
    const Frame f = frame();
    if (line == Line::Profile) {
        const auto& c = outline_.profile[k];
        return f.side + f.scale * QPointF(c.x, -(c.z + outline_.clearance));
    }
    const auto& c = outline_.plan[k];
    return f.plan + f.scale * QPointF(c.x, -c.z);
}

void ProfileView::draw(QPainter& p, const vehicle::Outline& o, const QPen& pen, bool filled) const {
    const Frame f = frame();
    p.setPen(pen);
    const auto polygon = [&](const std::vector<vehicle::Point2>& places, const QPointF& origin) {
        QPolygonF out;
        for (const auto& q : places) out << origin + f.scale * QPointF(q.x(), -q.y());
        return out;
    };
    try {
        p.setBrush(filled ? QBrush(look::body) : Qt::NoBrush);
        p.drawPolygon(polygon(vehicle::RoundedLine(vehicle::profileOf(o), true, 2e-3, "profile").inset(0.0), f.side));
        if (o.plan.size() > 1) {
            auto half = vehicle::RoundedLine(o.plan, false, 2e-3, "plan").inset(0.0);
            for (auto k = static_cast<std::ptrdiff_t>(half.size()) - 1; k >= 0; --k) {
                const auto& q = half[static_cast<std::size_t>(k)];
                half.emplace_back(q.x(), -q.y());
            }
            p.drawPolygon(polygon(half, f.plan));
        }
    } catch (const base::InputError&) {
        // While it is dragged it may be what cannot be drawn; its corners stay to be seen.
        QPolygonF corners;
        for (const auto& c : o.profile) corners << f.side + f.scale * QPointF(c.x, -(c.z + o.clearance));
        p.setBrush(Qt::NoBrush);
        p.drawPolygon(corners);
    }
    p.setBrush(Qt::NoBrush);
    for (const auto& w : o.wheels) {
        p.drawEllipse(f.side + f.scale * QPointF(w.x, -w.radius), f.scale * w.radius, f.scale * w.radius);
        for (const double y : {0.5 * w.track, -0.5 * w.track})
            p.drawRect(QRectF(f.plan + f.scale * QPointF(w.x - w.radius, -y - 0.5 * w.width),
                              f.scale * QSizeF(2.0 * w.radius, w.width)));
    }
    for (const auto& q : o.plates) {
        p.save();
        p.translate(f.side + f.scale * QPointF(q.middle.x(), -q.middle.z()));
        p.rotate(q.angle_deg);
        p.drawRect(
            QRectF(-0.5 * f.scale * q.length, -0.5 * f.scale * q.height, f.scale * q.length, f.scale * q.height));
        p.restore();
    }
}

void ProfileView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), look::paper);
    if (outline_.profile.empty()) return;
    const Frame f = frame();
    p.setPen(QPen(look::line, 2.0));
    p.drawLine(QPointF(kMargin, f.side.y()), QPointF(width() - kMargin, f.side.y()));
    p.setPen(look::faint);
    p.drawText(QPointF(kMargin, kMargin - 8.0), tr("from the side, wind from the left"));
    p.drawText(QPointF(kMargin, f.side.y() + 1.2 * kMargin), tr("from above"));
    if (behind_) draw(p, *behind_, QPen(look::faint, 1.0, Qt::DashLine), false);
    draw(p, outline_, QPen(look::ink, 1.5), true);
    for (const Line line : {Line::Profile, Line::Plan}) {
        const auto& corners = line == Line::Profile ? outline_.profile : outline_.plan;
        for (std::size_t k = 0; k < corners.size(); ++k) {
            const bool chosen = line == Line::Profile && static_cast<int>(k) == corner_;
            p.setPen(QPen(look::accent, 1.5));
            p.setBrush(chosen ? look::accent : look::paper);
            const QPointF at = handleAt(line, k);
            p.drawEllipse(at, kHandle, kHandle);
            if (line == Line::Profile) {
                p.setPen(look::faint);
                p.drawText(at + QPointF(7.0, -7.0), QString::number(k + 1));
            }
        }
    }
}

void ProfileView::mousePressEvent(QMouseEvent* e) {
    for (const Line line : {Line::Profile, Line::Plan}) {
        const auto count = (line == Line::Profile ? outline_.profile : outline_.plan).size();
        for (std::size_t k = 0; k < count; ++k) {
            const QPointF d = handleAt(line, k) - e->position();
            if (std::hypot(d.x(), d.y()) > kCatch) continue;
            const Frame f = frame();
            held_ = Held{line, k, f};
            emit chosen(static_cast<int>(line), static_cast<int>(k));
            return;
        }
    }
}

void ProfileView::mouseMoveEvent(QMouseEvent* e) {
    if (!held_) return;
    const bool side = held_->line == Line::Profile;
    const QPointF at = (e->position() - (side ? held_->frame.side : held_->frame.plan)) / held_->frame.scale;
    auto& c = (side ? outline_.profile : outline_.plan)[held_->corner];
    c.x = rested(at.x());
    c.z = side ? rested(std::max(-at.y() - outline_.clearance, -outline_.clearance))
               : std::max(rested(std::abs(at.y())), 0.01);
    update();
}

void ProfileView::mouseReleaseEvent(QMouseEvent*) {
    if (!held_) return;
    held_.reset();
    emit shaped(outline_);
}

}  // namespace cvane::desk
