// The sheet of the stage Wing: the chosen surface with its stations, what it measures, the flight.
#include <fmt/format.h>

#include <QApplication>
#include <QClipboard>
#include <QDoubleSpinBox>
#include <QMenu>
#include <QSpinBox>

#include "base/number_list.h"
#include "base/units.h"
#include "campaign/store/section_store.h"
#include "desk/note_room.h"
#include "desk/stages/wing/wing_stage.h"
#include "desk/table_text.h"
#include "lifting/tables.h"
#include "report/workbook.h"
#include "wing/measures.h"

namespace cvane::desk {
using base::degree;

namespace {
enum Column { kAlong, kLeading, kChord, kSection, kTwist, kDihedral, kStrips };
constexpr int kLeastWidth = 40;  // of a field [pixels]: three stand side by side
}  // namespace

void WingStage::makeSurface() {
    auto* form = section(tr("Surface"));
    surfaces_ = new QComboBox;
    surfaces_->setObjectName("wingSurface");
    surfaces_->setAccessibleName(tr("Lifting surface"));
    const auto narrow = [](QComboBox* box) {
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(6);
    };
    narrow(surfaces_);
    auto* add = new QPushButton(tr("Add"));
    add->setObjectName("addLifting");
    auto* menu = new QMenu(add);
    menu->addAction(tr("Tail"), this, [this] { addSurface(0); });
    menu->addAction(tr("Fin"), this, [this] { addSurface(1); });
    add->setMenu(menu);
    auto* remove = new QPushButton(tr("Take out"));
    remove->setObjectName("removeSurface");
    for (auto* b : {add, remove}) b->setMinimumWidth(20);
    auto* row = new QHBoxLayout;
    row->addWidget(surfaces_, 1);
    row->addWidget(add);
    row->addWidget(remove);
    form->addRow(row);
    connect(surfaces_, &QComboBox::currentIndexChanged, this, [this](int i) {
        if (filling_ || i < 0) return;
        surface_ = static_cast<std::size_t>(i);
        fill();
    });
    connect(remove, &QPushButton::clicked, this, [this] {
        changeAircraft(tr("take a surface out"), [&](wing::Aircraft& a) {
            a.surfaces.erase(a.surfaces.begin() + static_cast<std::ptrdiff_t>(surface_));
            surface_ = 0;
        });
    });
    stations_ = new CellTable(
        "stations", tr("Stations"),
        tr("Ribs from the root to the tip. Dihedral and strips are those of the panel from a rib to the next one; a "
           "section "
           "is a code such as 4412, or one of the aircraft's own."));
    form->addRow(stations_);
    connect(stations_, &CellTable::typed, this, &WingStage::stationTyped);
    connect(stations_, &QTableWidget::currentCellChanged, this, [this](int r) {
        if (!filling_ && hasAircraft()) view_->show(aircraft(), surface_, r);
    });
    auto* edit = new QHBoxLayout;
    const auto button = [&](const QString& words, const char* name, const QString& tip,
                            const std::function<void()>& does) { rowButton(sheet_, edit, words, name, tip, does); };
    button(tr("Insert"), "insertStation", tr("A station in the middle of the panel outboard of the chosen one"),
           [this] { insertStation(); });
    button(tr("Remove"), "removeStation", tr("Take the chosen station out"), [this] { removeStation(); });
    button(tr("Copy"), "copyStations", tr("The table, for a spreadsheet"), [this] {
        if (hasAircraft()) QApplication::clipboard()->setText(tableText(*stations_));
    });
    form->addRow(edit);
    const auto spin = [&](const QString& label, const char* name, double low, double high, int decimals,
                          const QString& tip, const QString& intent, auto take) {
        auto* box = new QDoubleSpinBox;
        box->setObjectName(name);
        box->setAccessibleName(label);
        box->setRange(low, high);
        box->setDecimals(decimals);
        box->setToolTip(tip);
        box->setKeyboardTracking(false);
        box->setMinimumWidth(kLeastWidth);
        connect(box, &QDoubleSpinBox::valueChanged, this, [this, intent, take](double v) {
            if (!filling_) changeAircraft(intent, [&](wing::Aircraft& a) { take(a, a.surfaces[surface_], v); });
        });
        return box;
    };
    using A = wing::Aircraft;
    using S = wing::LiftingSurface;
    halfSpan_ = spin(tr("Half span"), "halfSpan", 0.001, 1000.0, 4,
                     tr("Along the surface from root to tip; all stations and controls follow in proportion"),
                     tr("change the half span"), [this](A&, S& s, double v) {
                         const double by = v * lengthUnit() / s.stations.back().along;
                         for (auto& t : s.stations) t.along *= by;
                         for (auto& c : s.controls) c.from *= by, c.to *= by;
                     });
    form->addRow(tr("Half span"), halfSpan_);
    auto* where = new QHBoxLayout;
    for (std::size_t k = 0; k < 3; ++k) {
        place_[k] = spin(QStringList{tr("Root at x"), tr("Root at y"), tr("Root at z")}[static_cast<int>(k)],
                         std::array{"rootX", "rootY", "rootZ"}[k], -1000.0, 1000.0, 4, tr("Leading edge of the root"),
                         tr("move a surface"),
                         [this, k](A&, S& s, double v) { s.place[static_cast<Eigen::Index>(k)] = v * lengthUnit(); });
        place_[k]->setButtonSymbols(QAbstractSpinBox::NoButtons);
        where->addWidget(place_[k]);
    }
    placeLabel_ = new QLabel;
    form->addRow(placeLabel_, where);
    incidence_ = spin(tr("Incidence"), "incidence", -90.0, 90.0, 2, tr("Of the whole surface, nose up"),
                      tr("change an incidence"), [](A&, S& s, double v) { s.incidence_deg = v; });
    incidence_->setSuffix(tr(" deg"));
    form->addRow(tr("Incidence"), incidence_);
    roll_ =
        spin(tr("Roll"), "surfaceRoll", -180.0, 180.0, 1, tr("About the root: 0 lies flat, 90 stands up as a fin does"),
             tr("roll a surface"), [](A&, S& s, double v) { s.roll_deg = v; });
    roll_->setSuffix(tr(" deg"));
    form->addRow(tr("Roll"), roll_);
    const auto check = [&](const QString& words, const char* name, const QString& tip, bool S::*which) {
        auto* box = new QCheckBox(words);
        box->setObjectName(name);
        box->setToolTip(tip);
        connect(box, &QCheckBox::toggled, this,
                [this, which, words](bool on) { changeSurface(words.toLower(), [&](S& s) { s.*which = on; }); });
        return box;
    };
    mirrored_ = check(tr("Mirrored"), "surfaceMirrored", tr("The same on the port side"), &S::mirrored);
    roundTip_ = check(tr("Round tip"), "roundTip",
                      tr("The tip of the closed surface: half a turn of its thickness, else flat"), &S::roundTip);
    auto* flags = new QHBoxLayout;
    flags->addWidget(mirrored_);
    flags->addWidget(roundTip_);
    form->addRow(flags);
    rows_ = new QSpinBox;
    rows_->setObjectName("latticeRows");
    rows_->setAccessibleName(tr("Rows along the chord"));
    rows_->setRange(1, 200);
    rows_->setKeyboardTracking(false);
    rows_->setToolTip(tr("Panels of the lattice along the chord"));
    connect(rows_, &QSpinBox::valueChanged, this,
            [this](int v) { changeSurface(tr("change the rows"), [&](S& s) { s.rows = v; }); });
    form->addRow(tr("Rows"), rows_);
    measures_ = note();
    measures_->setObjectName("wingMeasures");
    form->addRow(measures_);
}

void WingStage::makeFlight() {
    auto* form = section(tr("Flight"));
    alphas_ = new QLineEdit("-4:14:1");
    alphas_->setObjectName("wingAlphas");
    alphas_->setAccessibleName(tr("Angles of attack"));
    alphas_->setToolTip(tr("Angles of attack in degrees: first:last:step, or with commas"));
    form->addRow(tr("Alpha, deg"), alphas_);
    connect(alphas_, &QLineEdit::editingFinished, this, &WingStage::ask);
    speed_ = new QDoubleSpinBox;
    speed_->setObjectName("wingSpeed");
    speed_->setAccessibleName(tr("Speed"));
    speed_->setRange(0.1, 300.0);
    speed_->setValue(20.0);
    speed_->setSuffix(tr(" m/s"));
    speed_->setKeyboardTracking(false);
    connect(speed_, &QDoubleSpinBox::valueChanged, this, [this] {
        if (!filling_) ask();
    });
    form->addRow(tr("Speed"), speed_);
    const auto weight = [&](const char* name, double high, const QString& label, const QString& intent, auto take) {
        auto* box = new QDoubleSpinBox;
        box->setObjectName(name);
        box->setAccessibleName(label);
        box->setRange(name == std::string("aircraftMass") ? 0.0 : -high, high);
        box->setDecimals(4);
        box->setKeyboardTracking(false);
        box->setMinimumWidth(kLeastWidth);
        connect(box, &QDoubleSpinBox::valueChanged, this, [this, intent, take](double v) {
            if (!filling_) changeAircraft(intent, [&](wing::Aircraft& a) { take(a, v); });
        });
        return box;
    };
    mass_ =
        weight("aircraftMass", 1e6, tr("Mass"), tr("change the mass"), [](wing::Aircraft& a, double v) { a.mass = v; });
    mass_->setSuffix(tr(" kg"));
    mass_->setToolTip(tr("0: not known; moments are about the quarter point of the mean chord then"));
    form->addRow(tr("Mass"), mass_);
    auto* centre = new QHBoxLayout;
    for (std::size_t k = 0; k < 3; ++k) {
        gravity_[k] = weight(std::array{"gravityX", "gravityY", "gravityZ"}[k], 1000.0,
                             QStringList{tr("Centre of gravity, x"), tr("Centre of gravity, y"),
                                         tr("Centre of gravity, z")}[static_cast<int>(k)],
                             tr("move the centre of gravity"), [this, k](wing::Aircraft& a, double v) {
                                 a.centreOfGravity[static_cast<Eigen::Index>(k)] = v * lengthUnit();
                             });
        gravity_[k]->setButtonSymbols(QAbstractSpinBox::NoButtons);
        centre->addWidget(gravity_[k]);
    }
    gravityLabel_ = new QLabel;
    gravityLabel_->setWordWrap(true);
    form->addRow(gravityLabel_, centre);
    const auto row = [&](const QString& label, const char* name, const QString& tip) {
        auto* line = new QLineEdit;
        line->setObjectName(name);
        line->setAccessibleName(label);
        line->setToolTip(tip);
        line->setMinimumWidth(kLeastWidth);
        connect(line, &QLineEdit::editingFinished, this, &WingStage::ask);
        form->addRow(label, line);
        return line;
    };
    masses_ = row(tr("Masses, kg"), "massRow",
                  tr("A curve for each of these in level flight: first:last:step, or with commas; empty: none"));
    centres_ = row(tr("Centres, x"), "centreRow",
                   tr("A curve for each of these places of the centre of gravity; with masses each of each"));
    const auto check = [&](const QString& words, const char* name, const QString& tip) {
        auto* box = new QCheckBox(words);
        box->setObjectName(name);
        box->setToolTip(tip);
        connect(box, &QCheckBox::toggled, this, [this] {
            if (!filling_) ask();
        });
        form->addRow(box);
        return box;
    };
    level_ = check(tr("Level flight of the mass"), "levelFlight",
                   tr("The speed follows the angle, so that the lift carries the mass"));
    trim_ = new QComboBox;
    trim_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    trim_->setMinimumContentsLength(6);
    trim_->setObjectName("trimBy");
    trim_->setAccessibleName(tr("Trimmed by"));
    trim_->setToolTip(tr("What turns until the pitching moment about the centre of gravity is 0"));
    form->addRow(tr("Trimmed by"), trim_);
    connect(trim_, &QComboBox::currentIndexChanged, this, [this] {
        if (!filling_) ask();
    });
    stall_ = check(tr("Strips lift as their sections do"), "holdStrips",
                   tr("A strip's lift is held to that of its section's polar, so that the wing stalls"));
    elastic_ =
        check(tr("Compressible"), "elasticAir", tr("By the rule of Prandtl and Glauert, below the speed of sound"));
    rolled_ = check(tr("Wakes follow the flow"), "carriedWakes",
                    tr("They roll up as the flow of each angle carries them; else they are straight. It takes some "
                       "seconds, and changes "
                       "the lift of one wing by less than a per cent; a tail in the wing's wake feels more of it"));
    stability_ = note();
    stability_->setObjectName("stability");
    constexpr int kLines = 9;
    form->addRow(roomFor(stability_, kLines));
    auto* out = new QHBoxLayout;
    auto* copy = new QPushButton(tr("Copy"));
    copy->setObjectName("copyWing");
    copy->setToolTip(tr("All angles, for a spreadsheet"));
    auto* save = new QPushButton(tr("Table\u2026"));
    save->setObjectName("tableOfWing");
    save->setToolTip(tr("All angles and the span loading as XLSX, or the angles as CSV"));
    for (auto* b : {copy, save}) b->setMinimumWidth(20);
    out->addWidget(copy);
    out->addWidget(save);
    form->addRow(out);
    connect(copy, &QPushButton::clicked, this, [this] {
        if (work_.shown())
            QApplication::clipboard()->setText(QString::fromStdString(report::tabbed(report::cellsOf(table()))));
    });
    connect(save, &QPushButton::clicked, this, &WingStage::exportTable);
}

void WingStage::fill() {
    const bool has = hasAircraft();
    build_->setVisible(!has);
    building_->setVisible(has);
    if (!has) {
        says_->setText(!document_.isOpen() || !document_.base().hasModel()
                           ? tr("A wing or a whole aircraft from a table of stations: lift, drag, stability and span "
                                "loading within "
                                "a second, and a closed surface for the tunnel.")
                           : tr("This campaign's model came from a file. A wing that is built takes its place; undo "
                                "brings it back."));
        work_.clear();
        if (current_) show();
        return;
    }
    says_->clear();
    surface_ = std::min(surface_, aircraft().surfaces.size() - 1);
    filling_ = true;
    surfaces_->clear();
    for (const auto& s : aircraft().surfaces) surfaces_->addItem(QString::fromStdString(s.name));
    surfaces_->setCurrentIndex(static_cast<int>(surface_));
    const QString before = trim_->currentData().toString();
    trim_->clear();
    trim_->addItem(tr("nothing"));
    for (const auto& s : aircraft().surfaces) {
        for (const auto& c : s.controls)
            if (!c.against) trim_->addItem(QString::fromStdString(c.name), QString::fromStdString(c.name));
        if (&s != &aircraft().surfaces.front())
            trim_->addItem(tr("%1, incidence").arg(QString::fromStdString(s.name)), QString::fromStdString(s.name));
    }
    trim_->setCurrentIndex(std::max(0, trim_->findData(before)));
    fillSurface();
    fillStations();
    const ShownLength length{lengthUnit(), lengthSuffix().trimmed()};
    controls_->fill(aircraft(), surface_, length);
    bodies_->fill(aircraft(), length);
    propellers_->fill(aircraft(), length);
    filling_ = false;
    fillMeasures();
    view_->show(aircraft(), surface_, stations_->currentRow());
    ask();
}

void WingStage::fillSurface() {
    const auto& s = aircraft().surfaces[surface_];
    const double unit = lengthUnit();
    halfSpan_->setSuffix(lengthSuffix());
    placeLabel_->setText(tr("Root at, %1").arg(lengthSuffix().trimmed()));
    gravityLabel_->setText(tr("Centre of gravity, %1").arg(lengthSuffix().trimmed()));
    halfSpan_->setValue(s.stations.back().along / unit);
    for (std::size_t k = 0; k < 3; ++k) {
        place_[k]->setValue(s.place[static_cast<Eigen::Index>(k)] / unit);
        gravity_[k]->setValue(aircraft().centreOfGravity[static_cast<Eigen::Index>(k)] / unit);
    }
    incidence_->setValue(s.incidence_deg);
    roll_->setValue(s.roll_deg);
    mirrored_->setChecked(s.mirrored);
    roundTip_->setChecked(s.roundTip);
    rows_->setValue(s.rows);
    mass_->setValue(aircraft().mass);
}

void WingStage::fillStations() {
    const auto& s = aircraft().surfaces[surface_];
    const double unit = lengthUnit();
    const QString u = lengthSuffix().trimmed();
    std::vector<QStringList> rows;
    for (const auto& t : s.stations) {
        const bool last = &t == &s.stations.back();  // no panel begins there
        rows.push_back({inCell(t.along / unit), inCell(t.leading / unit), inCell(t.chord / unit),
                        QString::fromStdString(t.section), inCell(t.twist_deg),
                        last ? QString() : inCell(t.dihedral_deg), last ? QString() : QString::number(t.strips)});
    }
    stations_->fill({tr("along\n%1").arg(u), tr("edge\n%1").arg(u), tr("chord\n%1").arg(u), tr("section\n"),
                     tr("twist\ndeg"), tr("dihedral\ndeg"), tr("strips\n")},
                    rows, 2);
    stations_->horizontalHeaderItem(kAlong)->setToolTip(tr("Place along the surface from its root"));
    stations_->horizontalHeaderItem(kLeading)->setToolTip(tr("Leading edge aft of that of the root"));
    const int last = stations_->rowCount() - 1;
    for (auto* fixed : {stations_->item(0, kAlong), stations_->item(last, kDihedral), stations_->item(last, kStrips)})
        fixed->setFlags(fixed->flags() & ~Qt::ItemIsEditable);
}

void WingStage::stationTyped(int row, int column, const QString& text) {
    if (filling_) return;
    changeAircraft(tr("change a station"), [&](wing::Aircraft& a) {
        auto& s = a.surfaces[surface_];
        auto& t = s.stations[static_cast<std::size_t>(row)];
        const auto number = [&] { return base::numberIn(text.toStdString(), s.name); };
        switch (column) {
            case kAlong:
                t.along = number() * lengthUnit();
                break;
            case kLeading:
                t.leading = number() * lengthUnit();
                break;
            case kChord:
                t.chord = number() * lengthUnit();
                break;
            case kTwist:
                t.twist_deg = number();
                break;
            case kDihedral:
                t.dihedral_deg = number();
                break;
            case kSection:
                t.section = text.toStdString();
                // One of the campaign's sections comes along with its outline.
                for (const auto& e : document_.settings().sections.sections)
                    if (e.name == t.section && !a.sections.contains(e.name))
                        a.sections[e.name] = campaign::outlineOf(document_.campaign(), e);
                break;
            case kStrips:
                t.strips = static_cast<int>(number());
                break;
            default:
                break;
        }
    });
}

void WingStage::fillMeasures() {
    const auto& a = aircraft();
    const auto m = wing::measure(a, a.surfaces[surface_]);
    const double u = lengthUnit();
    const QString unit = lengthSuffix().trimmed();
    const auto area = base::unitNamed(base::areaUnits(), document_.settings().units.area);
    QString text = tr("Area %1, span %3 %2, aspect ratio %4, taper %5, sweep %6 deg. Mean chord %7 %2, its quarter "
                      "point at x %8 %2.")
                       .arg(QString("%1 %2").arg(m.area / area.inSI, 0, 'g', 5).arg(area.symbol.data()), unit)
                       .arg(m.span / u, 0, 'g', 5)
                       .arg(m.aspect, 0, 'g', 4)
                       .arg(m.taper, 0, 'g', 3)
                       .arg(m.sweep_deg, 0, 'g', 3)
                       .arg(m.meanChord / u, 0, 'g', 4)
                       .arg(m.meanQuarter.x() / u, 0, 'g', 4);
    if (const auto volume = wing::tailVolume(a, surface_)) text += tr(" Tail volume %1.").arg(*volume, 0, 'f', 3);
    if (const auto shown = work_.shown(); shown && shown->wetted > 0.0 && shown->aircraft == a)
        text +=
            tr(" Wetted area of the whole %1 %2.").arg(shown->wetted / area.inSI, 0, 'g', 5).arg(area.symbol.data());
    measures_->setText(text);
}

}  // namespace cvane::desk
