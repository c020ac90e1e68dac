// The sheet of the stage Sections: the list, the chosen section, its polars, the field.
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QGridLayout>
#include <QHeaderView>
#include <QSpinBox>

#include "base/units.h"
#include "campaign/plan/points.h"
#include "desk/stages/sections_stage.h"

namespace cvane::desk {

void SectionsStage::makeList() {
    auto* row = new QHBoxLayout;
    code_ = new QLineEdit;
    code_->setObjectName("sectionCode");
    code_->setAccessibleName(tr("Code of a section"));
    code_->setPlaceholderText(tr("4412, 23012, laminar:15,40"));
    code_->setToolTip(tr(
        "Four or five digits, arcs:2.5,40,13 (camber, its place and thickness in per cent), 0012-64, laminar:15,40 "
        "(thickness and place of the lowest pressure in per "
        "cent), load:0.4,0.8,12, ellipse:12, plate:2, mix:4412+0012,30 (30 per cent of the second; names of sections "
        "in the list too)"));
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
    list_->setAccessibleName(tr("Sections"));
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
    const auto box = [](QFormLayout* form, const QString& label, const char* name, double low, double high,
                        const QString& unit, int decimals) {
        auto* b = new QDoubleSpinBox;
        b->setObjectName(name);
        b->setRange(low, high);
        b->setDecimals(decimals);
        b->setSuffix(unit);
        b->setKeyboardTracking(false);
        form->addRow(label, b);
        return b;
    };
    thickness_ = box(form, tr("Thickness"), "sectionThickness", 0.5, 60.0, " %", 2);
    camber_ = box(form, tr("Camber"), "sectionCamber", -25.0, 25.0, " %", 2);
    auto* places = foldedGroup(tr("Positions and nose"), "placesOfSection");
    thicknessAt_ = box(places, tr("Greatest thickness at"), "sectionThicknessAt", 5.0, 95.0, tr(" % of chord"), 1);
    camberAt_ = box(places, tr("Camber at"), "sectionCamberAt", 5.0, 95.0, tr(" % of chord"), 1);
    nose_ = box(places, tr("Nose radius"), "sectionNose", 0.001, 30.0, " %", 3);
    const auto editing = [this](QDoubleSpinBox* b, const QString& intent,
                                std::optional<double> campaign::SectionEntry::*member) {
        connect(b, &QDoubleSpinBox::valueChanged, this, [this, intent, member](double v) {
            if (!filling_) changeChosen(intent, [&](auto& e) { e.*member = 0.01 * v; });
        });
    };
    using Entry = campaign::SectionEntry;
    editing(thickness_, tr("change the thickness"), &Entry::thickness);
    editing(camber_, tr("change the camber"), &Entry::camber);
    editing(thicknessAt_, tr("move the greatest thickness"), &Entry::thicknessAt);
    editing(camberAt_, tr("move the camber"), &Entry::camberAt);
    editing(nose_, tr("change the nose radius"), &Entry::noseRadius);
    form = section(tr("Flap and faults"));
    hinge_ = box(form, tr("Flap hinge"), "flapHinge", 30.0, 95.0, tr(" % of chord"), 1);
    flap_ = box(form, tr("Flap, down"), "flapAngle", -45.0, 45.0, " deg", 1);
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
    back->setToolTip(tr("Takes changes of thickness, camber, positions, nose and flap back"));
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
    list(form, "sections.reynolds", tr("Reynolds"), "sectionReynolds", tr("change the Reynolds numbers"));
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
    number(form, "sections.first_deg", tr("First angle"), "sectionFirst", 2, tr("change the angles"));
    number(form, "sections.last_deg", tr("Last angle"), "sectionLast", 2, tr("change the angles"));
    number(form, "sections.step_deg", tr("Step"), "sectionStep", 2, tr("change the angles"));
    auto* more = foldedGroup(tr("Transition, Mach number, panels"), "moreOfSections");
    list(more, "sections.n_critical", tr("n of transition"), "sectionN", tr("change transition"));
    auto* turbulence = new QDoubleSpinBox;
    turbulence->setObjectName("sectionTurbulence");
    turbulence->setRange(0.07, 2.0);
    turbulence->setDecimals(3);
    turbulence->setSuffix(tr(" % turbulence"));
    turbulence->setKeyboardTracking(false);
    more->addRow(tr("or from"), turbulence);
    connect(turbulence, &QDoubleSpinBox::valueChanged, this, [this](double percent) {
        auto s = document_.settings();
        s.sections.nCritical = {std::clamp(section::nFromTurbulence(0.01 * percent), 0.5, 20.0)};
        change(tr("change the turbulence"), s);
    });
    document_.when(Change::Settings, turbulence, [this, turbulence] {
        const QSignalBlocker quiet(turbulence);
        turbulence->setValue(100.0 * std::exp((-8.43 - document_.settings().sections.nCritical.front()) / 2.4));
    });
    number(more, "sections.trip_upper", tr("Upper trip"), "sectionTripUpper", 3, tr("change the trips"));
    number(more, "sections.trip_lower", tr("Lower trip"), "sectionTripLower", 3, tr("change the trips"));
    list(more, "sections.mach", tr("Mach numbers"), "sectionMach", tr("change the Mach number"));
    addToolTip(*list(more, "sections.flap_turns_deg", tr("Flap turned by"), "sectionFlaps",
                     tr("change the turns of the flap")),
               tr("Degrees on top of each section's own flap; a polar for each"));
    whole(more, "sections.panels", tr("Panels"), "sectionPanels", 20, tr("change the panels"));
    choice(more, "sections.fixed_lift", tr("Re"), "sectionKind", tr("change the kind of polar"),
           {tr("the same at every lift"), tr("falls as lift rises (Re root cl)")});
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
    readings_->setAccessibleName(tr("What the polars say"));
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
    auto* out = new QGridLayout;
    const auto button = [&](const QString& words, const char* name, const QString& help,
                            void (SectionsStage::*does)()) {
        auto* b = new QPushButton(words);
        b->setObjectName(name);
        b->setToolTip(help);
        out->addWidget(b, out->count() / 2, out->count() % 2);
        connect(b, &QPushButton::clicked, this, does);
    };
    button(tr("Copy"), "copySections", tr("All points, for a spreadsheet"), &SectionsStage::copyTable);
    button(tr("Table\u2026"), "tableOfSections", tr("All points as CSV or XLSX"), &SectionsStage::exportTable);
    button(tr("Plots\u2026"), "plotsOfSections", tr("Both plots as drawings, PDF or SVG"), &SectionsStage::exportPlots);
    button(tr("Data under\u2026"), "dataUnder",
           tr("Published points from a CSV file of two columns, in the axes of the left plot"),
           &SectionsStage::addReference);
    column_->addLayout(out);
}

void SectionsStage::makeField() {
    auto* form = section(tr("The chosen section in the field"));
    list(form, "sections.field_angles_deg", tr("Angles"), "fieldAngles", tr("change the field's angles"));
    choice(form, "sections.field_level", tr("Grid"), "fieldLevel", tr("change the field's grid"),
           {tr("5,000 cells"), tr("19,000 cells"), tr("77,000 cells")});
    fieldWords_ = note(tr("Turbulent from the nose on, at the Reynolds numbers above; some 10 to 40 s an angle."));
    fieldWords_->setObjectName("fieldWords");
    form->addRow(fieldWords_);
    solve_ = new QPushButton(tr("Solve in the field"));
    solve_->setObjectName("solveInField");
    form->addRow(solve_);
    connect(solve_, &QPushButton::clicked, this, [this] {
        if (work_.fieldRunning())
            work_.stopField();
        else
            work_.solveInField(chosen_);
    });
    connect(&work_, &SectionWork::fieldMoved, this, [this] {
        solve_->setText(work_.fieldRunning() ? tr("Stop the field") : tr("Solve in the field"));
        if (!work_.fieldWords().isEmpty()) fieldWords_->setText(work_.fieldWords());
    });
}

}  // namespace cvane::desk
