#include "desk/stages/wing/planform_view.h"

#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "base/errors.h"
#include "base/units.h"
#include "desk/look.h"
#include "wing/layout.h"

namespace cvane::desk {
using base::degree;

namespace {
constexpr double kGrip = 5.0, kReach = 9.0;  // [pixels]
constexpr double kPlanShare = 0.68;          // of the height
constexpr double kStep = 1e-3;               // what is dragged comes to rest on [m]

double onStep(double v) {
    return std::round(v / kStep) * kStep;
}
Vec3 mirrored(const Vec3& p) {
    return {p.x(), -p.y(), p.z()};
}
}  // namespace

PlanformView::PlanformView(QWidget* parent) : QWidget(parent) {
    setObjectName("planform");
    setAccessibleName(tr("Plan and front view of the aircraft"));
    setToolTip(tr("Drag leading and trailing edges of the chosen surface from above, its ribs up and down from ahead"));
    setMouseTracking(true);
    setMinimumHeight(120);
}

void PlanformView::show(const wing::Aircraft& aircraft, std::size_t surface, int station) {
    if (held_) return;
    aircraft_ = aircraft;
    surface_ = std::min(surface, aircraft.surfaces.empty() ? 0 : aircraft.surfaces.size() - 1);
    station_ = station;
    update();
}

void PlanformView::setStalled(std::vector<Vec3> places) {
    stalled_ = std::move(places);
    update();
}

std::pair<Vec3, Vec3> PlanformView::chordOf(const wing::LiftingSurface& s, std::size_t station) const {
    const wing::Layout layout(aircraft_, s, false);
    const double along = s.stations[station].along;
    const double within = station == 0 ? 0.5 * s.stations[1].along : 0.5 * (s.stations[station - 1].along + along);
    return {layout.at(wing::Layout::Line::Mean, along, 0.0, within),
            layout.at(wing::Layout::Line::Mean, along, 1.0, within)};
}

PlanformView::Frames PlanformView::frames() const {
    if (held_) return held_->frames;
    Box box;
    const auto add = [&](const Vec3& p, bool both) {
        box.add(p);
        if (both) box.add(mirrored(p));
    };
    for (const auto& s : aircraft_.surfaces)
        for (std::size_t i = 0; i < s.stations.size(); ++i) {
            const auto [front, back] = chordOf(s, i);
            add(front, s.mirrored);
            add(back, s.mirrored);
        }
    for (const auto& b : aircraft_.bodies)
        for (const auto& t : b.stations) {
            add(b.place + Vec3(t.x, 0.5 * t.width, t.z + 0.5 * t.height), true);
            add(b.place + Vec3(t.x, -0.5 * t.width, t.z - 0.5 * t.height), true);
        }
    for (const auto& d : wing::propellersOf(aircraft_))
        for (const double side : {-0.5, 0.5}) add(d.centre + side * d.diameter * Vec3(0.0, 1.0, 1.0), false);
    Frames out;
    if (box.empty()) return out;
    const Vec3 size = box.size().cwiseMax(1e-3), middle = box.centre();
    constexpr double kRim = 24.0;
    const double w = width() - 2.0 * kRim, plan = kPlanShare * height() - 1.5 * kRim,
                 ahead = (1.0 - kPlanShare) * height() - kRim;
    // One scale for both, so that they can be compared.
    const double scale =
        std::max(1e-3, std::min({w / size.y(), plan / size.x(), ahead / std::max(size.z(), 0.05 * size.y())}));
    out.plan = {QPointF(0.5 * width() - scale * middle.y(), kRim + 0.5 * plan - scale * middle.x()), scale};
    out.ahead = {QPointF(0.5 * width() - scale * middle.y(), height() - 0.5 * kRim - 0.5 * ahead + scale * middle.z()),
                 scale};
    return out;
}

QPointF PlanformView::inPlan(const Vec3& p) const {
    const auto f = frames().plan;
    return f.origin + f.scale * QPointF(p.y(), p.x());
}
QPointF PlanformView::inAhead(const Vec3& p) const {
    const auto f = frames().ahead;
    return f.origin + f.scale * QPointF(p.y(), -p.z());
}

QPointF PlanformView::handleAt(Handle handle, std::size_t station) const {
    const auto [front, back] = chordOf(aircraft_.surfaces[surface_], station);
    switch (handle) {
        case Handle::Leading:
            return inPlan(front);
        case Handle::Trailing:
            return inPlan(back);
        case Handle::Ahead:
            return inAhead(front);
    }
    return {};
}

void PlanformView::drawSurface(QPainter& p, std::size_t index) const {
    const auto& s = aircraft_.surfaces[index];
    const bool current = index == surface_;
    std::vector<std::pair<Vec3, Vec3>> ribs;
    for (std::size_t i = 0; i < s.stations.size(); ++i) ribs.push_back(chordOf(s, i));
    for (const bool port : s.mirrored ? std::vector<bool>{true, false} : std::vector<bool>{false}) {
        const auto put = [&](const Vec3& v) { return port ? mirrored(v) : v; };
        QPolygonF outline, line;
        for (const auto& r : ribs) outline << inPlan(put(r.first)), line << inAhead(put(r.first));
        for (auto r = ribs.rbegin(); r != ribs.rend(); ++r) outline << inPlan(put(r->second));
        p.setPen(QPen(current ? look::ink : look::faint, current ? 1.6 : 1.0));
        p.setBrush(look::body);
        p.drawPolygon(outline);
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(line);
        p.setPen(QPen(look::line, 1.0));
        for (const auto& r : ribs) p.drawLine(inPlan(put(r.first)), inPlan(put(r.second)));
        const wing::Layout layout(aircraft_, s, port);
        p.setPen(QPen(look::faint, 1.0, Qt::DashLine));
        for (const auto& c : s.controls) {
            const auto [a, b] = layout.hinge(c);
            const double in = std::nextafter(c.from, c.to), out = std::nextafter(c.to, c.from),
                         middle = 0.5 * (c.from + c.to);
            using Line = wing::Layout::Line;
            p.drawPolyline(QPolygonF{inPlan(put(layout.at(Line::Mean, in, 1.0, middle))), inPlan(put(a)),
                                     inPlan(put(b)), inPlan(put(layout.at(Line::Mean, out, 1.0, middle)))});
        }
    }
}

void PlanformView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), look::sheet);
    if (aircraft_.surfaces.empty()) return;
    for (const auto& b : aircraft_.bodies)
        for (const double side : b.mirrored ? std::vector<double>{-1.0, 1.0} : std::vector<double>{1.0}) {
            QPolygonF above, low;
            for (const auto& t : b.stations)
                above << inPlan(Vec3(b.place.x() + t.x, side * (b.place.y() + 0.5 * t.width), 0.0)),
                    low << inPlan(Vec3(b.place.x() + t.x, side * (b.place.y() - 0.5 * t.width), 0.0));
            for (auto q = low.rbegin(); q != low.rend(); ++q) above << *q;
            p.setPen(QPen(look::faint, 1.0));
            p.setBrush(Qt::NoBrush);
            p.drawPolygon(above);
            const auto widest = std::max_element(b.stations.begin(), b.stations.end(),
                                                 [](const auto& m, const auto& n) { return m.width < n.width; });
            const QPointF middle = inAhead(Vec3(0.0, side * b.place.y(), b.place.z() + widest->z));
            const double scale = frames().ahead.scale;
            p.drawEllipse(middle, 0.5 * scale * widest->width, 0.5 * scale * widest->height);
        }
    for (std::size_t i = 0; i < aircraft_.surfaces.size(); ++i) drawSurface(p, i);
    p.setPen(QPen(look::accent, 1.2));
    p.setBrush(Qt::NoBrush);
    for (const auto& d : wing::propellersOf(aircraft_)) {
        const Vec3 n = d.axis.normalized(), across = 0.5 * d.diameter * Vec3(-n.y(), n.x(), 0.0);
        p.drawLine(inPlan(d.centre - across), inPlan(d.centre + across));
        p.drawLine(inPlan(d.centre), inPlan(d.centre + (d.thrust < 0.0 ? -0.25 : 0.25) * d.diameter * n));
        const double radius = 0.5 * frames().ahead.scale * d.diameter;
        p.drawEllipse(inAhead(d.centre), radius, radius);
    }
    p.setPen(Qt::NoPen);
    p.setBrush(look::warn);
    for (const auto& place : stalled_) p.drawEllipse(inPlan(place), 2.5, 2.5);
    const auto& s = aircraft_.surfaces[surface_];
    for (std::size_t i = 0; i < s.stations.size(); ++i) {
        const bool now = static_cast<int>(i) == station_;
        p.setPen(QPen(look::accent, 1.4));
        p.setBrush(now ? look::accent : look::sheet);
        for (const auto handle : {Handle::Leading, Handle::Trailing}) p.drawEllipse(handleAt(handle, i), kGrip, kGrip);
        if (i > 0) {
            const QPointF at = handleAt(Handle::Ahead, i);
            p.drawRect(QRectF(at.x() - 4.0, at.y() - 4.0, 8.0, 8.0));
        }
    }
    p.setPen(look::faint);
    p.drawText(QPointF(8.0, 16.0), tr("from above"));
    p.drawText(QPointF(8.0, kPlanShare * height() + 14.0), tr("from ahead"));
}

wing::Aircraft PlanformView::draggedTo(const QPointF& mouse) const {
    wing::Aircraft a = held_->from;
    auto& s = a.surfaces[surface_];
    auto& t = s.stations[held_->station];
    const auto& f = held_->handle == Handle::Ahead ? held_->frames.ahead : held_->frames.plan;
    const QPointF model = (mouse - f.origin) / f.scale;
    // Of a surface that stands up the plan shows its edge alone: there only what lies along x follows.
    const double roll = std::cos(s.roll_deg * degree);
    const std::size_t i = held_->station;
    if (held_->handle == Handle::Ahead) {
        auto& inner = s.stations[i - 1];
        const Vec3 from = chordOf(s, i - 1).first;
        if (std::abs(roll) > 0.5)
            inner.dihedral_deg =
                std::round(10.0 *
                           std::clamp(std::atan2(-model.y() - from.z(), model.x() - from.y()) / degree, -85.0, 85.0)) /
                10.0;
        return a;
    }
    if (held_->handle == Handle::Trailing) {
        t.chord = std::max(10.0 * kStep, onStep(model.y() - (s.place.x() + t.leading)));
        return a;
    }
    t.leading = onStep(model.y() - s.place.x());
    if (i == 0 || std::abs(roll) < 0.5) return a;
    const double dihedral = std::cos(s.stations[i - 1].dihedral_deg * degree);
    const double inner = chordOf(s, i - 1).first.y();
    const double length = (model.x() - inner) / std::max(0.1, roll * dihedral);
    const double before = t.along, least = s.stations[i - 1].along + 10.0 * kStep;
    t.along = std::max(least, onStep(s.stations[i - 1].along + length));
    // What lies outboard keeps its panels' lengths.
    for (std::size_t k = i + 1; k < s.stations.size(); ++k) s.stations[k].along += t.along - before;
    for (auto& c : s.controls) {
        c.to = std::min(c.to, s.stations.back().along);
        if (!(c.from < c.to)) c.from = std::max(0.0, c.to - 10.0 * kStep);
    }
    return a;
}

void PlanformView::mousePressEvent(QMouseEvent* e) {
    if (aircraft_.surfaces.empty() || e->button() != Qt::LeftButton) return;
    const auto& s = aircraft_.surfaces[surface_];
    for (std::size_t i = 0; i < s.stations.size(); ++i)
        for (const auto handle : {Handle::Leading, Handle::Trailing, Handle::Ahead}) {
            if (handle == Handle::Ahead && i == 0) continue;
            const QPointF d = handleAt(handle, i) - e->position();
            if (std::hypot(d.x(), d.y()) > kReach) continue;
            const Frames now = frames();
            held_ = Held{handle, i, aircraft_, now};
            station_ = static_cast<int>(i);
            emit chosen(station_);
            update();
            return;
        }
}

void PlanformView::mouseMoveEvent(QMouseEvent* e) {
    if (!held_) return;
    try {
        auto next = draggedTo(e->position());
        wing::check(next);
        aircraft_ = std::move(next);
        emit shaping(aircraft_);
        update();
    } catch (const base::InputError&) {
        // Beyond what an aircraft can be: the last one stays.
    }
}

void PlanformView::mouseReleaseEvent(QMouseEvent*) {
    if (!held_) return;
    const bool changed = !(aircraft_ == held_->from);
    held_.reset();
    update();
    if (changed) emit shaped(aircraft_);
}

}  // namespace cvane::desk
