#include "desk/stages/wing/wing_stage.h"

#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QSpinBox>

#include "base/errors.h"
#include "base/files.h"
#include "base/number_list.h"
#include "base/units.h"
#include "campaign/plan/points.h"
#include "campaign/store/section_store.h"
#include "desk/save_file.h"
#include "lifting/tables.h"
#include "report/workbook.h"
#include "wing/aircraft_json.h"
#include "wing/measures.h"

namespace cvane::desk {
using base::degree;

namespace {
/// What a new wing begins with: half a span of 1.5 m.
wing::Aircraft firstWing() {
    wing::Aircraft a;
    a.name = "wing";
    wing::LiftingSurface s;
    s.stations.resize(2);
    s.stations[0].chord = 0.3;
    s.stations[0].section = s.stations[1].section = "4412";
    s.stations[0].strips = 20;
    s.stations[0].spacing = wing::Spacing::Outer;
    s.stations[1].along = 1.5;
    s.stations[1].chord = 0.2;
    s.stations[1].leading = 0.025;
    a.surfaces.push_back(s);
    return a;
}

// Sizes of a tail or fin that suit the wing.
wing::LiftingSurface tailOf(const wing::Aircraft& a, bool fin) {
    const auto& w = a.surfaces.front();
    const double root = w.stations.front().chord, half = w.stations.back().along;
    wing::LiftingSurface s;
    s.name = freePartName(fin ? "fin" : "tail", a);
    s.place = w.place + Vec3(w.stations.front().leading + 3.5 * root, 0.0, 0.2 * root);
    s.mirrored = !fin;
    s.roll_deg = fin ? 90.0 : 0.0;
    s.rows = 6;
    s.stations.resize(2);
    s.stations[0].chord = 0.6 * root;
    s.stations[1].chord = 0.4 * root;
    s.stations[1].along = fin ? 0.18 * half : 0.3 * half;
    s.stations[1].leading = 0.1 * root;
    s.stations[0].section = s.stations[1].section = "0009";
    return s;
}
}  // namespace

WingStage::WingStage(Document& d, Middle& m) : Stage(d, m) {
    makeSheet();
    makeBuild();
    building_ = new QWidget;
    auto* outer = column_;
    outer->addWidget(building_);
    column_ = new QVBoxLayout(building_);
    column_->setContentsMargins(0, 0, 0, 0);
    column_->setSpacing(8);
    looking_ = new LoadingView(document_, middle_, scene_);
    section(tr("Seen"))->addRow(looking_);
    connect(looking_, &LoadingView::scheduled, this, &WingStage::schedule);
    connect(looking_, &LoadingView::moved, this, &WingStage::showAngle);
    connect(looking_, &LoadingView::lookChanged, this, [this] {
        if (!current_) return;
        emit document_.stageWanted(title());  // what other stages have in the 3D view goes, or comes back
        if (looking_->inSpace()) middle_.canvas().fit();
    });
    makeSurface();
    const EditAircraft edit = [this](const QString& intent, const std::function<void(wing::Aircraft&)>& how) {
        changeAircraft(intent, how);
    };
    section(tr("Controls of the surface"))->addRow(controls_ = new ControlsSheet(edit));
    section(tr("Bodies"))->addRow(bodies_ = new BodySheet(edit));
    section(tr("Propellers"))->addRow(propellers_ = new PropellerSheet(edit));
    makeFlight();
    column_ = outer;
    column_->addStretch(1);
    makePage();
    document_.when(Change::Campaign | Change::Settings, this, [this] { fill(); });
    document_.when(Change::Values, this, [this] {
        if (current_ && hasAircraft()) plotPolar();
    });
    connect(&work_, &WingWork::moved, this, [this] { plot(); });
    fill();
}

bool WingStage::hasAircraft() const {
    return document_.isOpen() && document_.settings().model.aircraft.has_value();
}

QString WingStage::keyFigure() const {
    if (!hasAircraft()) return {};
    const auto m = wing::measure(aircraft(), aircraft().surfaces.front());
    return tr("aspect ratio %1").arg(m.aspect, 0, 'g', 3);
}

Stage::State WingStage::state() const {
    return hasAircraft() ? State::Ready : State::Optional;
}

void WingStage::makeBuild() {
    build_ = new QPushButton(tr("Build a wing"));
    build_->setObjectName("buildWing");
    build_->setToolTip(tr("A wing to begin with, whose numbers are then changed; it is this campaign's model"));
    column_->addWidget(build_);
    connect(build_, &QPushButton::clicked, this, &WingStage::build);
    auto* row = new QHBoxLayout;
    auto* bring = new QPushButton(tr("From a file\u2026"));
    bring->setObjectName("bringAircraft");
    bring->setToolTip(tr("An aircraft's file, as this step writes it or as it was written by hand"));
    auto* write = new QPushButton(tr("To a file\u2026"));
    write->setObjectName("writeAircraft");
    write->setToolTip(tr("The aircraft as a file of its own (JSON)"));
    for (auto* b : {bring, write}) b->setMinimumWidth(20);
    row->addWidget(bring);
    row->addWidget(write);
    column_->addLayout(row);
    connect(bring, &QPushButton::clicked, this, &WingStage::bringFile);
    connect(write, &QPushButton::clicked, this, &WingStage::writeFile);
    says_ = note();
    says_->setObjectName("wingSays");
    column_->addWidget(says_);
}

void WingStage::build() {
    if (!document_.isOpen() || hasAircraft()) return;
    auto next = document_.settings();
    campaign::setAircraft(next, firstWing());
    change(tr("build a wing"), next);
}

// To a hundredth of a degree, as the board shows angles.
void WingStage::schedule(double alpha_deg) {
    constexpr double kSteps = 100.0;
    const double alpha = std::round(kSteps * alpha_deg) / kSteps;
    auto next = document_.settings();
    auto& alphas = next.schedule.alphas_deg;
    if (std::find(alphas.begin(), alphas.end(), alpha) != alphas.end()) {
        emit document_.said(tr("Alpha %1 deg is in the schedule already.").arg(alpha));
        return;
    }
    alphas.push_back(alpha);
    change(tr("add an angle to the schedule"), next);
    emit document_.said(tr("Alpha %1 deg is in the schedule now.").arg(alpha));
}

void WingStage::changeAircraft(const QString& intent, const std::function<void(wing::Aircraft&)>& edit) {
    if (filling_ || !hasAircraft()) return;
    try {
        auto next = document_.settings();
        auto a = *next.model.aircraft;
        edit(a);
        if (a == *next.model.aircraft) return;
        campaign::setAircraft(next, a);
        change(intent, next);
    } catch (const base::InputError& e) {
        emit document_.problem(e.what());
        fill();  // the last shape stays
    }
}

void WingStage::changeSurface(const QString& intent, const std::function<void(wing::LiftingSurface&)>& edit) {
    changeAircraft(intent, [&](wing::Aircraft& a) { edit(a.surfaces[std::min(surface_, a.surfaces.size() - 1)]); });
}

void WingStage::addSurface(int kind) {
    changeAircraft(kind == 0 ? tr("add a tail") : tr("add a fin"), [&](wing::Aircraft& a) {
        a.surfaces.push_back(tailOf(a, kind == 1));
        surface_ = a.surfaces.size() - 1;
    });
}

void WingStage::insertStation() {
    const int row = std::max(0, stations_->currentRow());
    changeSurface(tr("insert a station"), [&](wing::LiftingSurface& s) {
        const auto i = std::min(static_cast<std::size_t>(row), s.stations.size() - 2);
        const auto &a = s.stations[i], &b = s.stations[i + 1];
        wing::Station t = a;
        t.along = 0.5 * (a.along + b.along);
        t.leading = 0.5 * (a.leading + b.leading);
        t.chord = 0.5 * (a.chord + b.chord);
        t.twist_deg = 0.5 * (a.twist_deg + b.twist_deg);
        s.stations[i].strips = std::max(1, a.strips / 2);
        s.stations[i].spacing = wing::Spacing::Equal;
        t.strips = s.stations[i].strips;
        s.stations.insert(s.stations.begin() + static_cast<std::ptrdiff_t>(i) + 1, t);
    });
}

void WingStage::removeStation() {
    const int row = stations_->currentRow();
    changeSurface(tr("take a station out"), [&](wing::LiftingSurface& s) {
        if (row <= 0 || s.stations.size() <= 2)
            throw base::InputError("the root cannot be taken out, and two stations must stay.", s.name,
                                   "Choose another line of the table.");
        s.stations.erase(s.stations.begin() + row);
        for (auto& c : s.controls) c.to = std::min(c.to, s.stations.back().along);
        std::erase_if(s.controls, [](const auto& c) { return !(c.from < c.to); });
    });
}

void WingStage::bringFile() {
    const QString file = QFileDialog::getOpenFileName(sheet_, tr("An aircraft's file"), {}, tr("Aircraft (*.json)"));
    if (file.isEmpty() || !document_.isOpen()) return;
    try {
        auto next = document_.settings();
        campaign::setAircraft(next, wing::readAircraft(file.toStdString()));
        surface_ = 0;
        change(tr("bring an aircraft in"), next);
    } catch (const std::exception& e) {
        emit document_.problem(e.what());
    }
}

void WingStage::writeFile() {
    if (!hasAircraft()) return;
    const QString file = askWhereToSave(sheet_, tr("Save the aircraft"), "aircraft.json", tr("Aircraft (*.json)"));
    if (file.isEmpty()) return;
    try {
        wing::writeAircraft(aircraft(), file.toStdString());
    } catch (const std::exception& e) {
        emit document_.problem(e.what());
    }
}

lifting::Asked WingStage::asked() const {
    lifting::Asked a;
    for (const double v : base::numbersIn(alphas_->text().toStdString(), "alpha")) a.alphas.push_back(v * degree);
    const auto& air = document_.settings().air;
    a.air = campaign::airOf(air);
    a.speed = speed_->value();
    if (level_->isChecked()) a.holdMass = aircraft().mass;
    if (trim_->currentIndex() > 0) a.trimBy = trim_->currentData().toString().toStdString();
    a.holdStrips = stall_->isChecked();
    const auto& sections = document_.settings().sections;
    if (!sections.nCritical.empty()) a.transition.nCritical = sections.nCritical.front();
    a.transition.tripUpper = sections.tripUpper;
    a.transition.tripLower = sections.tripLower;
    a.compressible = elastic_->isChecked();
    if (rolled_->isChecked()) a.wake = lifting::Wake::Flow;
    return a;
}

std::vector<lifting::Loading> WingStage::loadings(const lifting::Asked& asked) const {
    const auto list = [](const QLineEdit* from, const char* name) {
        const auto text = from->text().trimmed().toStdString();
        return text.empty() ? std::vector<double>() : base::numbersIn(text, name);
    };
    const auto masses = list(masses_, "masses");
    auto centres = list(centres_, "centres");
    if (masses.empty() && centres.empty()) return {};
    for (double& x : centres) x *= lengthUnit();
    return lifting::loadingsOf(aircraft(), asked, masses, centres);
}

std::string WingStage::table() const {
    const auto shown = work_.shown();
    if (!shown) return {};
    const auto own = lifting::csvOf(shown->aircraft, shown->outcome);
    if (shown->loadings.empty()) return own;
    std::string all = lifting::withLoading(own, shown->aircraft, true);
    for (std::size_t k = 0; k < shown->loadings.size(); ++k) {
        const auto& a = shown->loadings[k].aircraft;
        all += lifting::withLoading(lifting::csvOf(a, shown->outcomes[k]), a, false);
    }
    return all;
}

void WingStage::ask() {
    if (!hasAircraft()) {
        work_.clear();
        return;
    }
    try {
        work_.keepPolarsIn(campaign::stripPolars(document_.base().folder()));
        const auto now = asked();
        work_.ask(aircraft(), now, loadings(now));
    } catch (const base::InputError& e) {
        emit document_.problem(e.what());
    }
}

void WingStage::saveTable(const QString& file) {
    const auto shown = work_.shown();
    if (!shown) return;
    try {
        const auto csv = table();
        if (file.endsWith(".xlsx"))
            report::writeWorkbook(file.toStdString(),
                                  {{"angles", report::cellsOf(csv)},
                                   {"strips", report::cellsOf(lifting::stripsCsvOf(shown->aircraft, shown->outcome))}});
        else
            base::exportFile(file.toStdString(), csv);
    } catch (const std::exception& problem) {
        emit document_.problem(problem.what());
    }
}

void WingStage::exportTable() {
    const QString file = askWhereToSave(sheet_, tr("Save angles and span loading"), "wing.xlsx",
                                        tr("Workbooks (*.xlsx);;Tables (*.csv)"));
    if (!file.isEmpty()) saveTable(file);
}

}  // namespace cvane::desk
