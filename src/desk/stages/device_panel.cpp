#include "desk/stages/device_panel.h"

#include <QLineEdit>
#include <algorithm>

#include "desk/stages/typed_values.h"

namespace cvane::desk {
namespace {
QString nameOf(const QString& text) {
    return text.trimmed();
}
}  // namespace

DevicePanel::DevicePanel(Document& d) : EntryList({"deviceList", "addDevice", "removeDevice"}, 84), document_(d) {
    list().setAccessibleName(tr("Devices in the air"));
    addMenu().addAction(tr("Rotating wheel"), this, [this] { add(Kind::Wheel); });
    addMenu().addAction(tr("Rough part"), this, [this] { add(Kind::Rough); });
    addMenu().addAction(tr("Actuator disc: propeller or fan"), this, [this] { add(Kind::Disc); });
    addMenu().addAction(tr("Porous block: radiator core"), this, [this] { add(Kind::Block); });
    connect(this, &EntryList::removed, this, &DevicePanel::remove);
    connect(&list(), &QListWidget::currentRowChanged, this, &DevicePanel::showChosen);
    document_.when(Change::Settings, this, [this] { fill(); });
}

DevicePanel::Entry DevicePanel::entryAt(int row) const {
    const auto& d = document_.settings().devices;
    auto i = static_cast<std::size_t>(row);
    if (i < d.wheels.size()) return {Kind::Wheel, i};
    i -= d.wheels.size();
    if (i < d.roughParts.size()) return {Kind::Rough, i};
    i -= d.roughParts.size();
    if (i < d.discs.size()) return {Kind::Disc, i};
    return {Kind::Block, i - d.discs.size()};
}

void DevicePanel::fill() {
    if (!document_.isOpen()) return;
    const auto& d = document_.settings().devices;
    refill([&](QListWidget& to) {
        for (const auto& w : d.wheels)
            to.addItem(tr("%1 rotates, %2")
                           .arg(QString::fromStdString(w.part), w.rolling ? tr("rolling") : tr("%1 rpm").arg(w.rpm)));
        for (const auto& r : d.roughParts)
            to.addItem(tr("%1, roughness %2 mm").arg(QString::fromStdString(r.part)).arg(1e3 * r.sandGrain));
        for (const auto& p : d.discs)
            to.addItem(tr("%1, thrust %2")
                           .arg(QString::fromStdString(p.name),
                                p.thrust != 0.0 ? tr("%1 N").arg(p.thrust) : tr("%1 W").arg(p.power)));
        for (const auto& b : d.blocks) to.addItem(tr("%1 resists").arg(QString::fromStdString(b.name)));
    });
    showChosen();
}

void DevicePanel::line(const QString& label, const char* name, const QString& value, const QString& hint,
                       const std::function<bool(campaign::Devices&, const QString&)>& take) {
    auto* edit = new QLineEdit(value);
    edit->setObjectName(name);
    edit->setPlaceholderText(hint);
    form()->addRow(label, edit);
    connect(edit, &QLineEdit::editingFinished, this, [this, edit, value, label, take] {
        if (edit->text() == value) return;
        auto s = document_.settings();
        if (!take(s.devices, edit->text())) {
            emit document_.problem(
                tr("\"%1\" does not fit for %2. %3")
                    .arg(edit->text(), label,
                         tr("Type a number, three numbers for a place or direction, or the name of a part.")));
            edit->setText(value);
            return;
        }
        document_.change(tr("change a device"), s);
    });
}

void DevicePanel::showChosen() {
    const int row = list().currentRow();
    const auto& d = document_.settings().devices;
    if (form() && row == shownRow_ && d == shown_) return;
    shown_ = d;
    shownRow_ = row;
    newForm();
    if (row < 0) return;
    const auto isPart = [this](const QString& text) {
        const auto& parts = document_.settings().model.parts;
        return std::any_of(parts.begin(), parts.end(),
                           [&](const auto& p) { return p.name == nameOf(text).toStdString(); });
    };
    const auto number = [](double v) { return QString::number(v, 'g', 6); };
    const Entry e = entryAt(row);
    const auto i = e.index;
    switch (e.kind) {
        case Kind::Wheel: {
            const auto& w = d.wheels[i];
            line(tr("Part"), "wheelPart", QString::fromStdString(w.part), {},
                 [i, isPart](campaign::Devices& v, const QString& t) {
                     return isPart(t) && (v.wheels[i].part = nameOf(t).toStdString(), true);
                 });
            line(tr("Speed [rpm]"), "wheelRpm", w.rolling ? QString() : number(w.rpm), tr("rolls with the ground"),
                 [i](campaign::Devices& v, const QString& t) {
                     v.wheels[i].rolling = t.trimmed().isEmpty();
                     return v.wheels[i].rolling || readNumber(t, v.wheels[i].rpm);
                 });
            const auto vector = [&](const QString& label, const char* name,
                                    std::optional<Vec3> campaign::Wheel::*field) {
                line(label, name, w.*field ? textOf(*(w.*field)) : QString(), tr("found from the shape"),
                     [i, field](campaign::Devices& v, const QString& t) {
                         if (t.trimmed().isEmpty()) {
                             (v.wheels[i].*field).reset();
                             return true;
                         }
                         Vec3 read;
                         if (!readVector(t, read)) return false;
                         v.wheels[i].*field = read;
                         return true;
                     });
            };
            vector(tr("Axle direction"), "wheelAxis", &campaign::Wheel::axis);
            vector(tr("On the axle [m]"), "wheelCentre", &campaign::Wheel::centre);
            break;
        }
        case Kind::Rough:
            line(tr("Part"), "roughPart", QString::fromStdString(d.roughParts[i].part), {},
                 [i, isPart](campaign::Devices& v, const QString& t) {
                     return isPart(t) && (v.roughParts[i].part = nameOf(t).toStdString(), true);
                 });
            line(tr("Sand-grain height [m]"), "sandGrain", number(d.roughParts[i].sandGrain), {},
                 [i](campaign::Devices& v, const QString& t) { return readPositive(t, v.roughParts[i].sandGrain); });
            break;
        case Kind::Disc: {
            const auto& p = d.discs[i];
            line(tr("Name"), "discName", QString::fromStdString(p.name), {},
                 [i](campaign::Devices& v, const QString& t) {
                     return !nameOf(t).isEmpty() && (v.discs[i].name = nameOf(t).toStdString(), true);
                 });
            line(tr("Centre [m]"), "discCentre", textOf(p.centre), {},
                 [i](campaign::Devices& v, const QString& t) { return readVector(t, v.discs[i].centre); });
            line(tr("Thrust axis"), "discAxis", textOf(p.axis), {}, [i](campaign::Devices& v, const QString& t) {
                return readVector(t, v.discs[i].axis) && v.discs[i].axis.norm() > 0.0;
            });
            const auto plain = [&](const QString& label, const char* name, double flow::Disc::*field, bool positive) {
                line(label, name, number(p.*field), {}, [i, field, positive](campaign::Devices& v, const QString& t) {
                    return positive ? readPositive(t, v.discs[i].*field) : readNumber(t, v.discs[i].*field);
                });
            };
            plain(tr("Radius [m]"), "discRadius", &flow::Disc::outer, true);
            plain(tr("Hub radius [m]"), "discHub", &flow::Disc::inner, false);
            plain(tr("Thrust [N]"), "discThrust", &flow::Disc::thrust, false);
            plain(tr("or power [W]"), "discPower", &flow::Disc::power, false);
            plain(tr("Speed [rpm], 0: no swirl"), "discRpm", &flow::Disc::rpm, false);
            break;
        }
        case Kind::Block: {
            const auto& b = d.blocks[i];
            line(tr("Name"), "blockName", QString::fromStdString(b.name), {},
                 [i](campaign::Devices& v, const QString& t) {
                     return !nameOf(t).isEmpty() && (v.blocks[i].name = nameOf(t).toStdString(), true);
                 });
            line(tr("Corner [m]"), "blockFrom", textOf(b.from), {},
                 [i](campaign::Devices& v, const QString& t) { return readVector(t, v.blocks[i].from); });
            line(tr("Opposite corner [m]"), "blockTo", textOf(b.to), {},
                 [i](campaign::Devices& v, const QString& t) { return readVector(t, v.blocks[i].to); });
            line(tr("Flow direction (x, y, z)"), "blockAxis", QString("xyz")[b.axis], {},
                 [i](campaign::Devices& v, const QString& t) {
                     const auto k = QString("xyz").indexOf(t.trimmed().toLower());
                     return t.trimmed().size() == 1 && k >= 0 && (v.blocks[i].axis = static_cast<int>(k), true);
                 });
            const auto plain = [&](const QString& label, const char* name, double flow::PorousBlock::*field) {
                line(label, name, number(b.*field), {}, [i, field](campaign::Devices& v, const QString& t) {
                    return readNumber(t, v.blocks[i].*field) && v.blocks[i].*field >= 0.0;
                });
            };
            plain(tr("Linear [1/m\u00b2]"), "blockLinear", &flow::PorousBlock::linear);
            plain(tr("Quadratic [1/m]"), "blockQuadratic", &flow::PorousBlock::quadratic);
            plain(tr("Transverse resistance ratio"), "blockAcross", &flow::PorousBlock::across);
            break;
        }
    }
}

void DevicePanel::change(const QString& intent, const std::function<void(campaign::Devices&)>& how) {
    if (!document_.isOpen()) return;
    auto s = document_.settings();
    how(s.devices);
    document_.change(intent, s);
}

// The first part that is not in use yet; for wheels one whose name says so is taken first.
QString DevicePanel::freePart(bool forWheel) const {
    const auto& s = document_.settings();
    QString any;
    for (const auto& p : s.model.parts) {
        const bool used = forWheel ? std::any_of(s.devices.wheels.begin(), s.devices.wheels.end(),
                                                 [&](const auto& w) { return w.part == p.name; })
                                   : std::any_of(s.devices.roughParts.begin(), s.devices.roughParts.end(),
                                                 [&](const auto& r) { return r.part == p.name; });
        if (used || !p.inTheAir) continue;
        const auto name = QString::fromStdString(p.name);
        if (!forWheel || name.contains("wheel", Qt::CaseInsensitive) || name.contains("tyre", Qt::CaseInsensitive))
            return name;
        if (any.isEmpty()) any = name;
    }
    return any;
}

void DevicePanel::add(Kind kind) {
    if (!document_.modelReady()) return;
    const Box b = document_.measures().bounds;
    const double size = b.size().maxCoeff();
    const auto wheel = freePart(true).toStdString(), rough = freePart(false).toStdString();
    if ((kind == Kind::Wheel && wheel.empty()) || (kind == Kind::Rough && rough.empty())) {
        emit document_.problem(tr("Every part has one already."));
        return;
    }
    // New bodies start beside or behind the model, where they can be seen and moved.
    int row = 0;
    change(tr("add a device"), [&](campaign::Devices& d) {
        if (kind == Kind::Wheel) d.wheels.push_back({wheel, true, 0.0, {}, {}});
        if (kind == Kind::Rough) d.roughParts.push_back({rough, 1e-4});
        if (kind == Kind::Disc)
            d.discs.push_back({"propeller " + std::to_string(d.discs.size() + 1),
                               Vec3(b.low.x() - 0.1 * size, b.centre().y(), b.centre().z()), Vec3::UnitX(), 0.02 * size,
                               0.15 * size, 10.0, 0.0, 0.0});
        if (kind == Kind::Block) {
            const Vec3 middle(b.low.x() - 0.2 * size, b.centre().y(), b.centre().z());
            d.blocks.push_back({"core " + std::to_string(d.blocks.size() + 1), middle - size * Vec3(0.02, 0.08, 0.08),
                                middle + size * Vec3(0.02, 0.08, 0.08), 0, 0.0, 100.0, 10.0});
        }
        row = static_cast<int>(d.wheels.size()) - 1;
        if (kind != Kind::Wheel) row += static_cast<int>(d.roughParts.size());
        if (kind == Kind::Disc || kind == Kind::Block) row += static_cast<int>(d.discs.size());
        if (kind == Kind::Block) row += static_cast<int>(d.blocks.size());
    });
    list().setCurrentRow(row);
}

void DevicePanel::remove() {
    const int row = list().currentRow();
    if (row < 0) return;
    const Entry e = entryAt(row);
    const auto i = static_cast<std::ptrdiff_t>(e.index);
    change(tr("take out a device"), [&](campaign::Devices& d) {
        if (e.kind == Kind::Wheel) d.wheels.erase(d.wheels.begin() + i);
        if (e.kind == Kind::Rough) d.roughParts.erase(d.roughParts.begin() + i);
        if (e.kind == Kind::Disc) d.discs.erase(d.discs.begin() + i);
        if (e.kind == Kind::Block) d.blocks.erase(d.blocks.begin() + i);
    });
}

}  // namespace cvane::desk
