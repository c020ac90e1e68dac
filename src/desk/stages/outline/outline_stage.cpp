#include "desk/stages/outline/outline_stage.h"

#include <QHeaderView>
#include <QSignalBlocker>
#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "desk/look.h"
#include "desk/note_room.h"
#include "desk/stages/wing/edit_aircraft.h"
#include "desk/variant_picker.h"
#include "vehicle/body_skin.h"
#include "vehicle/sides.h"

namespace cvane::desk {
namespace {
constexpr int kMostLines = 8;  // of what is different

double numberIn(const QString& text) {
    bool good = false;
    const double v = QLocale::c().toDouble(text, &good);
    if (!good) throw base::InputError("is not a number.", text.toStdString(), "Type one with a point.");
    return v;
}
}  // namespace

OutlineStage::OutlineStage(Document& d, Middle& m) : Stage(d, m) {
    makeSheet();
    build_ = new QPushButton(tr("Draw a vehicle"));
    build_->setObjectName("drawVehicle");
    build_->setToolTip(tr("A small van to begin with, whose corners are then moved; it is this campaign's model"));
    column_->addWidget(build_);
    connect(build_, &QPushButton::clicked, this, &OutlineStage::build);
    another_ = new QPushButton(tr("Another build like this\u2026"));
    another_->setObjectName("anotherBuild");
    another_->setToolTip(
        tr("A second configuration that begins as this one; Compare says what its changes do, in per cent"));
    column_->addWidget(another_);
    connect(another_, &QPushButton::clicked, this, &OutlineStage::anotherBuild);
    says_ = note();
    says_->setObjectName("outlineSays");
    column_->addWidget(says_);
    makeTables();
    makeNumbers();
    differs_ = note();
    differs_->setObjectName("outlineDiffers");
    column_->addWidget(differs_);
    column_->addStretch(1);
    view_ = new ProfileView;
    middle_.addWidget(view_);
    connect(view_, &ProfileView::shaped, this, [this](const vehicle::Outline& shaped) {
        changeOutline(tr("move a corner"), [&](vehicle::Outline& o) { o = shaped; });
    });
    connect(view_, &ProfileView::chosen, this,
            [this](int line, int corner) { (line == 0 ? profile_ : plan_)->setCurrentCell(corner, 0); });
    document_.when(Change::Settings | Change::Campaign | Change::Selection, this, [this] { fill(); });
}

QString OutlineStage::keyFigure() const {
    if (!hasOutline()) return {};
    return tr("%1 %2 long")
        .arg(vehicle::bodyBox(outline()).size().x() / lengthUnit(), 0, 'g', 3)
        .arg(lengthSuffix().trimmed());
}

Stage::State OutlineStage::state() const {
    return hasOutline() ? State::Ready : State::Optional;
}

void OutlineStage::build() {
    if (!document_.isOpen() || hasOutline()) return;
    auto next = document_.settings();
    campaign::setOutline(next, vehicle::startingOutline());
    change(tr("draw a vehicle"), next);
}

void OutlineStage::changeOutline(const QString& intent, const std::function<void(vehicle::Outline&)>& edit) {
    if (filling_ || !hasOutline()) return;
    try {
        auto next = document_.settings();
        auto o = outline();
        edit(o);
        campaign::setOutline(next, o);
        change(intent, next);
    } catch (const base::InputError& e) {
        emit document_.problem(e.what());
    }
    fill();
}

void OutlineStage::makeTables() {
    const auto table = [this](const QString& title, const char* name, const QString& tip, const QString& more,
                              auto typed, auto add, auto remove) {
        auto* form = section(title);
        auto* t = new CellTable(name, title, tip);
        form->addRow(t);
        auto* row = new QHBoxLayout;
        const QString object = QString::fromLatin1(name);
        rowButton(sheet_, row, more, (object + "Add").toLatin1().constData(), tr("Behind the chosen row"),
                  [this, t, add, more] {
                      changeOutline(more.toLower(), [&](vehicle::Outline& o) { add(o, t->currentRow()); });
                  });
        rowButton(sheet_, row, tr("Remove"), (object + "Remove").toLatin1().constData(), tr("Take the chosen row out"),
                  [this, t, remove] {
                      if (t->currentRow() >= 0)
                          changeOutline(tr("take out a row"), [&](vehicle::Outline& o) {
                              remove(o, static_cast<std::size_t>(t->currentRow()));
                          });
                  });
        form->addRow(row);
        connect(t, &CellTable::typed, this, [this, typed, title](int r, int c, const QString& text) {
            changeOutline(tr("change %1").arg(title.toLower()),
                          [&](vehicle::Outline& o) { typed(o, static_cast<std::size_t>(r), c, text); });
        });
        return t;
    };
    using O = vehicle::Outline;
    const auto corners = [this](std::vector<vehicle::Corner> O::*list) {
        const auto typed = [this, list](O& o, std::size_t r, int c, const QString& text) {
            auto& k = (o.*list)[r];
            const double v = numberIn(text);
            if (c == 3)
                vehicle::setLength(o.*list, r, v * lengthUnit());
            else if (c == 4)
                vehicle::setSlope(o.*list, r, v);
            else
                (c == 0 ? k.x : c == 1 ? k.z : k.radius) = v * lengthUnit();
        };
        const auto add = [list](O& o, int r) {
            auto& all = o.*list;
            const auto at = static_cast<std::size_t>(std::clamp(r, 0, static_cast<int>(all.size()) - 1));
            // In the middle of the side behind it; the plan's last has none and lets the one before it be cut.
            const bool closed = list == &O::profile;
            const auto from = closed ? at : std::min(at, all.size() - 2);
            const auto &a = all[from], &b = all[(from + 1) % all.size()];
            all.insert(all.begin() + static_cast<std::ptrdiff_t>(from) + 1,
                       {0.5 * (a.x + b.x), 0.5 * (a.z + b.z), 0.0});
        };
        const auto remove = [list](O& o, std::size_t r) {
            (o.*list).erase((o.*list).begin() + static_cast<std::ptrdiff_t>(r));
        };
        return std::tuple(typed, add, remove);
    };
    const auto [typedProfile, addCorner, removeCorner] = corners(&O::profile);
    profile_ = table(tr("Side view"), "profileCorners",
                     tr("Corners from the nose over the roof to the tail and back below, with the radius of each; z is "
                        "over the underside. Length and slope are of the side to the next corner, which they move; the "
                        "slope is positive where the side rises to the rear"),
                     tr("+ Corner"), typedProfile, addCorner, removeCorner);
    profile_->verticalHeader()->show();  // the numbers of the corners in the picture
    connect(profile_, &QTableWidget::currentCellChanged, this, [this](int r) {
        if (!filling_ && hasOutline()) view_->show(outline(), nullptr, r);
    });
    const auto [typedPlan, addWidth, removeWidth] = corners(&O::plan);
    plan_ = table(tr("Plan"), "planWidths", tr("Half widths from nose to tail, with the radius of each corner"),
                  tr("+ Half width"), typedPlan, addWidth, removeWidth);
    wheels_ = table(
        tr("Wheels"), "outlineWheels", tr("Each stands on the ground; a track of 0 is one wheel in the middle"),
        tr("+ Wheels"),
        [this](O& o, std::size_t r, int c, const QString& text) {
            auto& w = o.wheels[r];
            if (c == 0) {
                w.name = text.toStdString();
                return;
            }
            double* at[] = {&w.x, &w.radius, &w.width, &w.track, &w.edge};
            *at[c - 1] = numberIn(text) * lengthUnit();
        },
        [](O& o, int) {
            vehicle::Wheel w = o.wheels.empty() ? vehicle::Wheel{} : o.wheels.back();
            w.name = "wheel " + std::to_string(o.wheels.size() + 1);
            w.x += o.wheels.empty() ? 0.7 : 2.5 * w.radius;
            o.wheels.push_back(w);
        },
        [](O& o, std::size_t r) { o.wheels.erase(o.wheels.begin() + static_cast<std::ptrdiff_t>(r)); });
    plates_ = table(
        tr("Splitters, sills, spoilers, end plates"), "outlinePlates",
        tr("Boxes with round edges by their middle, z from the ground; length along the wind, angle nose up"),
        tr("+ Plate"),
        [this](O& o, std::size_t r, int c, const QString& text) {
            auto& p = o.plates[r];
            if (c == 0) {
                p.name = text.toStdString();
            } else if (c == 7) {
                p.angle_deg = numberIn(text);
            } else if (c == 9) {
                p.mirrored = text == "true";
            } else {
                double* at[] = {&p.middle.x(), &p.middle.y(), &p.middle.z(), &p.length,
                                &p.width,      &p.height,     nullptr,       &p.edge};
                *at[c - 1] = numberIn(text) * lengthUnit();
            }
        },
        [](O& o, int) {
            const Box body = vehicle::bodyBox(o);
            vehicle::Plate p;
            p.name = "plate " + std::to_string(o.plates.size() + 1);
            p.middle = Vec3(body.high.x(), 0.0, body.high.z());
            p.length = 0.25;
            p.width = 1.6 * body.high.y();
            o.plates.push_back(p);
        },
        [](O& o, std::size_t r) { o.plates.erase(o.plates.begin() + static_cast<std::ptrdiff_t>(r)); });
}

void OutlineStage::number(QFormLayout* form, const char* name, const QString& label, const QString& tip,
                          const QString& suffix, double high, double vehicle::Outline::*value) {
    auto* box = new QDoubleSpinBox;
    box->setObjectName(name);
    box->setAccessibleName(label);
    box->setToolTip(tip);
    box->setRange(0.0, high);
    box->setDecimals(suffix.isEmpty() ? 4 : 1);
    box->setSuffix(suffix);
    box->setKeyboardTracking(false);
    const bool isAngle = !suffix.isEmpty();
    connect(box, &QDoubleSpinBox::valueChanged, this, [this, label, value, isAngle](double v) {
        changeOutline(tr("change %1").arg(label.toLower()),
                      [&](vehicle::Outline& o) { o.*value = isAngle ? v : v * lengthUnit(); });
    });
    form->addRow(label, box);
    numbers_.push_back({box, value, isAngle});
}

void OutlineStage::makeNumbers() {
    auto* form = section(tr("Body"));
    using O = vehicle::Outline;
    number(form, "outlineClearance", tr("Ground clearance"), tr("Of the underside"), {}, 10.0, &O::clearance);
    number(form, "outlineEdge", tr("Edge radius"), tr("Along the body, between its top, sides and underside"), {}, 10.0,
           &O::edge);
    number(form, "diffuserLength", tr("Diffuser length"), tr("Of the part of the underside that rises to the tail"), {},
           20.0, &O::diffuserLength);
    number(form, "diffuserAngle", tr("Diffuser angle"), tr("By which it rises"), QStringLiteral("\u00b0"), 45.0,
           &O::diffuser_deg);
}

void OutlineStage::fill() {
    const bool has = hasOutline();
    build_->setVisible(!has);
    build_->setEnabled(document_.isOpen());
    another_->setEnabled(has);
    for (CellTable* t : {profile_, plan_, wheels_, plates_}) t->setEnabled(has);
    for (const auto& n : numbers_) n.box->setEnabled(has);
    if (!has) {
        says_->setText(
            tr("A vehicle from its side view: move corners, round edges, lower the nose, and see what that does. It "
               "takes the place of "
               "the campaign's model."));
        differs_->clear();
        if (current_) show();
        return;
    }
    filling_ = true;
    const auto& o = outline();
    const double u = lengthUnit();
    const QString in = QString("[%1]").arg(lengthSuffix().trimmed());
    const auto corners = [&](const std::vector<vehicle::Corner>& list) {
        std::vector<QStringList> rows;
        for (const auto& c : list) rows.push_back({inCell(c.x / u), inCell(c.z / u), inCell(c.radius / u)});
        return rows;
    };
    const auto filled = [](CellTable* t, const QStringList& heads, const std::vector<QStringList>& rows, int least) {
        const int row = t->currentRow();
        t->fill(heads, rows, least);
        if (row >= 0 && row < t->rowCount()) t->setCurrentCell(row, std::max(0, t->currentColumn()));
    };
    auto sides = corners(o.profile);
    for (std::size_t k = 0; k < sides.size(); ++k) {
        const auto side = vehicle::sideOf(o.profile, k);
        sides[k] << inCell(side.length / u) << inCell(std::round(1e3 * side.slope_deg) / 1e3);
    }
    filled(profile_, {tr("x ") + in, tr("z ") + in, tr("Radius"), tr("Length"), tr("Slope [\u00b0]")}, sides, 7);
    filled(plan_, {tr("x ") + in, tr("Half width"), tr("Radius")}, corners(o.plan), 4);
    std::vector<QStringList> rows;
    for (const auto& w : o.wheels)
        rows.push_back({QString::fromStdString(w.name), inCell(w.x / u), inCell(w.radius / u), inCell(w.width / u),
                        inCell(w.track / u), inCell(w.edge / u)});
    filled(wheels_, {tr("Name"), tr("x ") + in, tr("Radius"), tr("Width"), tr("Track"), tr("Edge")}, rows, 2);
    rows.clear();
    for (const auto& p : o.plates)
        rows.push_back({QString::fromStdString(p.name), inCell(p.middle.x() / u), inCell(p.middle.y() / u),
                        inCell(p.middle.z() / u), inCell(p.length / u), inCell(p.width / u), inCell(p.height / u),
                        inCell(p.angle_deg), inCell(p.edge / u), p.mirrored ? "true" : "false"});
    filled(plates_,
           {tr("Name"), tr("x ") + in, tr("y"), tr("z"), tr("Length"), tr("Width"), tr("Height"), tr("Angle [\u00b0]"),
            tr("Edge"), tr("Mirrored")},
           rows, 1);
    for (const auto& n : numbers_) {
        const QSignalBlocker quiet(n.box);
        n.box->setValue(n.isAngle ? o.*n.value : o.*n.value / u);
        if (!n.isAngle) n.box->setSuffix(lengthSuffix());
    }
    filling_ = false;
    says_->setText(document_.configuration().empty()
                       ? tr("The base's outline.")
                       : tr("The outline of configuration \u201c%1\u201d: what is changed here changes it alone.")
                             .arg(QString::fromStdString(document_.configuration())));
    const auto& base = document_.base().settings.model.outline;
    QString words;
    if (base && !document_.configuration().empty()) {
        const auto lines = vehicle::differences(*base, o);
        words = lines.empty() ? tr("No different from the base yet.") : tr("From the base:");
        for (std::size_t k = 0; k < lines.size() && k < kMostLines; ++k)
            words += "\n" + QString::fromStdString(lines[k]);
        if (lines.size() > kMostLines) words += tr("\nand %1 more").arg(lines.size() - kMostLines);
    }
    differs_->setText(words);
    if (current_) show();
}

void OutlineStage::show() {
    if (hasOutline()) {
        const auto& base = document_.base().settings.model.outline;
        const bool other = base && !document_.configuration().empty();
        view_->show(outline(), other ? &*base : nullptr, profile_->currentRow());
    } else {
        view_->show({}, nullptr, -1);
    }
    middle_.setCurrentWidget(view_);
}

void OutlineStage::anotherBuild() {
    if (!hasOutline()) return;
    // It begins as what is looked at.
    auto patch = nlohmann::json::object();
    for (const auto& v : document_.base().settings.configurations)
        if (v.name == document_.configuration()) patch = v.patch;
    askForVariant(sheet_, document_, &campaign::Settings::configurations, tr("Another build"), tr("changed"), patch);
}

}  // namespace cvane::desk
