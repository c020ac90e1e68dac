#include "desk/stages/sections_stage.h"

#include <QDoubleSpinBox>
#include <QPainter>

#include "base/errors.h"
#include "base/files.h"
#include "base/units.h"
#include "desk/look.h"
#include "section/outline/coordinates.h"
#include "section/outline/faults.h"

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
    p.setBrush(look::body);
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
    makeField();
    column_->addStretch(1);
    makePage();
    document_.when(Change::Campaign, this, [this] { fillList(); });
    document_.when(Change::Settings, this, [this] {
        // Files of sections are read again for their own changes only.
        if (!(document_.settings().sections == listed_)) fillList();
    });
    connect(&work_, &SectionWork::changed, this, [this] {
        plotPolars();
        fillReadings();
    });
    connect(&work_, &SectionWork::viewed, this, [this] {
        picture_->show(work_.view(), foundFaults_, work_.fieldView());
        if (alongChord_) plotPolars();
    });
    connect(&work_, &SectionWork::gridded, this, [this] { picture_->setCells(work_.cells()); });
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
    const auto& all = listed_ = document_.settings().sections;
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
    for (auto* b : {thickness_, camber_, thicknessAt_, camberAt_, nose_, hinge_, flap_}) b->setEnabled(e != nullptr);
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
            thicknessAt_->setValue(100.0 * g.thicknessAt);
            camberAt_->setValue(100.0 * g.camberAt);
            nose_->setValue(100.0 * g.noseRadius);
            const bool cambered = std::abs(g.camber) > 1e-4;
            camberAt_->setEnabled(cambered), camber_->setEnabled(cambered);
            picture_->setShape(g);
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
            for (const double turn : document_.settings().sections.flapTurns_deg)
                campaign::turnedOutline(document_.campaign(), *e, turn);  // says why a turn of the flap cannot be made
            mend_->setEnabled(std::any_of(foundFaults_.begin(), foundFaults_.end(),
                                          [](const auto& fault) { return fault.mend != section::Fault::Mend::None; }));
        } catch (const std::exception& problem) {
            faults_->setText(problem.what());
        }
    }
    faults_->setVisible(!faults_->text().isEmpty());
    filling_ = false;
    lookAtAngle();
    if (grid_->isChecked() && e) work_.makeGrid(chosen_);
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

void SectionsStage::fillReadings() {
    readings_->setRowCount(0);
    for (const auto& c : work_.curves()) {
        if (c.asked.section != chosen_) continue;
        const auto f = section::figuresOfPolar(c.points);
        const int row = readings_->rowCount();
        readings_->insertRow(row);
        QStringList words{nameOf(c).mid(static_cast<int>(chosen_.size())).trimmed()};
        if (words[0].isEmpty()) words[0] = reynoldsText(c.asked.what.flow.air.reynolds);
        if (f)
            words << QString::number(f->slope * degree, 'f', 3) << QString::number(f->zeroLift / degree, 'f', 1)
                  << QString::number(f->clMax, 'f', 2) + (f->stalls ? "" : "+") << QString::number(f->cdMin, 'f', 5)
                  << QString::number(f->bestRatio, 'f', 0);
        for (int i = 0; i < words.size(); ++i) readings_->setItem(row, i, new QTableWidgetItem(words[i]));
    }
}

QString SectionsStage::keyFigure() const {
    const auto n = document_.settings().sections.sections.size();
    return n == 0 ? QString() : n == 1 ? tr("1 section") : tr("%1 sections").arg(n);
}

Stage::State SectionsStage::state() const {
    if (work_.running() || work_.fieldRunning()) return State::AtWork;
    if (!document_.settings().sections.sections.empty()) return State::Ready;
    return document_.isOpen() && document_.base().hasModel() ? State::Optional : State::NeedsYou;
}

}  // namespace cvane::desk
