#include "desk/stages/sections_stage.h"

#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QHeaderView>
#include <QPainter>
#include <QScrollArea>
#include <QSpinBox>
#include <QSplitter>
#include <QToolButton>

#include "base/errors.h"
#include "base/files.h"
#include "base/units.h"
#include "campaign/plan/points.h"
#include "desk/look.h"
#include "section/outline/coordinates.h"
#include "section/outline/faults.h"
#include "section/polar/table.h"

namespace cvane::desk {
using base::degree;

namespace {

QIcon smallOutline(const section::Contour& c) {
    QPixmap map(54, 18);
    map.fill(Qt::transparent);
    QPainter p(&map);
    p.setRenderHint(QPainter::Antialiasing);
    QPolygonF shape;
    for (const auto& q : c.points) shape << QPointF(2.0 + 50.0 * q.x(), 9.0 - 50.0 * q.y());
    p.setPen(QPen(look::ink, 1.0));
    p.setBrush(QColor(0xef, 0xe9, 0xdb));
    p.drawPolygon(shape);
    return map;
}

}  // namespace

QString reynoldsText(double re) {
    return re >= 1e6 ? QString("%1 M").arg(re / 1e6, 0, 'g', 3) : QString("%1 k").arg(re / 1e3, 0, 'g', 3);
}

SectionsStage::SectionsStage(Document& d, Middle& m) : Stage(d, m), work_(d) {
    makeSheet();
    makeList();
    makeChosen();
    makePolars();
    column_->addStretch(1);
    makePage();
    document_.when(Change::Campaign | Change::Settings, this, [this] { fillList(); });
    connect(&work_, &SectionWork::changed, this, [this] {
        plotPolars();
        fillReadings();
    });
    connect(&work_, &SectionWork::viewed, this, [this] { picture_->show(work_.view(), foundFaults_); });
}

void SectionsStage::makeList() {
    auto* row = new QHBoxLayout;
    code_ = new QLineEdit;
    code_->setObjectName("sectionCode");
    code_->setPlaceholderText(tr("4412, 23012, laminar:15,40"));
    code_->setToolTip(
        tr("Four or five digits, 0012-64, laminar:15,40 (thickness and place of the lowest pressure in per "
           "cent), load:0.4,0.8,12, ellipse:12, plate:2"));
    auto* add = new QPushButton(tr("Add"));
    add->setObjectName("addSection");
    auto* file = new QPushButton(tr("File\u2026"));
    file->setObjectName("sectionFile");
    code_->setMinimumWidth(60);
    for (auto* b : {add, file}) b->setMinimumWidth(20);
    row->addWidget(code_, 1);
    row->addWidget(add);
    row->addWidget(file);
    column_->addLayout(row);
    list_ = new QTreeWidget;
    list_->setObjectName("sectionList");
    list_->setHeaderLabels({tr("Section"), tr("t %"), tr("camber %")});
    list_->setRootIsDecorated(false);
    list_->setIconSize({54, 18});
    list_->setMinimumHeight(90);
    list_->setMaximumHeight(130);
    list_->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    list_->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    list_->header()->setSectionResizeMode(2, QHeaderView::ResizeToContents);
    column_->addWidget(list_);
    const auto take = [this] {
        if (!code_->text().trimmed().isEmpty()) bring(code_->text().trimmed());
    };
    connect(add, &QPushButton::clicked, this, take);
    connect(code_, &QLineEdit::returnPressed, this, take);
    connect(file, &QPushButton::clicked, this, [this] {
        for (const QString& f : QFileDialog::getOpenFileNames(sheet_, tr("Coordinates of sections"))) bring(f);
    });
    connect(list_, &QTreeWidget::currentItemChanged, this, [this](QTreeWidgetItem* item) {
        if (filling_ || !item) return;
        chosen_ = item->text(0).toStdString();
        fillChosen();
        plotPolars();
    });
    connect(list_, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* item, int column) {
        if (filling_ || column != 0) return;
        auto s = document_.settings();
        const auto i = static_cast<std::size_t>(list_->indexOfTopLevelItem(item));
        if (i >= s.sections.sections.size()) return;
        s.sections.sections[i].shown = item->checkState(0) == Qt::Checked;
        change(tr("show or hide a section"), s);
    });
}

void SectionsStage::makeChosen() {
    auto* form = section(tr("The chosen section"));
    figures_ = note();
    figures_->setObjectName("sectionFigures");
    form->addRow(figures_);
    const auto box = [&](const QString& label, const char* name, double low, double high, const QString& unit,
                         int decimals) {
        auto* b = new QDoubleSpinBox;
        b->setObjectName(name);
        b->setRange(low, high);
        b->setDecimals(decimals);
        b->setSuffix(unit);
        b->setKeyboardTracking(false);
        form->addRow(label, b);
        return b;
    };
    thickness_ = box(tr("Thickness"), "sectionThickness", 0.5, 60.0, " %", 2);
    camber_ = box(tr("Camber"), "sectionCamber", -25.0, 25.0, " %", 2);
    hinge_ = box(tr("Flap hinge"), "flapHinge", 30.0, 95.0, tr(" % of chord"), 1);
    flap_ = box(tr("Flap, down"), "flapAngle", -45.0, 45.0, " deg", 1);
    connect(thickness_, &QDoubleSpinBox::valueChanged, this, [this](double v) {
        if (!filling_) changeChosen(tr("change the thickness"), [v](auto& e) { e.thickness = 0.01 * v; });
    });
    connect(camber_, &QDoubleSpinBox::valueChanged, this, [this](double v) {
        if (!filling_) changeChosen(tr("change the camber"), [v](auto& e) { e.camber = 0.01 * v; });
    });
    connect(hinge_, &QDoubleSpinBox::valueChanged, this, [this](double v) {
        if (!filling_) changeChosen(tr("move the flap's hinge"), [v](auto& e) { e.flapHinge = 0.01 * v; });
    });
    connect(flap_, &QDoubleSpinBox::valueChanged, this, [this](double v) {
        if (!filling_) changeChosen(tr("turn the flap"), [v](auto& e) { e.flapAngle_deg = v; });
    });
    faults_ = note({}, true);
    faults_->setObjectName("sectionFaults");
    form->addRow(faults_);
    auto* row = new QHBoxLayout;
    mend_ = new QPushButton(tr("Mend a copy"));
    mend_->setObjectName("mendSection");
    auto* back = new QPushButton(tr("As it came"));
    back->setToolTip(tr("Takes changes of thickness, camber and flap back"));
    auto* write = new QPushButton(tr("Save\u2026"));
    auto* remove = new QPushButton(tr("Take out"));
    remove->setObjectName("removeSection");
    auto* second = new QHBoxLayout;
    row->addWidget(mend_);
    row->addWidget(back);
    second->addWidget(write);
    second->addWidget(remove);
    form->addRow(row);
    form->addRow(second);
    connect(mend_, &QPushButton::clicked, this, &SectionsStage::mend);
    connect(write, &QPushButton::clicked, this, &SectionsStage::writeOut);
    connect(back, &QPushButton::clicked, this, [this] {
        changeChosen(tr("take a section's changes back"),
                     [](auto& e) { e = {e.name, e.source, {}, {}, {}, {}, {}, 0.75, 0.0, e.shown}; });
    });
    connect(remove, &QPushButton::clicked, this, [this] {
        auto s = document_.settings();
        std::erase_if(s.sections.sections, [this](const auto& e) { return e.name == chosen_; });
        change(tr("take out %1").arg(QString::fromStdString(chosen_)), s);
    });
}

void SectionsStage::makePolars() {
    auto* form = section(tr("Polars"));
    list(form, tr("Reynolds"), "sectionReynolds", tr("change the Reynolds numbers"),
         [](campaign::Settings& s) -> std::vector<double>& { return s.sections.reynolds; });
    auto* fromWind = new QPushButton(tr("Re of the wind line"));
    fromWind->setObjectName("reFromWind");
    fromWind->setToolTip(
        tr("Speed, altitude and temperature as in the line at the top, on a chord of the reference length"));
    form->addRow(QString(), fromWind);
    connect(fromWind, &QPushButton::clicked, this, [this] {
        if (!document_.isOpen()) return;
        auto s = document_.settings();
        const auto conditions = campaign::conditionsOf(s.schedule);
        const auto condition = document_.selected() ? document_.selected()->condition : conditions.front();
        const double length = document_.modelReady() ? document_.reference().length : s.reference.length.value_or(1.0);
        const double re = std::round(campaign::windOf(s, condition).reynolds(length) / 1e3) * 1e3;
        s.sections.reynolds = {std::clamp(re, 1e3, 1e9)};
        change(tr("take the wind's Reynolds number"), s);
    });
    number(form, tr("First angle"), "sectionFirst", -30, 30, 2, " deg", tr("change the angles"),
           [](campaign::Settings& s) -> double& { return s.sections.first_deg; });
    number(form, tr("Last angle"), "sectionLast", -30, 30, 2, " deg", tr("change the angles"),
           [](campaign::Settings& s) -> double& { return s.sections.last_deg; });
    number(form, tr("Step"), "sectionStep", 0.05, 10, 2, " deg", tr("change the angles"),
           [](campaign::Settings& s) -> double& { return s.sections.step_deg; });
    auto* more = foldedGroup(tr("Transition, Mach number, panels"), "moreOfSections");
    number(more, tr("n of transition"), "sectionN", 0.5, 20, 2, "", tr("change transition"),
           [](campaign::Settings& s) -> double& { return s.sections.nCritical; });
    auto* turbulence = new QDoubleSpinBox;
    turbulence->setObjectName("sectionTurbulence");
    turbulence->setRange(0.07, 2.0);
    turbulence->setDecimals(3);
    turbulence->setSuffix(tr(" % turbulence"));
    turbulence->setKeyboardTracking(false);
    more->addRow(tr("or from"), turbulence);
    connect(turbulence, &QDoubleSpinBox::valueChanged, this, [this](double percent) {
        auto s = document_.settings();
        s.sections.nCritical = std::clamp(section::nFromTurbulence(0.01 * percent), 0.5, 20.0);
        change(tr("change the turbulence"), s);
    });
    document_.when(Change::Settings, turbulence, [this, turbulence] {
        const QSignalBlocker quiet(turbulence);
        turbulence->setValue(100.0 * std::exp((-8.43 - document_.settings().sections.nCritical) / 2.4));
    });
    number(more, tr("Upper trip"), "sectionTripUpper", 0, 1, 3, tr(" x/c"), tr("change the trips"),
           [](campaign::Settings& s) -> double& { return s.sections.tripUpper; });
    number(more, tr("Lower trip"), "sectionTripLower", 0, 1, 3, tr(" x/c"), tr("change the trips"),
           [](campaign::Settings& s) -> double& { return s.sections.tripLower; });
    number(more, tr("Mach number"), "sectionMach", 0, 0.7, 3, "", tr("change the Mach number"),
           [](campaign::Settings& s) -> double& { return s.sections.mach; });
    whole(more, tr("Panels"), "sectionPanels", 40, 600, 20, tr("change the panels"),
          [](campaign::Settings& s) -> int& { return s.sections.panels; });
    choice(
        more, tr("Re"), "sectionKind", {tr("the same at every lift"), tr("falls as lift rises (Re root cl)")},
        tr("change the kind of polar"), [](const campaign::Settings& s) { return s.sections.fixedLift ? 1 : 0; },
        [](campaign::Settings& s, int i) { s.sections.fixedLift = i == 1; });
    progress_ = note();
    progress_->setObjectName("sectionProgress");
    auto* row = new QHBoxLayout;
    row->addWidget(progress_, 1);
    stop_ = new QPushButton(tr("Stop"));
    stop_->setObjectName("stopSections");
    row->addWidget(stop_);
    column_->addLayout(row);
    connect(stop_, &QPushButton::clicked, this, [this] {
        if (work_.running())
            work_.stop();
        else
            work_.goOn();
    });
    readings_ = new QTableWidget(0, 6);
    readings_->setObjectName("sectionReadings");
    readings_->setHorizontalHeaderLabels({tr("Re"), tr("slope"), tr("zero"), tr("cl max"), tr("cd min"), tr("cl/cd")});
    readings_->setToolTip(tr("Lift slope per degree, angle of zero lift, greatest lift, least drag, best ratio"));
    readings_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    readings_->setMinimumHeight(110);
    readings_->setWordWrap(false);
    readings_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    readings_->horizontalHeader()->setMinimumSectionSize(20);
    readings_->horizontalHeader()->setStretchLastSection(true);
    readings_->verticalHeader()->hide();
    column_->addWidget(readings_);
    auto* out = new QHBoxLayout;
    auto* copy = new QPushButton(tr("Copy"));
    copy->setObjectName("copySections");
    auto* save = new QPushButton(tr("CSV\u2026"));
    auto* data = new QPushButton(tr("Data under\u2026"));
    data->setToolTip(tr("Published points from a CSV file of two columns, in the axes of the left plot"));
    copy->setToolTip(tr("All points, for a spreadsheet"));
    auto* pdf = new QPushButton(tr("PDF\u2026"));
    pdf->setToolTip(tr("Both plots as drawings"));
    for (auto* b : {copy, save, pdf, data}) {
        b->setMinimumWidth(20);
        out->addWidget(b);
    }
    connect(pdf, &QPushButton::clicked, this, &SectionsStage::exportPlots);
    column_->addLayout(out);
    connect(copy, &QPushButton::clicked, this, &SectionsStage::copyTable);
    connect(save, &QPushButton::clicked, this, &SectionsStage::exportTable);
    connect(data, &QPushButton::clicked, this, &SectionsStage::addReference);
}

const campaign::SectionEntry* SectionsStage::chosen() const {
    for (const auto& e : document_.settings().sections.sections)
        if (e.name == chosen_) return &e;
    return nullptr;
}

void SectionsStage::changeChosen(const QString& intent, const std::function<void(campaign::SectionEntry&)>& edit) {
    auto s = document_.settings();
    for (auto& e : s.sections.sections)
        if (e.name == chosen_) edit(e);
    change(intent, s);
}

void SectionsStage::bring(const QString& fileOrCode) {
    if (!document_.isOpen()) {
        emit document_.problem(tr("Open a campaign first, or make one for sections (Campaign menu)."));
        return;
    }
    try {
        auto s = document_.settings();
        s.sections.sections.push_back(campaign::sectionBrought(document_.campaign(), fileOrCode.toStdString()));
        chosen_ = s.sections.sections.back().name;
        change(tr("bring in %1").arg(QString::fromStdString(chosen_)), s);
        code_->clear();
    } catch (const std::exception& e) {
        emit document_.problem(e.what());
    }
}

void SectionsStage::fillList() {
    filling_ = true;
    list_->clear();
    const auto& all = document_.settings().sections;
    if (!chosen() && !all.sections.empty()) chosen_ = all.sections.front().name;
    for (const auto& e : all.sections) {
        auto* item = new QTreeWidgetItem(list_);
        item->setText(0, QString::fromStdString(e.name));
        item->setCheckState(0, e.shown ? Qt::Checked : Qt::Unchecked);
        try {
            const auto c = campaign::outlineOf(document_.campaign(), e);
            const auto f = section::measure(c);
            item->setIcon(0, smallOutline(c));
            item->setText(1, QString::number(100.0 * f.thickness, 'f', 1));
            item->setText(2, QString::number(100.0 * f.camber, 'f', 1));
        } catch (const std::exception& problem) {
            item->setText(1, "\u26a0");
            item->setToolTip(0, problem.what());
        }
        if (e.name == chosen_) list_->setCurrentItem(item);
    }
    const auto before = reynolds_->currentData();
    const QSignalBlocker quiet(reynolds_);
    reynolds_->clear();
    for (const double re : all.reynolds) reynolds_->addItem(reynoldsText(re), re);
    reynolds_->setCurrentIndex(std::max(0, reynolds_->findData(before)));
    const QSignalBlocker still(angle_);
    const double low = std::min(all.first_deg, all.last_deg), high = std::max(all.first_deg, all.last_deg);
    angle_->setRange(static_cast<int>(std::ceil(2.0 * low)), static_cast<int>(std::floor(2.0 * high)));
    filling_ = false;
    fillChosen();
    plotPolars();
    fillReadings();
}

void SectionsStage::fillChosen() {
    const auto* e = chosen();
    filling_ = true;
    foundFaults_.clear();
    for (auto* b : {thickness_, camber_, hinge_, flap_}) b->setEnabled(e != nullptr);
    mend_->setEnabled(false);
    figures_->setText({});
    faults_->setText({});
    if (e) {
        hinge_->setValue(100.0 * e->flapHinge);
        flap_->setValue(e->flapAngle_deg);
        try {
            const auto c = campaign::outlineOf(document_.campaign(), *e);
            const auto f = section::measure(c);
            auto plain = *e;
            plain.flapAngle_deg = 0.0;
            const auto g = section::measure(campaign::outlineOf(document_.campaign(), plain));
            thickness_->setValue(100.0 * g.thickness);
            camber_->setValue(100.0 * g.camber);
            figures_->setText(
                tr("%1: %2 % thick at %3 %, camber %4 % at %5 %, nose radius %6 %, trailing edge %7 % and "
                   "%8 deg, %9 points.")
                    .arg(QString::fromStdString(e->source))
                    .arg(100.0 * f.thickness, 0, 'f', 2)
                    .arg(100.0 * f.thicknessAt, 0, 'f', 0)
                    .arg(100.0 * f.camber, 0, 'f', 2)
                    .arg(100.0 * f.camberAt, 0, 'f', 0)
                    .arg(100.0 * f.noseRadius, 0, 'f', 2)
                    .arg(100.0 * f.gap, 0, 'f', 2)
                    .arg(f.trailingAngle / degree, 0, 'f', 1)
                    .arg(c.points.size()));
            foundFaults_ = e->flapAngle_deg == 0.0 ? section::faultsOf(c) : std::vector<section::Fault>{};
            QStringList words;
            for (const auto& fault : foundFaults_) words << QString::fromStdString(fault.sentence);
            faults_->setText(words.join("\n"));
            mend_->setEnabled(std::any_of(foundFaults_.begin(), foundFaults_.end(),
                                          [](const auto& fault) { return fault.mend != section::Fault::Mend::None; }));
        } catch (const std::exception& problem) {
            faults_->setText(problem.what());
        }
    }
    faults_->setVisible(!faults_->text().isEmpty());
    filling_ = false;
    lookAtAngle();
}

void SectionsStage::mend() {
    const auto* e = chosen();
    if (!e) return;
    try {
        auto c = campaign::outlineOf(document_.campaign(), *e);
        for (const auto& f : foundFaults_) c = section::mended(c, f.mend);
        c.name = e->name + " mended";
        // The original stays: the mended one is a section of its own.
        const auto file = document_.campaign().folder() / "sections" / (e->name + " mended.dat");
        base::replaceFile(file, section::writeCoordinates(c, section::PointOrder::Loop));
        auto s = document_.settings();
        auto entry = campaign::sectionBrought(document_.campaign(), file.string());
        for (auto& other : s.sections.sections)
            if (other.name == e->name) other.shown = false;
        s.sections.sections.push_back(entry);
        chosen_ = entry.name;
        change(tr("mend a section"), s);
    } catch (const std::exception& problem) {
        emit document_.problem(problem.what());
    }
}

void SectionsStage::writeOut() {
    const auto* e = chosen();
    if (!e) return;
    const QString file = QFileDialog::getSaveFileName(
        sheet_, tr("Save the outline"), QString::fromStdString(e->name) + ".dat",
        tr("One loop from the trailing edge (*.dat);;Upper and lower list from the nose (*.txt)"));
    if (file.isEmpty()) return;
    try {
        base::exportFile(file.toStdString(),
                         section::writeCoordinates(
                             campaign::outlineOf(document_.campaign(), *e),
                             file.endsWith(".txt") ? section::PointOrder::TwoLists : section::PointOrder::Loop));
    } catch (const std::exception& problem) {
        emit document_.problem(problem.what());
    }
}

void SectionsStage::fillReadings() {
    readings_->setRowCount(0);
    for (const auto& c : work_.curves()) {
        if (c.asked.section != chosen_) continue;
        const auto f = section::figuresOfPolar(c.points);
        const int row = readings_->rowCount();
        readings_->insertRow(row);
        QStringList words{reynoldsText(c.asked.what.flow.air.reynolds)};
        if (f)
            words << QString::number(f->slope * degree, 'f', 3) << QString::number(f->zeroLift / degree, 'f', 1)
                  << QString::number(f->clMax, 'f', 2) + (f->stalls ? "" : "+") << QString::number(f->cdMin, 'f', 5)
                  << QString::number(f->bestRatio, 'f', 0);
        for (int i = 0; i < words.size(); ++i) readings_->setItem(row, i, new QTableWidgetItem(words[i]));
    }
}

std::string SectionsStage::tableText(const std::string& separator) const {
    std::string out = "section," + section::csvHead();
    for (const auto& c : work_.curves())
        for (const auto& p : c.points) out += c.asked.section + "," + section::csvRow(p.figures);
    if (separator != ",") std::replace(out.begin(), out.end(), ',', separator[0]);
    return out;
}

void SectionsStage::copyTable() {
    QApplication::clipboard()->setText(QString::fromStdString(tableText("\t")));
}

void SectionsStage::exportTable() {
    const QString file =
        QFileDialog::getSaveFileName(sheet_, tr("Save all points"), "polars.csv", tr("Tables (*.csv)"));
    if (file.isEmpty()) return;
    try {
        base::exportFile(file.toStdString(), tableText(","));
    } catch (const std::exception& problem) {
        emit document_.problem(problem.what());
    }
}

void SectionsStage::exportPlots() {
    const QString file =
        QFileDialog::getSaveFileName(sheet_, tr("Save the plots"), "polars.pdf", tr("Drawings (*.pdf)"));
    if (!file.isEmpty()) savePlots(file);
}

void SectionsStage::savePlots(const QString& file) {
    const QString stem = file.endsWith(".pdf") ? file.chopped(4) : file;
    const bool left = left_->savePdf(stem + ".pdf"), right = right_->savePdf(stem + "-right.pdf");
    if (!left || !right) emit document_.problem(tr("%1 cannot be written. Choose another place.").arg(file));
}

QString SectionsStage::keyFigure() const {
    const auto n = document_.settings().sections.sections.size();
    return n == 0 ? QString() : n == 1 ? tr("1 section") : tr("%1 sections").arg(n);
}

Stage::State SectionsStage::state() const {
    if (work_.running()) return State::AtWork;
    return document_.settings().sections.sections.empty() ? State::NeedsYou : State::Ready;
}

}  // namespace cvane::desk
