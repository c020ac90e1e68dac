#include "desk/stages/compare/compare_stage.h"

#include <QApplication>
#include <QClipboard>
#include <QHeaderView>
#include <QPushButton>
#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "campaign/settings/difference.h"
#include "campaign/steps/axles.h"
#include "desk/look.h"
#include "desk/model/point_model.h"
#include "desk/note_room.h"
#include "desk/setting_words.h"
#include "desk/table_text.h"

namespace cvane::desk {
namespace {
constexpr std::size_t kMost = 6;  ///< points at a time

const char* const kUsual[] = {"CL", "CD", "CY", "Cl", "Cm", "Cn", "L_over_D", "drag", "lift", "drag_area"};

bool isUsual(const std::string& id) {
    return std::any_of(std::begin(kUsual), std::end(kUsual), [&](const char* u) { return id == u; });
}

}  // namespace

QString CompareStage::headOf(const readout::ResultQuantity& q) {
    const auto unit = readout::unitOf(q.measure);
    return QString::fromStdString(unit.empty() ? q.id : q.id + " [" + unit + "]");
}

CompareStage::CompareStage(Document& d, Middle& m) : Stage(d, m) {
    makeSheet();
    words_ = note();
    words_->setObjectName("compareWords");
    column_->addWidget(roomFor(words_, 4));
    auto* form = section(tr("Look at"));
    const auto box = [form](const QString& label, const char* name) {
        auto* b = new QComboBox;
        b->setObjectName(name);
        b->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        b->setMinimumContentsLength(8);
        form->addRow(label, b);
        return b;
    };
    reference_ = box(tr("Against"), "compareReference");
    plot_ = box(tr("Plot"), "comparePlot");
    plot_->addItems({tr("drag from nose to tail"), tr("lift along the span"), tr("drag along the span"),
                     tr("a quantity over another")});
    x_ = box(tr("over"), "compareX");
    y_ = box(tr("quantity"), "compareY");
    for (const auto& [id, name] :
         {std::pair{"alpha", tr("alpha [deg]")}, {"beta", tr("beta [deg]")}, {"speed", tr("speed [m/s]")}})
        x_->addItem(name, id);
    for (const auto& q : readout::resultQuantities()) {
        x_->addItem(headOf(q), QString::fromStdString(q.id));
        y_->addItem(headOf(q), QString::fromStdString(q.id));
        x_->setItemData(x_->count() - 1, QString::fromStdString(q.name), Qt::ToolTipRole);
        y_->setItemData(y_->count() - 1, QString::fromStdString(q.name), Qt::ToolTipRole);
    }
    outside_ = new OutsidePicker(document_, tr("A table with a column for each axis"));
    outside_->setObjectName("compareOutside");
    form->addRow(tr("Beside it"), outside_);
    outsideX_ = box(tr("its x"), "compareOutsideX");
    outsideY_ = box(tr("its y"), "compareOutsideY");
    fit_ = new QCheckBox(tr("straight lines through them"));
    fit_->setObjectName("compareFit");
    form->addRow({}, fit_);
    all_ = new QCheckBox(tr("every quantity"));
    all_->setObjectName("compareAll");
    form->addRow({}, all_);
    table_ = new QTableWidget;
    table_->setObjectName("compareTable");
    table_->setAccessibleName(tr("Quantities of the points"));
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->verticalHeader()->hide();
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    table_->verticalHeader()->setDefaultSectionSize(table_->fontMetrics().height() + 8);
    fitRows(*table_, 10);
    column_->addWidget(table_);
    auto* copy = new QPushButton(tr("Copy for a spreadsheet"));
    copy->setObjectName("copyCompare");
    column_->addWidget(copy);
    settings_ = note();
    settings_->setObjectName("compareSettings");
    column_->addWidget(settings_);
    column_->addStretch(1);
    connect(copy, &QPushButton::clicked, this, [this] { QApplication::clipboard()->setText(tableText(*table_)); });
    const auto again = [this] {
        if (current_) show();
    };
    for (auto* b : {plot_, outsideX_, outsideY_}) connect(b, &QComboBox::activated, this, again);
    // Columns are found by their heads anew for other axes.
    const auto otherAxes = [this, again] {
        fillColumns();
        again();
    };
    for (auto* b : {x_, y_}) connect(b, &QComboBox::activated, this, otherAxes);
    connect(outside_, &OutsidePicker::picked, this, otherAxes);
    connect(fit_, &QCheckBox::clicked, this, again);
    connect(all_, &QCheckBox::clicked, this, again);
    connect(reference_, &QComboBox::activated, this, [this](int at) {
        const auto name = reference_->itemData(at).toString().toStdString();
        pinned_.reset();
        for (const auto& r : document_.reports())
            if (r.point.name() == name) pinned_ = r.point;
        show();
    });
    document_.when(Change::Selection | Change::Values | Change::Settings, this, again);
    document_.when(Change::Campaign, this, [this] {
        pinned_.reset();
        outside_->fill();
        loaders_.clear();
        loadings_.clear();
    });
}

QString CompareStage::keyFigure() const {
    const auto n = document_.picked().size();
    return n > 1 ? tr("%1 points").arg(n) : QString();
}

Stage::State CompareStage::state() const {
    return stateOfResult();
}

std::vector<CompareStage::Shown> CompareStage::shown() const {
    std::vector<Shown> out;
    auto points = document_.picked();
    // One that was pinned comes first, whether it was picked or not.
    if (pinned_ && document_.reportOf(*pinned_)) {
        std::erase(points, *pinned_);
        points.insert(points.begin(), *pinned_);
    }
    for (const auto& p : points) {
        const auto* r = document_.reportOf(p);
        if (!r || !r->result || out.size() == kMost) continue;
        out.push_back({p, r, pointWords(p) + (r->provisional() ? tr(" ~ provisional") : QString())});
    }
    return out;
}

std::optional<readout::Axles> CompareStage::axlesOf(const campaign::Point& p) const {
    // The placed model is that of what is looked at; another configuration's wheels are found only for their own.
    const auto seen = document_.base().of(p);
    const auto* r = document_.reportOf(p);
    if (!document_.modelReady() || !r || !r->result) return std::nullopt;
    const auto &own = seen.settings.model, &looked = document_.settings().model;
    if (own.file != looked.file || own.unit != looked.unit || !(own.placement == looked.placement)) return std::nullopt;
    return campaign::axlesOf(seen.settings, document_.placed(), r->result->reference);
}

void CompareStage::fillTable(const std::vector<Shown>& points) {
    QStringList head{tr("quantity"), points.empty() ? tr("reference") : points[0].name};
    for (std::size_t i = 1; i < points.size(); ++i) head << "%" << tr("difference") << "\u00b1" << points[i].name;
    table_->clear();
    table_->setColumnCount(static_cast<int>(head.size()));
    table_->setHorizontalHeaderLabels(head);
    table_->setRowCount(0);
    if (points.empty()) return;
    std::vector<std::optional<readout::Axles>> axles;
    axles.reserve(points.size());
    for (const auto& p : points) axles.push_back(axlesOf(p.point));
    const auto put = [&](int row, int column, const QString& text, bool faint = false) {
        auto* item = new QTableWidgetItem(text);
        if (column > 0) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        if (faint) {
            item->setForeground(look::faint);
            item->setToolTip(tr("No larger than the doubt"));
        }
        table_->setItem(row, column, item);
    };
    for (const auto& q : readout::resultQuantities()) {
        if (!all_->isChecked() && !isUsual(q.id)) continue;
        const int row = table_->rowCount();
        table_->insertRow(row);
        put(row, 0, headOf(q));
        table_->item(row, 0)->setToolTip(QString::fromStdString(q.name));
        const auto first = q.of(*points[0].report->result, axles[0]);
        put(row, 1, first.value ? QString::number(*first.value, 'g', 5) : "\u2013");
        if (!first.value) table_->item(row, 1)->setToolTip(QString::fromStdString(first.why));
        for (std::size_t i = 1; i < points.size(); ++i) {
            const int column = 2 + 4 * (static_cast<int>(i) - 1);
            std::string why;
            const auto d = readout::differenceOf(q, *points[0].report->result, axles[0], *points[i].report->result,
                                                 axles[i], &why);
            if (!d) {
                put(row, column, "\u2013");
                table_->item(row, column)->setToolTip(QString::fromStdString(why));
                continue;
            }
            put(row, column, d->percent ? QString::number(*d->percent, 'f', 1) : "\u2013", d->within());
            put(row, column + 1, QString::number(d->difference, 'g', 4), d->within());
            put(row, column + 2, d->band ? QString::number(*d->band, 'g', 2) : tr("unknown"));
            if (!d->band)
                table_->item(row, column + 2)
                    ->setToolTip(tr("A grid of fewer cells, settled, is missing to one of the points: how much the "
                                    "difference depends on the cells is not known."));
            put(row, column + 3, QString::number(d->value, 'g', 5));
        }
    }
    fitRows(*table_, 10);
}

void CompareStage::fillSettings(const std::vector<Shown>& points) {
    QStringList lines;
    for (std::size_t i = 1; i < points.size(); ++i) {
        QStringList own;
        const auto word = [](const nlohmann::json& j) {
            return j.is_null() ? tr("none") : QString::fromStdString(j.dump()).left(60);
        };
        for (const auto& f : campaign::differingSettings(document_.base().of(points[0].point).settings,
                                                         document_.base().of(points[i].point).settings))
            own << QString("%1: %2 \u2192 %3")
                       .arg(withLabels(QString::fromStdString(f.path)), word(f.first), word(f.other));
        if (!own.isEmpty()) lines << tr("%1 differs in").arg(points[i].name) << own;
    }
    settings_->setText(points.size() < 2 ? QString()
                       : lines.isEmpty() ? tr("The points differ in the wind alone.")
                                         : lines.join("\n"));
}

// What the difference comes to, a sentence for each point; where it lies is known once the walls have been read.
void CompareStage::tellAnswer(const std::vector<Shown>& points) {
    if (points.size() < 2) {
        words_->setText(tr("Ctrl+click tiles of the point board that have results: up to six are compared."));
        return;
    }
    QStringList lines;
    const auto* first = loadingOf(points[0], Vec3::UnitX());
    for (std::size_t i = 1; i < points.size(); ++i) {
        std::optional<readout::Stretch> where;
        if (const auto* own = loadingOf(points[i], Vec3::UnitX()); own && first) {
            const auto carrying = [](const readout::Loading& l, const Shown& p) {
                const auto& wind = p.report->result->wind;
                return readout::Carrying{l, wind.dragAxis(), wind.dynamicPressure()};
            };
            where = readout::stretchOfDifference(carrying(*first, points[0]), carrying(*own, points[i]));
        }
        const auto [own, reference] = differingWords(points[i].point, points[0].point);
        lines << QString::fromStdString(readout::sentenceOfDifference(
            own.toStdString(), reference.toStdString(), *points[0].report->result, *points[i].report->result, where));
    }
    words_->setText(lines.join("\n"));
    words_->setToolTip(tr("Differences no larger than the doubt are pale in the table."));
}

void CompareStage::show() {
    const auto points = shown();
    reference_->clear();
    reference_->addItem(tr("the selected point"), "");
    for (const auto& r : document_.reports())
        if (r.result) reference_->addItem(pointWords(r.point), QString::fromStdString(r.point.name()));
    reference_->setCurrentIndex(pinned_ ? std::max(0, reference_->findData(QString::fromStdString(pinned_->name())))
                                        : 0);
    arrangeLoaders(points);
    tellAnswer(points);
    fillTable(points);
    fillSettings(points);
    const bool quantities = plot_->currentIndex() == 3;
    for (QWidget* w : std::initializer_list<QWidget*>{x_, y_, outside_, fit_}) w->setEnabled(quantities);
    for (auto* b : {outsideX_, outsideY_}) b->setEnabled(quantities && b->count() > 0);
    quantities ? plotQuantities() : plotLoadings(points);
}

}  // namespace cvane::desk
