#include "desk/stages/pressures/pressures_stage.h"

#include <QApplication>
#include <QClipboard>
#include <QDialog>
#include <QDialogButtonBox>
#include <QGridLayout>
#include <QHeaderView>
#include <QSpinBox>
#include <algorithm>
#include <array>
#include <cmath>

#include "base/errors.h"
#include "base/files.h"
#include "desk/look.h"
#include "desk/model/point_model.h"
#include "desk/note_room.h"
#include "desk/save_file.h"
#include "desk/scene.h"
#include "report/workbook.h"

namespace cvane::desk {
namespace {
constexpr int kMostPoints = 6;  ///< drawn at a time
constexpr int kFlip_ms = 900;   ///< a picture of the flip book
constexpr double kPale = 0.6;   ///< of what is not to be believed

}  // namespace

QString PressuresStage::wordsOf(const Plane& p) {
    return QString("%1 = %2 m").arg(kAxes[static_cast<int>(p.axis)]).arg(p.at, 0, 'g', 4);
}

PressuresStage::PressuresStage(Document& d, Middle& m) : Stage(d, m), loader_(d) {
    makeSheet();
    words_ = note();
    words_->setObjectName("pressureWords");
    words_->setMinimumHeight(2 * words_->fontMetrics().lineSpacing());
    words_->setAlignment(Qt::AlignTop);
    column_->addWidget(roomFor(words_, 3));
    auto* view = section(tr("Look at"));
    const auto box = [view](const QString& label, const char* name, const QStringList& choices) {
        auto* b = new QComboBox;
        b->setObjectName(name);
        b->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        b->setMinimumContentsLength(8);
        b->addItems(choices);
        view->addRow(label, b);
        return b;
    };
    what_ = box(tr("Show"), "pressureView",
                {tr("Cp on the surface"), tr("Cp along the chosen plane"), tr("Cp along all planes")});
    along_ = box(tr("Over"), "pressureAlong", {tr("x over the chord"), tr("x [m]"), tr("y [m]"), tr("z [m]")});
    below_ = box(tr("Below"), "pressureBelow", {tr("the outline with its pressures"), tr("Cf")});
    makePlanes();
    makeReadings();
    column_->addStretch(1);
    timer_.setInterval(kFlip_ms);
    connect(&timer_, &QTimer::timeout, this, &PressuresStage::flip);
    const auto again = [this] {
        if (current_) show();
    };
    for (auto* b : {what_, along_, below_}) connect(b, &QComboBox::currentIndexChanged, this, again);
    document_.when(Change::Selection | Change::Settings | Change::Model, this, again);
    document_.when(Change::Grid, this, again);
    document_.when(Change::Campaign, this, [this] {
        timer_.stop();
        play_->setChecked(false);
        beside_.clear();
        outside_->fill();
    });
    connect(&loader_, &FieldLoader::changed, this, again);
}

void PressuresStage::makePlanes() {
    auto* form = section(tr("Planes"));
    table_ = new QTableWidget(0, 2);
    table_->setObjectName("planes");
    table_->setAccessibleName(tr("Planes"));
    table_->setHorizontalHeaderLabels({tr("across"), tr("at [m]")});
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    table_->verticalHeader()->setVisible(false);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    table_->setFixedHeight(7 * (table_->fontMetrics().lineSpacing() + 8));
    form->addRow(table_);
    auto* buttons = new QWidget;
    auto* row = new QGridLayout(buttons);
    row->setContentsMargins(0, 0, 0, 0);
    const auto button = [&](const QString& text, const char* name, int at, const std::function<void()>& then) {
        auto* b = new QPushButton(text);
        b->setObjectName(name);
        row->addWidget(b, 0, at);
        connect(b, &QPushButton::clicked, this, then);
    };
    button(tr("+ Plane"), "addPlane", 0, [this] {
        auto p = current();
        p.at += document_.settings().pressurePlanes.empty()
                    ? 0.0
                    : 0.1 * document_.measures().bounds.size()[static_cast<int>(p.axis)];
        auto next = document_.settings().pressurePlanes;
        next.push_back(p);
        changePlanes(tr("add a plane"), next, static_cast<int>(next.size()) - 1);
    });
    button(tr("+ Several\u2026"), "addPlanes", 1, [this] { addSeveral(); });
    button(tr("Remove"), "removePlane", 2, [this] {
        auto next = document_.settings().pressurePlanes;
        const int at = table_->currentRow();
        if (at < 0 || at >= static_cast<int>(next.size())) return;
        next.erase(next.begin() + at);
        changePlanes(tr("take out a plane"), next, at);
    });
    form->addRow(buttons);
    connect(table_, &QTableWidget::currentCellChanged, this, [this](int now, int, int before, int) {
        if (!filling_ && current_ && now != before) show();
    });
    connect(table_, &QTableWidget::cellChanged, this, [this](int at, int) {
        if (filling_) return;
        auto next = planes();
        auto& p = next.at(static_cast<std::size_t>(at));
        const QString axis = table_->item(at, 0)->text().trimmed().toLower();
        bool good = false;
        const double place = QLocale::c().toDouble(table_->item(at, 1)->text().trimmed(), &good);
        const int which = axis == "x" ? 0 : axis == "y" ? 1 : axis == "z" ? 2 : -1;
        if (!good || which < 0) {
            emit document_.problem(tr("A plane is across x, y or z, at a number of metres."));
            fillPlanes();
            return;
        }
        p.axis = static_cast<Plane::Axis>(which);
        p.at = place;
        changePlanes(tr("move a plane"), next, at);
    });
}

void PressuresStage::makeReadings() {
    auto* form = section(tr("Flip book, tables"));
    through_ = new QComboBox;
    through_->setObjectName("flipThrough");
    through_->setAccessibleName(tr("What is played through"));
    through_->addItems({tr("the planes"), tr("the points")});
    play_ = new QPushButton(tr("Play"));
    play_->setObjectName("flipPlay");
    play_->setCheckable(true);
    form->addRow(through_, play_);
    connect(play_, &QPushButton::toggled, this, [this](bool on) {
        play_->setText(on ? tr("Stop") : tr("Play"));
        on ? timer_.start() : timer_.stop();
        for (Plot* p : {&middle_.upper(), &middle_.lower()}) p->holdLimits(on);
        if (on && what_->currentIndex() == 0 && through_->currentIndex() == 0) what_->setCurrentIndex(1);
    });
    outside_ = new OutsidePicker(document_, tr("A table of x and Cp"));
    outside_->setObjectName("outsideData");
    form->addRow(tr("Beside it"), outside_);
    connect(outside_, &OutsidePicker::picked, this, [this] {
        if (current_) show();
    });
    auto* copy = new QPushButton(tr("Copy for a spreadsheet"));
    copy->setObjectName("copyPressures");
    form->addRow(copy);
    connect(copy, &QPushButton::clicked, this, [this] {
        const auto all = readings();
        if (all.empty()) return;
        const auto csv = what_->currentIndex() == 2 || all.size() > 1
                             ? QString()
                             : QString::fromStdString(readout::toCsv(all[0].station));
        QString text = csv;
        if (csv.isEmpty())
            for (const auto& r : all) text += r.name + "\n" + QString::fromStdString(readout::toCsv(r.station)) + "\n";
        QApplication::clipboard()->setText(text.replace(',', '\t'));
        words_->setText(tr("Copied: %1 tables.").arg(all.size()));
    });
    auto* out = new QPushButton(tr("All planes into a file\u2026"));
    out->setObjectName("exportPressures");
    form->addRow(out);
    connect(out, &QPushButton::clicked, this, [this] {
        if (!loader_.ready()) return;
        const QString file =
            askWhereToSave(sheet_, tr("Pressures"),
                           QString::fromStdString(document_.base().folder().parent_path().string()) + "/pressures.xlsx",
                           tr("Spreadsheets (*.xlsx);;Tables (*.csv)"));
        if (!file.isEmpty()) exportAll(file);
    });
}

std::vector<campaign::PressurePlane> PressuresStage::planes() const {
    const auto& own = document_.settings().pressurePlanes;
    if (!own.empty()) return own;
    const Box b = document_.measures().bounds;
    // A little aside, so that it does not run along cells' sides.
    return {{Plane::Axis::Y, b.centre().y() + 1e-4 * b.size().norm()}};
}

campaign::PressurePlane PressuresStage::current() const {
    const auto all = planes();
    return all[static_cast<std::size_t>(std::clamp(table_->currentRow(), 0, static_cast<int>(all.size()) - 1))];
}

void PressuresStage::changePlanes(const QString& intent, const std::vector<Plane>& next, int row) {
    auto s = document_.settings();
    s.pressurePlanes = next;
    change(intent, s);
    fillPlanes();
    table_->setCurrentCell(std::clamp(row, 0, table_->rowCount() - 1), 0);
    if (current_) show();
}

void PressuresStage::addSeveral() {
    QDialog dialog(sheet_);
    dialog.setObjectName("severalPlanes");
    dialog.setWindowTitle(tr("Several planes"));
    auto* form = new QFormLayout(&dialog);
    auto* axis = new QComboBox;
    axis->addItems({tr("across x"), tr("across y"), tr("across z")});
    axis->setCurrentIndex(static_cast<int>(current().axis));
    auto *from = new QDoubleSpinBox, *to = new QDoubleSpinBox;
    const auto reach = [&] {
        const Box b = document_.measures().bounds;
        const int k = axis->currentIndex();
        from->setValue(b.low[k] + 0.05 * b.size()[k]);
        to->setValue(b.high[k] - 0.05 * b.size()[k]);
    };
    for (auto* b : {from, to}) {
        b->setRange(-1e4, 1e4);
        b->setDecimals(4);
        b->setSuffix(" m");
    }
    auto* count = new QSpinBox;
    count->setRange(2, 200);
    count->setValue(8);
    form->addRow(tr("Planes"), axis);
    form->addRow(tr("from"), from);
    form->addRow(tr("to"), to);
    form->addRow(tr("how many"), count);
    connect(axis, &QComboBox::currentIndexChanged, &dialog, reach);
    reach();
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    if (dialog.exec() != QDialog::Accepted) return;
    auto next = document_.settings().pressurePlanes;
    const int first = static_cast<int>(next.size());
    for (int k = 0; k < count->value(); ++k)
        next.push_back({static_cast<Plane::Axis>(axis->currentIndex()),
                        from->value() + (to->value() - from->value()) * k / (count->value() - 1)});
    changePlanes(tr("add planes"), next, first);
}

void PressuresStage::fillPlanes() {
    const auto all = planes();
    filling_ = true;
    const int row = std::max(0, table_->currentRow());
    table_->setRowCount(static_cast<int>(all.size()));
    for (int i = 0; i < table_->rowCount(); ++i) {
        const auto& p = all[static_cast<std::size_t>(i)];
        const QString words[2] = {kAxes[static_cast<int>(p.axis)], QString::number(p.at, 'g', 6)};
        for (int k = 0; k < 2; ++k) {
            if (!table_->item(i, k)) table_->setItem(i, k, new QTableWidgetItem);
            if (table_->item(i, k)->text() != words[k]) table_->item(i, k)->setText(words[k]);
        }
    }
    if (table_->currentRow() < 0 || table_->currentRow() >= table_->rowCount())
        table_->setCurrentCell(std::min(row, table_->rowCount() - 1), 0);
    filling_ = false;
}

QString PressuresStage::keyFigure() const {
    if (!loader_.ready() || loader_.fields().wall.Cp.empty()) return {};
    const auto [lo, hi] = std::minmax_element(loader_.fields().wall.Cp.begin(), loader_.fields().wall.Cp.end());
    return QString("Cp %1 \u2026 %2").arg(*lo, 0, 'f', 2).arg(*hi, 0, 'f', 2);
}

Stage::State PressuresStage::state() const {
    return stateOfResult();
}

void PressuresStage::arrangeLoaders() {
    const auto wanted = std::min<std::size_t>(document_.picked().size(), kMostPoints);
    while (beside_.size() + 1 > std::max<std::size_t>(wanted, 1)) beside_.pop_back();
    while (beside_.size() + 1 < wanted) {
        const auto number = beside_.size() + 1;
        beside_.push_back(std::make_unique<FieldLoader>(document_, [this, number]() -> const campaign::PointReport* {
            const auto points = document_.picked();
            return number < points.size() ? document_.reportOf(points[number]) : nullptr;
        }));
        connect(beside_.back().get(), &FieldLoader::changed, this, [this] {
            if (current_) show();
        });
    }
    for (auto& b : beside_) b->wanted();
}

std::vector<PressuresStage::Reading> PressuresStage::readings() const {
    std::vector<Reading> out;
    if (!loader_.ready()) return out;
    const auto points = document_.picked();
    const auto cut = [](const FieldLoader& l, const Plane& p) {
        return readout::cutStation(*l.fields().grid, *l.fields().geometry, l.fields().wall, static_cast<int>(p.axis),
                                   p.at);
    };
    if (what_->currentIndex() == 2) {
        for (const auto& p : planes()) out.push_back({wordsOf(p), cut(loader_, p)});
        return out;
    }
    for (std::size_t i = 0; i < beside_.size() + 1; ++i) {
        const FieldLoader& l = i == 0 ? loader_ : *beside_[i - 1];
        if (!l.ready() || i >= points.size()) continue;
        out.push_back({pointWords(points[i]), cut(l, current())});
    }
    return out;
}

void PressuresStage::flip() {
    if (!current_) {
        play_->setChecked(false);
        return;
    }
    if (through_->currentIndex() == 0) {
        if (table_->rowCount() > 1) table_->setCurrentCell((table_->currentRow() + 1) % table_->rowCount(), 0);
        return;
    }
    const auto& reports = document_.reports();
    if (reports.empty() || !document_.selected()) return;
    std::size_t at = 0;
    for (std::size_t i = 0; i < reports.size(); ++i)
        if (reports[i].point == *document_.selected()) at = i;
    for (std::size_t k = 1; k <= reports.size(); ++k) {
        const auto& next = reports[(at + k) % reports.size()];
        if (keyOfFlow(&next).empty()) continue;
        document_.select(next.point);
        return;
    }
}

void PressuresStage::exportAll(const QString& file) {
    try {
        std::vector<std::pair<int, double>> where;
        std::vector<readout::PressureStation> stations;
        std::vector<report::Sheet> sheets;
        for (const auto& p : planes()) {
            where.emplace_back(static_cast<int>(p.axis), p.at);
            stations.push_back(readout::cutStation(*loader_.fields().grid, *loader_.fields().geometry,
                                                   loader_.fields().wall, where.back().first, p.at));
            if (!stations.back().samples.empty())
                sheets.push_back({wordsOf(p).toStdString(), report::cellsOf(readout::toCsv(stations.back()))});
        }
        if (sheets.empty()) throw base::InputError("no plane meets the model.", "Pressures", "Choose others.");
        if (file.endsWith(".xlsx"))
            report::writeWorkbook(file.toStdString(), sheets);
        else
            base::exportFile(file.toStdString(), readout::toCsv(where, stations));
        words_->setText(tr("%1 planes are in %2.").arg(sheets.size()).arg(file));
    } catch (const base::InputError& e) {
        emit document_.problem(e.what());
    }
}

void PressuresStage::show() {
    fillPlanes();
    arrangeLoaders();
    loader_.wanted();
    if (!loader_.ready()) {
        middle_.showCanvas();
        scene_.begin();
        scene_.finish();
        words_->setText(loader_.excuse());
        middle_.canvas().refresh();
        return;
    }
    if (what_->currentIndex() > 0) {
        plot();
        return;
    }
    middle_.showCanvas();
    scene_.begin();
    const auto from = std::to_string(loader_.generation());
    scene_.keep("wall", from, [&] {
        return scene::wallActor(*loader_.fields().grid, loader_.fields().CpAtPoints, -1.5, 1.0, false);
    });
    const auto& separated = loader_.fields().separated;
    if (!separated.facets.empty())
        scene_.keep("separated", from, [&] { return scene::surfaceActor(separated, 0, look::paper, kPale); });
    scene_.keep("scale", from,
                [&] { return scene::scaleFor(-1.5, 1.0, field::Sense::AboutZero, "Cp", middle_.canvas().unit()); });
    scene_.finish();
    words_->setText(
        provisionalNote() + tr("Colours from -1.5 to 1; white is the free stream's pressure.") +
        (separated.facets.empty()
             ? QString()
             : tr(" Pale: behind a separation of the boundary layer, where panels are not to be believed.")));
    middle_.canvas().refresh();
}

}  // namespace cvane::desk
