#include "desk/stages/model_stage.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPushButton>
#include <QTableWidget>
#include <optional>

#include "base/errors.h"
#include "base/units.h"
#include "desk/look.h"
#include "desk/note_room.h"
#include "desk/scene.h"
#include "desk/wrap_layout.h"
#include "shape/import.h"
#include "shape/triangle.h"

namespace cvane::desk {
namespace {
struct Mark {
    const shape::Fault* fault;
    QColor colour;
    QString words;
};
// What is marked on the surface, in which colour.
std::vector<Mark> marksOf(const shape::Health& h) {
    const auto tr = [](const char* words) { return ModelStage::tr(words); };
    return {{&h.openEdges, look::accent, tr("open edges")},
            {&h.nonManifoldEdges, look::curve(3), tr("non-manifold edges")},
            {&h.flippedFacets, look::curve(1), tr("facets facing inward")},
            {&h.overlaps, look::curve(4), tr("self-intersecting facets")}};
}
}  // namespace

ModelStage::ModelStage(Document& d, Middle& m) : Stage(d, m) {
    makeSheet();
    size_ = note();
    size_->setObjectName("modelSize");
    column_->addWidget(size_);
    remarks_ = note({}, true);
    column_->addWidget(remarks_);

    auto* form = section(tr("Unit and parts"));
    choice(form, "model.unit", tr("File is in"), "modelUnit", tr("change the model's unit"));
    parts_ = new QTableWidget(0, 1);
    parts_->setObjectName("parts");
    parts_->setHorizontalHeaderLabels({tr("Part (tick: in the air; double click: rename)")});
    parts_->setAccessibleName(tr("Parts of the model"));
    parts_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    parts_->setToolTip(
        tr("Click a part here or in the view; with Ctrl or Shift several. A tick counts for all of them."));
    parts_->horizontalHeader()->setStretchLastSection(true);
    parts_->verticalHeader()->hide();
    parts_->setMaximumHeight(150);
    column_->addWidget(parts_);
    picked_ = note();
    picked_->setObjectName("pickedParts");
    column_->addWidget(roomFor(picked_, 2));
    connect(parts_, &QTableWidget::itemSelectionChanged, this, [this] {
        if (filling_) return;
        tellPicked();
        if (current_) show();
    });
    connect(&m.canvas(), &Canvas::clicked, this, [this](const Vec3& place) {
        if (current_) pickAt(place);
    });
    connect(parts_, &QTableWidget::itemChanged, this, [this](QTableWidgetItem* item) {
        if (filling_) return;
        auto s = document_.settings();
        auto& part = s.model.parts[static_cast<std::size_t>(item->row())];
        const bool inTheAir = item->checkState() == Qt::Checked;
        if (inTheAir != part.inTheAir && item->isSelected())
            for (const auto& each : parts_->selectedItems())
                s.model.parts[static_cast<std::size_t>(each->row())].inTheAir = inTheAir;
        part.inTheAir = inTheAir;
        const auto name = item->text().trimmed().toStdString();
        try {
            if (!name.empty() && name != part.name) campaign::renamePart(s, part.name, name);
            change(tr("change part %1").arg(item->text()), s);
        } catch (const base::InputError& e) {
            emit document_.problem(e.what());
        }
        fillParts();  // an empty name, or one that is taken, goes back
    });

    auto* turn = section(tr("Attitude and position"));
    auto* row = new QHBoxLayout;
    const char* names[3] = {"x", "y", "z"};
    for (int axis = 0; axis < 3; ++axis) {
        auto* b = new QPushButton(QString("\u21bb %1 90\u00b0").arg(names[axis]));
        b->setObjectName(QString("turn%1").arg(names[axis]));
        b->setToolTip(tr("Quarter turn about the %1 axis through the model's middle").arg(names[axis]));
        row->addWidget(b);
        connect(b, &QPushButton::clicked, this, [this, axis] { turnBy(axis, 90.0); });
    }
    turn->addRow(row);
    auto* places = new WrapLayout(6);
    const auto put = [&](const QString& words, const char* name, const QString& says,
                         const std::function<void(campaign::Settings&, const Box&, double hiddenBelow)>& move) {
        auto* b = new QPushButton(words);
        b->setObjectName(name);
        b->setToolTip(says);
        places->addWidget(b);
        connect(b, &QPushButton::clicked, this, [this, words, move] {
            document_.whenPlaced([this, words, move] {
                auto s = document_.settings();
                move(s, document_.measures().bounds, document_.measures().hiddenBelow);
                change(words.toLower(), s);
            });
        });
    };
    put(tr("Centre on y = 0"), "centreY", tr("Its plane of symmetry onto that of the tunnel"),
        [](campaign::Settings& s, const Box& b, double) {
            s.model.placement.shift.y() -= 0.5 * (b.low.y() + b.high.y());
        });
    put(tr("Stand on the ground"), "standOnGround", tr("Its lowest point to z = 0, and no ride height above a ground"),
        [](campaign::Settings& s, const Box& b, double hiddenBelow) {
            s.model.placement.shift.z() -= b.low.z() - hiddenBelow;
            (s.model.rideHeight ? *s.model.rideHeight : s.tunnel.rideHeight) = 0.0;
        });
    put(tr("Nose to x = 0"), "noseToZero", tr("Its foremost point to x = 0"),
        [](campaign::Settings& s, const Box& b, double) { s.model.placement.shift.x() -= b.low.x(); });
    turn->addRow(places);
    turn->addRow(note(tr("Grips in the view: ahead of the nose pitch, behind the tail yaw, at the side roll.")));
    for (int k = 0; k < 3; ++k)
        rotation_[k] =
            number(turn, "model.rotation_deg", tr("Rotation %1").arg(names[k]), "rotation", 2, tr("turn the model"), k);
    for (int k = 0; k < 3; ++k)
        number(turn, "model.shift_m", tr("Shift %1").arg(names[k]), "shift", 4, tr("shift the model"), k);

    connect(&m.canvas(), &Canvas::handleMoved, this, [this](const QString& name, const Vec3& to) {
        if (current_) dragTurn(name, to);
    });
    connect(&m.canvas(), &Canvas::handleLeft, this, [this] {
        if (current_) letTurnGo();
    });
    connect(&m.canvas(), &Canvas::handleTyped, this, [this](const QString& name, double degrees) {
        if (current_) typeTurn(name, degrees);
    });
    connect(&m.canvas(), &Canvas::handleGivenUp, this, [this] {
        if (current_) giveTurnUp();
    });
    auto* ref = section(tr("Reference values"));
    const auto area = tr("change the reference area");
    choice(ref, "reference.area_from", tr("Area"), "areaFrom", area);
    number(ref, "reference.typed_area_m2", tr("Typed area"), "typedArea", 6, area);
    const auto optional = [&](const char* setting, const QString& label, const char* name,
                              const std::function<std::optional<double>&(campaign::Settings&)>& field,
                              const std::function<double()>& computed) {
        auto* box = new QDoubleSpinBox;
        box->setObjectName(name);
        explain(*box, setting);
        box->setRange(0.0, 1e6);
        box->setDecimals(5);
        box->setSpecialValueText(tr("computed"));
        box->setKeyboardTracking(false);
        ref->addRow(label, box);
        document_.when(Change::Settings, box, [this, box, field, computed] {
            auto s = document_.settings();
            const QSignalBlocker quiet(box);
            box->setSuffix(lengthSuffix());
            box->setValue(field(s).value_or(0.0) / lengthUnit());
            box->setSpecialValueText(document_.modelReady()
                                         ? tr("computed: %1").arg(computed() / lengthUnit(), 0, 'g', 5) + lengthSuffix()
                                         : tr("computed"));
        });
        connect(box, &QDoubleSpinBox::valueChanged, this, [this, field](double v) {
            if (!document_.isOpen()) return;
            auto s = document_.settings();
            field(s) = v > 0.0 ? std::optional<double>(v * lengthUnit()) : std::nullopt;
            change(tr("change a reference length"), s);
        });
    };
    optional(
        "reference.length_m", tr("Length"), "refLength",
        [](campaign::Settings& s) -> std::optional<double>& { return s.reference.length; },
        [this] { return document_.reference().length; });
    optional(
        "reference.span_m", tr("Span"), "refSpan",
        [](campaign::Settings& s) -> std::optional<double>& { return s.reference.span; },
        [this] { return document_.reference().span; });
    for (int k = 0; k < 3; ++k) {
        auto* box = new QDoubleSpinBox;
        box->setObjectName(QString("momentCentre%1").arg(names[k]));
        explain(*box, "reference.moment_centre_m");
        box->setRange(-1e5, 1e5);
        box->setDecimals(4);
        box->setKeyboardTracking(false);
        ref->addRow(tr("Moment centre %1").arg(names[k]), box);
        document_.when(Change::Settings, box, [this, box, k] {
            const QSignalBlocker quiet(box);
            box->setSuffix(lengthSuffix());
            if (document_.modelReady()) box->setValue(document_.reference().momentCentre[k] / lengthUnit());
        });
        connect(box, &QDoubleSpinBox::valueChanged, this, [this, k](double v) {
            if (!document_.modelReady()) return;
            auto s = document_.settings();
            Vec3 c = document_.reference().momentCentre;
            c[k] = v * lengthUnit();
            s.reference.momentCentre = c;
            change(tr("change the moment centre"), s);
        });
    }
    auto* surface = section(tr("Surface"));
    health_ = note(tr("not looked at yet"));
    health_->setObjectName("health");
    health_->setTextFormat(Qt::RichText);
    surface->addRow(health_);
    column_->addStretch(1);
    document_.when(Change::Model, this, [this] { fillParts(); });
    document_.when(Change::Settings, this, [this] { fillParts(); });
    document_.when(Change::Health, this, [this] {
        const auto& h = *document_.health();
        QString text = QString::fromStdString(h.sentence()).toHtmlEscaped() +
                       tr(". Places are marked in the view; none of this forbids a grid.");
        for (const auto& [fault, colour, words] : marksOf(h))
            if (!fault->places.empty())
                text += QString("<br><span style=\"color:%1\">\u25cf</span> %2").arg(colour.name(), words);
        health_->setText(text);
        if (current_) show();
    });
}

// Further, about an axis through the model's middle.
void ModelStage::turnBy(int axis, double degrees) {
    document_.whenPlaced([this, axis, degrees] {
        auto s = document_.settings();
        const auto& p = s.model.placement;
        const auto& placed = document_.placed();
        const Mat3 back = shape::rotationMatrix(p.rotation_deg).transpose();
        Box unplaced;
        for (const auto& f : placed.facets)
            for (const auto i : f) unplaced.add(back * (placed.points[static_cast<std::size_t>(i)] - p.shift));
        s.model.placement = shape::turned(p, unplaced, axis, degrees);
        change(tr("turn the model"), s);
    });
}

void ModelStage::fillParts() {
    if (!document_.modelReady()) return;
    filling_ = true;
    const auto& parts = document_.settings().model.parts;
    parts_->setRowCount(static_cast<int>(parts.size()));
    for (int i = 0; i < static_cast<int>(parts.size()); ++i) {
        auto* item = parts_->item(i, 0);
        if (!item) parts_->setItem(i, 0, item = new QTableWidgetItem);
        item->setText(QString::fromStdString(parts[static_cast<std::size_t>(i)].name));
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsEditable | Qt::ItemIsUserCheckable);
        item->setCheckState(parts[static_cast<std::size_t>(i)].inTheAir ? Qt::Checked : Qt::Unchecked);
    }
    filling_ = false;
    tellPicked();
    const auto& m = document_.measures();
    const auto unit = base::unitNamed(base::lengthUnits(), document_.settings().units.length);
    const auto area = base::unitNamed(base::areaUnits(), document_.settings().units.area);
    const Vec3 s = m.bounds.size() / unit.inSI;
    const QString u = QString::fromUtf8(unit.symbol.data()), a = area.symbol == "m2" ? "m\u00b2" : "ft\u00b2";
    size_->setText(tr("Length %1, width %2, height %3 %4. %5 facets.\nFrontal %6, side %7, planform %8 %9%10.")
                       .arg(s.x(), 0, 'g', 4)
                       .arg(s.y(), 0, 'g', 4)
                       .arg(s.z(), 0, 'g', 4)
                       .arg(u)
                       .arg(document_.placed().facets.size())
                       .arg(m.frontal / area.inSI, 0, 'g', 5)
                       .arg(m.side / area.inSI, 0, 'g', 5)
                       .arg(m.planform / area.inSI, 0, 'g', 5)
                       .arg(a, document_.settings().tunnel.halfModel ? tr(" (whole model)") : ""));
    const auto remark = shape::sizeRemark(document_.measures().bounds,
                                          base::unitNamed(base::lengthUnits(), document_.settings().model.unit).inSI);
    remarks_->setText(QString::fromStdString(remark));
    remarks_->setVisible(!remark.empty());
}

// What is picked, with what the selected point says of it.
void ModelStage::tellPicked() {
    QStringList names;
    double CD = 0.0, CL = 0.0;
    bool known = false;
    const auto* r = document_.selectedReport();
    for (const auto* item : parts_->selectedItems()) {
        names << item->text();
        if (!r || !r->result) continue;
        for (const auto& p : r->result->parts)
            if (p.name == item->text().toStdString()) {
                known = true;
                CD += p.coefficients.CD;
                CL += p.coefficients.CL;
            }
    }
    QString text = names.join(", ");
    if (known) text += tr(": CD %1, CL %2 of the selected point").arg(CD, 0, 'f', 4).arg(CL, 0, 'f', 4);
    picked_->setText(text);
}

void ModelStage::pickAt(const Vec3& place) {
    if (!document_.modelReady()) return;
    const auto& s = document_.placed();
    double nearest = 1e300;
    int part = -1;
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        const Vec3 on = shape::closestPointOnTriangle(place, s.corner(f, 0), s.corner(f, 1), s.corner(f, 2));
        if (const double d = (on - place).squaredNorm(); d < nearest) nearest = d, part = s.partOf[f];
    }
    if (part < 0) return;
    parts_->setCurrentCell(part, 0);
    parts_->scrollToItem(parts_->item(part, 0));
}

QString ModelStage::keyFigure() const {
    return document_.modelReady()
               ? tr("%1 long").arg(QString::number(document_.measures().bounds.size().x() / lengthUnit(), 'g', 3) +
                                   lengthSuffix())
               : tr("open or import");
}

Stage::Need ModelStage::need() const {
    return document_.isOpen() && !document_.base().hasModel() ? Need::Model : Need::Nothing;
}

Stage::State ModelStage::state() const {
    return document_.modelReady() ? State::Ready : State::NeedsYou;
}

void ModelStage::show() {
    middle_.showCanvas();
    scene_.begin();
    if (!document_.modelReady()) {
        scene_.finish();
        return;
    }
    static const QColor colours[] = {QColor(0xd8, 0xcf, 0xba), QColor(0x9d, 0xb8, 0xb5), QColor(0xd3, 0xa9, 0x84),
                                     QColor(0xb5, 0xae, 0xc9), QColor(0xb9, 0xc4, 0x96)};
    const auto& s = document_.placed();
    const Box& model = document_.measures().bounds;
    const auto boxAround = [&](std::size_t part) -> std::optional<Box> {
        Box box;
        for (std::size_t f = 0; f < s.facets.size(); ++f)
            for (int k = 0; k < 3 && s.partOf[f] == static_cast<std::int32_t>(part); ++k) box.add(s.corner(f, k));
        const bool around =
            (box.low.array() < model.low.array()).all() && (box.high.array() > model.high.array()).all();
        return around ? std::optional(box) : std::nullopt;
    };
    for (std::size_t p = 0; p < s.parts.size(); ++p) {
        const auto* item = parts_->item(static_cast<int>(p), 0);
        const bool picked = item && item->isSelected();
        scene_.keep("part " + std::to_string(p), std::to_string(document_.modelGeneration()) + (picked ? "+" : ""),
                    [&] {
                        // A box of air around the model would hide it behind a veil.
                        if (const auto box = s.parts[p].inTheAir ? std::nullopt : boxAround(p))
                            return scene::boxActor(*box, picked ? look::accent : look::faint);
                        return scene::surfaceActor(s, static_cast<int>(p),
                                                   picked                ? look::accent
                                                   : s.parts[p].inTheAir ? colours[p % 5]
                                                                         : look::faint,
                                                   s.parts[p].inTheAir ? 1.0
                                                   : picked            ? 0.4
                                                                       : 0.15);
                    });
    }
    if (document_.health()) {
        const Mat3 R = shape::rotationMatrix(document_.settings().model.placement.rotation_deg);
        int number = 0;
        for (const auto& [fault, colour, words] : marksOf(*document_.health())) {
            std::vector<Vec3> at;
            for (const Vec3& x : fault->places) at.push_back(R * x + document_.settings().model.placement.shift);
            if (!at.empty()) scene_.add("fault " + std::to_string(number++), scene::pointsActor(at, colour));
        }
    }
    scene_.finish();
    showHandles();
    middle_.canvas().refresh();
}

}  // namespace cvane::desk
