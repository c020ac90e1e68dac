#include "desk/model/point_model.h"

#include <QColor>
#include <algorithm>

#include "base/units.h"
#include "desk/look.h"

namespace cvane::desk {

namespace {
QString shown(const std::string& name) {
    return QString::fromStdString(campaign::shownName(name));
}

QString tileWords(const campaign::PointReport& r) {
    QString text = QString::fromStdString(campaign::nameOf(r.state));
    if (r.state == campaign::PointState::Running)
        text += (r.coarse ? QObject::tr(", coarse") : QString()) + QString(" %1/%2\nCL %3  CD %4")
                                                                       .arg(r.iterations)
                                                                       .arg(r.mostIterations)
                                                                       .arg(r.CL, 0, 'f', 4)
                                                                       .arg(r.CD, 0, 'f', 4);
    else if (r.result)
        text += QString(r.provisional() ? QObject::tr(", provisional\n~ CL %1  CD %2") : "\nCL %1  CD %2")
                    .arg(r.result->coefficients.CL, 0, 'f', 4)
                    .arg(r.result->coefficients.CD, 0, 'f', 4);
    return text;
}

QColor tileColour(campaign::PointState s) {
    switch (s) {
        case campaign::PointState::Running:
            return look::wash(look::accent);
        case campaign::PointState::Settled:
            return look::wash(look::calm);
        case campaign::PointState::Diverged:
            return look::wash(look::warn);
        default:
            return look::sheet;
    }
}

// A finer number than the file can hold is a matter of its unit.
QString degrees(double v) {
    return QString::number(v + 0.0, 'g', 6) + "\u00b0";
}
}  // namespace

PointModel::PointModel(Document& d) : QAbstractTableModel(&d), document_(d) {
    d.when(Change::Points | Change::Campaign, this, [this] {
        std::vector<campaign::Point> now;
        for (const auto& r : document_.reports()) now.push_back(r.point);
        if (now != shown_) {
            beginResetModel();
            shown_ = std::move(now);
            endResetModel();
        } else if (!shown_.empty()) {
            emit dataChanged(index(0, 0), index(rowCount() - 1, kColumns - 1));
        }
    });
    d.when(Change::Settings, this, [this] {
        if (!shown_.empty()) emit dataChanged(index(0, 0), index(rowCount() - 1, kColumns - 1));
        emit headerDataChanged(Qt::Horizontal, 0, kColumns - 1);
    });
}

int PointModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(shown_.size());
}
int PointModel::columnCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : kColumns;
}

int PointModel::rowOf(const campaign::Point& p) const {
    const auto it = std::find(shown_.begin(), shown_.end(), p);
    return it == shown_.end() ? -1 : static_cast<int>(it - shown_.begin());
}

QVariant PointModel::data(const QModelIndex& at, int role) const {
    if (!at.isValid() || at.row() >= rowCount()) return {};
    const auto* r = document_.reportOf(shown_[static_cast<std::size_t>(at.row())]);
    if (!r) return {};
    const auto& c = r->point.condition;
    if (role == Qt::ToolTipRole)
        return QString::fromStdString(!r->message.empty() ? r->message
                                      : r->result         ? readout::remarkOf(*r->result)
                                                          : "");
    if (role == Qt::BackgroundRole) return tileColour(r->state);
    if (role == Qt::TextAlignmentRole)
        return at.column() >= Speed && at.column() != State ? QVariant(Qt::AlignRight | Qt::AlignVCenter) : QVariant();
    if (role != Qt::DisplayRole) return {};
    const auto coefficient = [&](double v) { return r->result ? QString::number(v, 'f', 5) : QString(); };
    const air::Coefficients k = r->result ? r->result->coefficients : air::Coefficients{};
    switch (at.column()) {
        case Configuration:
            return shown(r->point.configuration);
        case SetUp:
            return shown(r->point.setUp);
        case Speed:
            return QString::number(c.speed / base::unitNamed(base::speedUnits(), document_.settings().units.speed).inSI,
                                   'g', 6);
        case Alpha:
            return QString::number(c.alpha_deg + 0.0, 'g', 6);
        case Beta:
            return QString::number(c.beta_deg + 0.0, 'g', 6);
        case State:
            return QString::fromStdString(r->stateWords());
        case CL:
            return coefficient(k.CL);
        case CD:
            return coefficient(k.CD);
        case Cm:
            return coefficient(k.Cm);
        default:
            return {};
    }
}

QVariant PointModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (role != Qt::DisplayRole || orientation == Qt::Vertical) return {};
    const QString speed = document_.isOpen() ? QString::fromStdString(document_.settings().units.speed) : "m/s";
    const QString names[kColumns] = {tr("configuration"),
                                     tr("set-up"),
                                     tr("speed [%1]").arg(speed),
                                     tr("alpha [deg]"),
                                     tr("beta [deg]"),
                                     tr("state"),
                                     "CL",
                                     "CD",
                                     "Cm"};
    return names[section];
}

QString pointWords(const campaign::Point& p) {
    QString text = QString("%1 m/s, alpha %2\u00b0").arg(p.condition.speed).arg(p.condition.alpha_deg);
    if (p.condition.beta_deg != 0.0) text += QString(", beta %1\u00b0").arg(p.condition.beta_deg);
    for (const auto& name : {p.configuration, p.setUp})
        if (!name.empty()) text += ", " + QString::fromStdString(name);
    if (p.method != campaign::Method::Field) text += ", " + QObject::tr(campaign::nameOf(p.method).shown);
    return text;
}

std::pair<QString, QString> differingWords(const campaign::Point& a, const campaign::Point& b) {
    QStringList one, other;
    const auto add = [&](const QString& x, const QString& y) {
        if (x == y) return;
        one << x;
        other << y;
    };
    add(shown(a.configuration), shown(b.configuration));
    add(shown(a.setUp), shown(b.setUp));
    add(QObject::tr(campaign::nameOf(a.method).shown), QObject::tr(campaign::nameOf(b.method).shown));
    const auto angle = [](const char* name, double v) { return QString("%1 %2").arg(name, degrees(v)); };
    add(angle("alpha", a.condition.alpha_deg), angle("alpha", b.condition.alpha_deg));
    add(angle("beta", a.condition.beta_deg), angle("beta", b.condition.beta_deg));
    const auto speed = [](double v) { return QString("%1 m/s").arg(v, 0, 'g', 6); };
    add(speed(a.condition.speed), speed(b.condition.speed));
    return {one.join(", "), other.join(", ")};
}

QString axisName(PointAxis axis) {
    const QString names[kPointAxes] = {QObject::tr("configuration"), QObject::tr("set-up"), QObject::tr("method"),
                                       QObject::tr("speed"),         QObject::tr("alpha"),  QObject::tr("beta")};
    return names[static_cast<int>(axis)];
}

QString axisWords(const campaign::Point& p, PointAxis axis, const campaign::ShownUnits& units) {
    switch (axis) {
        case PointAxis::Configuration:
            return shown(p.configuration);
        case PointAxis::SetUp:
            return shown(p.setUp);
        case PointAxis::Method:
            return QObject::tr(campaign::nameOf(p.method).shown);
        case PointAxis::Speed:
            return QString("%1 %2")
                .arg(p.condition.speed / base::unitNamed(base::speedUnits(), units.speed).inSI, 0, 'g', 5)
                .arg(QString::fromStdString(units.speed));
        case PointAxis::Alpha:
            return QObject::tr("alpha %1").arg(degrees(p.condition.alpha_deg));
        case PointAxis::Beta:
            return QObject::tr("beta %1").arg(degrees(p.condition.beta_deg));
    }
    return {};
}

BoardModel::BoardModel(PointModel& points) : points_(points) {
    connect(&points, &QAbstractItemModel::modelReset, this, &BoardModel::layOut);
    connect(&points, &QAbstractItemModel::dataChanged, this, [this] {
        if (rowCount() > 0 && columnCount() > 0)
            emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
    });
    connect(&points, &QAbstractItemModel::headerDataChanged, this, &BoardModel::layOut);
}

void BoardModel::setDown(const std::vector<PointAxis>& axes) {
    down_ = axes;
    layOut();
}

void BoardModel::layOut() {
    const int n = points_.rowCount();
    const auto& d = points_.document();
    const auto isDown = [&](PointAxis a) { return std::find(down_.begin(), down_.end(), a) != down_.end(); };
    // Where a name stands in its list; the base is first.
    const auto placeOf = [&](const std::vector<campaign::Variant>& list, const std::string& name) {
        const auto it = std::find_if(list.begin(), list.end(), [&](const auto& v) { return v.name == name; });
        return name.empty() ? -1.0 : static_cast<double>(it - list.begin());
    };
    const auto orderOf = [&](const campaign::Point& p, PointAxis a) {
        const auto& c = p.condition;
        return a == PointAxis::Configuration ? placeOf(d.base().settings.configurations, p.configuration)
               : a == PointAxis::SetUp       ? placeOf(d.base().settings.setUps, p.setUp)
               : a == PointAxis::Method      ? -static_cast<double>(p.method)
               : a == PointAxis::Speed       ? c.speed
               : a == PointAxis::Alpha       ? c.alpha_deg
                                             : c.beta_deg;
    };
    const auto varies = [&](PointAxis a) {
        for (int i = 1; i < n; ++i)
            if (orderOf(points_.report(i).point, a) != orderOf(points_.report(0).point, a)) return true;
        return false;
    };
    std::vector<PointAxis> down, across;
    for (int k = 0; k < kPointAxes && n > 0; ++k) {
        const auto a = static_cast<PointAxis>(k);
        // Speed across and alpha down are always named, so that a single point is known by its wind.
        if (varies(a) || a == PointAxis::Speed || a == PointAxis::Alpha) (isDown(a) ? down : across).push_back(a);
    }
    const auto lineOf = [&](const campaign::Point& p, const std::vector<PointAxis>& axes) {
        Line line;
        QStringList words;
        for (const auto a : axes) {
            line.order.push_back(orderOf(p, a));
            words << axisWords(p, a, d.settings().units);
        }
        line.words = words.join(", ");
        return line;
    };
    const auto linesOf = [&](const std::vector<PointAxis>& axes) {
        std::vector<Line> lines;
        lines.reserve(static_cast<std::size_t>(n));
        for (int i = 0; i < n; ++i) lines.push_back(lineOf(points_.report(i).point, axes));
        std::sort(lines.begin(), lines.end(), [](const auto& a, const auto& b) { return a.order < b.order; });
        lines.erase(
            std::unique(lines.begin(), lines.end(), [](const auto& a, const auto& b) { return a.order == b.order; }),
            lines.end());
        return lines;
    };
    beginResetModel();
    rows_ = linesOf(down);
    columns_ = linesOf(across);
    cells_.assign(rows_.size(), std::vector<int>(columns_.size(), -1));
    const auto find = [](const std::vector<Line>& lines, const Line& line) {
        return static_cast<std::size_t>(
            std::lower_bound(lines.begin(), lines.end(), line,
                             [](const auto& a, const auto& b) { return a.order < b.order; }) -
            lines.begin());
    };
    for (int i = 0; i < n; ++i)
        cells_[find(rows_, lineOf(points_.report(i).point, down))]
              [find(columns_, lineOf(points_.report(i).point, across))] = i;
    endResetModel();
}

int BoardModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(rows_.size());
}
int BoardModel::columnCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(columns_.size());
}

const campaign::PointReport* BoardModel::report(const QModelIndex& at) const {
    if (!at.isValid() || at.row() >= rowCount() || at.column() >= columnCount()) return nullptr;
    const int row = cells_[static_cast<std::size_t>(at.row())][static_cast<std::size_t>(at.column())];
    return row < 0 || row >= static_cast<int>(points_.document().reports().size()) ? nullptr : &points_.report(row);
}

QModelIndex BoardModel::indexOf(const campaign::Point& p) const {
    for (int r = 0; r < rowCount(); ++r)
        for (int c = 0; c < columnCount(); ++c)
            if (const auto* here = report(index(r, c)); here && here->point == p) return index(r, c);
    return {};
}

QVariant BoardModel::data(const QModelIndex& at, int role) const {
    const auto* r = report(at);
    if (!r) return {};
    if (role == Qt::DisplayRole) return tileWords(*r);
    if (role == Qt::ToolTipRole || role == Qt::BackgroundRole)
        return points_.data(points_.index(points_.rowOf(r->point), PointModel::State), role);
    return {};
}

QVariant BoardModel::headerData(int section, Qt::Orientation orientation, int role) const {
    const auto& lines = orientation == Qt::Horizontal ? columns_ : rows_;
    if (role != Qt::DisplayRole || section < 0 || section >= static_cast<int>(lines.size())) return {};
    return lines[static_cast<std::size_t>(section)].words;
}

}  // namespace cvane::desk
