#include "desk/section_picture.h"

#include <QPainter>
#include <QPainterPath>

#include "base/units.h"
#include "desk/look.h"

namespace cvane::desk {
using section::Side;

SectionPicture::SectionPicture(QWidget* parent) : QWidget(parent) {
    setObjectName("sectionPicture");
    setMinimumHeight(140);
}

void SectionPicture::show(const SectionWork::View& view, std::vector<section::Fault> faults,
                          const campaign::SectionFieldPoint* field) {
    view_ = view;
    faults_ = std::move(faults);
    field_.reset();
    if (field) field_ = *field;
    if (!held_) preview_.reset();
    update();
}

void SectionPicture::setCells(SectionWork::Cells cells) {
    cells_ = std::move(cells);
    update();
}

void SectionPicture::setPressures(bool on) {
    pressures_ = on;
    update();
}

void SectionPicture::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), look::sheet);
    draw(p, place());
    if (byHand_) drawHandles(p);
}

namespace {
/// Normals of samples by their neighbours, away from the section.
std::vector<QPointF> normals(const std::vector<section::LayerSample>& s, double sign) {
    std::vector<QPointF> n;
    for (std::size_t i = 0; i < s.size(); ++i) {
        const auto &b = s[i > 0 ? i - 1 : i], &e = s[std::min(i + 1, s.size() - 1)];
        const double dx = e.x - b.x, dz = e.z - b.z, l = std::max(std::hypot(dx, dz), 1e-12);
        n.push_back(QPointF(-sign * dz / l, sign * dx / l));
    }
    return n;
}

void follow(QPainterPath& path, const QPointF& q, bool first) {
    if (first)
        path.moveTo(q);
    else
        path.lineTo(q);
}
}  // namespace

QPointF SectionPicture::Frame::at(double x, double z) const {
    return origin + scale * QPointF(0.25 + ca * (x - 0.25) + sa * z, sa * (x - 0.25) - ca * z);
}

QPointF SectionPicture::Frame::back(const QPointF& q) const {
    const QPointF d = (q - origin) / scale - QPointF(0.25, 0.0);
    return {0.25 + ca * d.x() + sa * d.y(), sa * d.x() - ca * d.y()};
}

SectionPicture::Frame SectionPicture::frameIn(const QRectF& place) const {
    Frame f;
    // Room for the wake behind and pressures above.
    const double fit = std::min(0.6 * place.width(), 1.7 * place.height());
    const QPointF nose(place.left() + 0.12 * place.width(), place.top() + 0.58 * place.height());
    f.scale = zoom_ * fit;
    f.origin = place.center() + zoom_ * (nose - place.center()) + shift_;
    // The wind keeps blowing from left to right: the section turns.
    f.ca = std::cos(view_.figures.alpha), f.sa = std::sin(view_.figures.alpha);
    return f;
}

void SectionPicture::draw(QPainter& p, const QRectF& place) const {
    p.setRenderHint(QPainter::Antialiasing);
    const auto& outline = view_.outline.points;
    if (outline.empty()) {
        p.setPen(look::faint);
        p.drawText(place, Qt::AlignCenter | Qt::TextWordWrap,
                   view_.trouble.isEmpty()
                       ? tr("Bring coordinates in, or type a code: the section and its polars appear here.")
                       : view_.trouble);
        return;
    }
    const Frame to = frameIn(place);
    p.save();
    p.setClipRect(place);
    if (!cells_.empty()) drawCells(p, to);
    if (pressures_) drawPressures(p, to, place.height());
    const auto contour = [&](const std::vector<Eigen::Vector2d>& points) {
        QPainterPath path;
        for (std::size_t i = 0; i < points.size(); ++i) follow(path, to.at(points[i].x(), points[i].y()), i == 0);
        path.closeSubpath();
        return path;
    };
    p.setPen(QPen(look::ink, 1.6));
    p.setBrush(look::body);
    p.drawPath(contour(outline));
    if (preview_) {
        p.setPen(QPen(look::accent, 1.6));
        p.setBrush(Qt::NoBrush);
        p.drawPath(contour(preview_->points));
    }
    if (view_.figures.viscous && !view_.distribution.upper.empty()) drawLayers(p, to);
    p.setPen(QPen(look::accent, 2.0));
    for (const auto& f : faults_) {
        const QPointF q = to.at(f.place.x(), f.place.y());
        p.setBrush(Qt::NoBrush);
        p.drawEllipse(q, 7, 7);
    }
    p.restore();
    QString words = QString::fromStdString(view_.section) +
                    tr("   alpha %1 deg").arg(view_.figures.alpha / base::degree, 0, 'f', 2);
    if (view_.figures.viscous && view_.figures.converged)
        words += tr("   cl %1   cd %2   cm %3")
                     .arg(view_.figures.cl, 0, 'f', 3)
                     .arg(view_.figures.cd, 0, 'f', 5)
                     .arg(view_.figures.cm, 0, 'f', 4);
    if (field_)
        words += tr("   in the field cl %1   cd %2   cm %3")
                     .arg(field_->cl, 0, 'f', 3)
                     .arg(field_->cd, 0, 'f', 5)
                     .arg(field_->cm, 0, 'f', 4);
    if (!view_.trouble.isEmpty()) words += "   " + view_.trouble;
    if (view_.figures.sonic()) words += tr("   local flow is sonic: beyond the correction for Mach number");
    const auto write = [&](Qt::Alignment where, const QString& text, const QColor& ink) {
        if (!cells_.empty()) p.fillRect(p.boundingRect(place, where, text), look::sheet);  // lines run behind
        p.setPen(ink);
        p.drawText(place, where, text);
    };
    write(Qt::AlignTop | Qt::AlignLeft, words, look::ink);
    write(Qt::AlignBottom | Qt::AlignLeft,
          tr("T transition   S separation   dashed: displaced outline and wake   band: suction warm, pressure cool"),
          look::faint);
}

void SectionPicture::drawPressures(QPainter& p, const Frame& to, double height) const {
    const auto& d = view_.distribution;
    double most = 1.0;
    for (const auto* side : {&d.upper, &d.lower})
        for (const auto& s : *side) most = std::max(most, std::abs(s.Cp));
    const double perCp = std::min(0.12, 0.30 * height * zoom_ / to.scale / most);
    for (const Side which : {Side::Upper, Side::Lower}) {
        const auto& side = which == Side::Upper ? d.upper : d.lower;
        const auto n = normals(side, which == Side::Upper ? 1.0 : -1.0);
        for (std::size_t i = 0; i + 1 < side.size(); ++i) {
            // Suction leads away from the surface; so does pressure, in the calm colour.
            const auto tip = [&](std::size_t k) {
                const double l = perCp * std::abs(side[k].Cp);
                return to.at(side[k].x + l * n[k].x(), side[k].z + l * n[k].y());
            };
            QColor c = side[i].Cp < 0.0 ? look::accent : look::calm;
            p.setPen(QPen(c, 1.4));
            p.drawLine(tip(i), tip(i + 1));
            c.setAlpha(60);
            p.setPen(Qt::NoPen);
            p.setBrush(c);
            p.drawPolygon(
                QPolygonF({to.at(side[i].x, side[i].z), tip(i), tip(i + 1), to.at(side[i + 1].x, side[i + 1].z)}));
        }
    }
}

void SectionPicture::drawLayers(QPainter& p, const Frame& to) const {
    const auto& d = view_.distribution;
    QPainterPath displaced;
    for (const Side which : {Side::Upper, Side::Lower}) {
        const auto& side = which == Side::Upper ? d.upper : d.lower;
        const auto n = normals(side, which == Side::Upper ? 1.0 : -1.0);
        for (std::size_t i = 0; i < side.size(); ++i) {
            const QPointF q = to.at(side[i].x + side[i].deltaStar * n[i].x(), side[i].z + side[i].deltaStar * n[i].y());
            follow(displaced, q, i == 0);
        }
    }
    for (const double sign : {1.0, -1.0}) {
        const auto n = normals(d.wake, 1.0);
        for (std::size_t i = 0; i < d.wake.size(); ++i) {
            const double h = 0.5 * sign * d.wake[i].deltaStar;
            const QPointF q = to.at(d.wake[i].x + h * n[i].x(), d.wake[i].z + h * n[i].y());
            follow(displaced, q, i == 0);
        }
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(look::calm, 1.2, Qt::DashLine));
    p.drawPath(displaced);
    // Transition: a bar across the side with a T; separation: an S.
    for (const Side which : {Side::Upper, Side::Lower}) {
        const auto& side = which == Side::Upper ? d.upper : d.lower;
        const auto n = normals(side, which == Side::Upper ? 1.0 : -1.0);
        const auto mark = [&](double x, const QString& letter, const QColor& colour) {
            std::size_t k = 0;
            while (k + 1 < side.size() && (side[k].x < x || k < side.size() / 6)) ++k;
            const double l = 22.0 / to.scale;
            const QPointF root = to.at(side[k].x, side[k].z),
                          tip = to.at(side[k].x + l * n[k].x(), side[k].z + l * n[k].y());
            p.setPen(QPen(colour, 2.0));
            p.drawLine(root, tip);
            QFont f = p.font();
            f.setBold(true);
            p.setFont(f);
            p.drawText(QRectF(tip.x() - 10, which == Side::Upper ? tip.y() - 17 : tip.y() + 1, 20, 16), Qt::AlignCenter,
                       letter);
            f.setBold(false);
            p.setFont(f);
        };
        const auto w = static_cast<std::size_t>(which);
        if (view_.figures.transition[w] < 0.999) mark(view_.figures.transition[w], "T", look::ink);
        if (const auto s = view_.figures.separation(which)) mark(*s, "S", look::accent);
    }
}

}  // namespace cvane::desk
