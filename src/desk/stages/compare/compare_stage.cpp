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
#include "desk/table_text.h"

namespace cvane::desk {
namespace {
constexpr std::size_t kMost = 6;  ///< points at a time
constexpr int kStrips = 60;

const char* const kUsual[] = {"CL", "CD", "CY", "Cl", "Cm", "Cn", "L_over_D", "drag", "lift", "drag_area"};

bool isUsual(const std::string& id) {
    return std::any_of(std::begin(kUsual), std::end(kUsual), [&](const char* u) { return id == u; });
}

QString headOf(const readout::ResultQuantity& q) {
    const auto unit = readout::unitOf(q.measure);
    return QString::fromStdString(unit.empty() ? q.id : q.id + " [" + unit + "]");
}
}  // namespace

CompareStage::CompareStage(Document& d, Middle& m) : Stage(d, m) {
    makeSheet();
    words_ = note();
    words_->setObjectName("compareWords");
    column_->addWidget(words_);
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
    all_ = new QCheckBox(tr("every quantity"));
    all_->setObjectName("compareAll");
    form->addRow({}, all_);
    table_ = new QTableWidget;
    table_->setObjectName("compareTable");
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->verticalHeader()->hide();
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    table_->setMinimumHeight(10 * (table_->fontMetrics().lineSpacing() + 8));
    column_->addWidget(table_, 1);
    auto* copy = new QPushButton(tr("Copy for a spreadsheet"));
    copy->setObjectName("copyCompare");
    column_->addWidget(copy);
    settings_ = note();
    settings_->setObjectName("compareSettings");
    column_->addWidget(settings_);
    connect(copy, &QPushButton::clicked, this, [this] { QApplication::clipboard()->setText(tableText(*table_)); });
    const auto again = [this] {
        if (current_) show();
    };
    for (auto* b : {plot_, x_, y_}) connect(b, &QComboBox::activated, this, again);
    connect(all_, &QCheckBox::clicked, this, again);
    connect(reference_, &QComboBox::activated, this, [this](int at) {
        const auto name = reference_->itemData(at).toString().toStdString();
        pinned_.reset();
        for (const auto& r : document_.reports())
            if (r.point.name() == name) pinned_ = r.point;
        show();
    });
    document_.when(Change::Selection | Change::Points | Change::Settings, this, again);
    document_.when(Change::Campaign, this, [this] {
        pinned_.reset();
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
        out.push_back({p, r, pointWords(p)});
    }
    return out;
}

std::optional<readout::Axles> CompareStage::axlesOf(const campaign::Point& p) const {
    // The placed model is that of what is looked at; another configuration's wheels are found only for their own.
    const auto seen = document_.base().of(p);
    const auto* r = document_.reportOf(p);
    if (!document_.modelReady() || !r || !r->result) return std::nullopt;
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
            put(row, column + 2, d->band ? QString::number(*d->band, 'g', 2) : "?");
            put(row, column + 3, QString::number(d->value, 'g', 5));
        }
    }
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
            own << QString("%1: %2 \u2192 %3").arg(QString::fromStdString(f.path), word(f.first), word(f.other));
        if (!own.isEmpty()) lines << tr("%1 differs in").arg(points[i].name) << own;
    }
    settings_->setText(points.size() < 2 ? QString()
                       : lines.isEmpty() ? tr("The points differ in the wind alone.")
                                         : lines.join("\n"));
}

void CompareStage::arrangeLoaders(const std::vector<Shown>& points) {
    std::set<std::string> wanted;
    for (const auto& p : points) wanted.insert(p.point.name());
    std::erase_if(loaders_, [&](const auto& l) { return !wanted.contains(l.first); });
    for (const auto& p : points) {
        auto& l = loaders_[p.point.name()];
        if (!l) {
            l = std::make_unique<FieldLoader>(document_, [this, point = p.point] { return document_.reportOf(point); });
            connect(l.get(), &FieldLoader::changed, this, [this] {
                if (current_) show();
            });
        }
        l->wanted();
    }
}

void CompareStage::plotLoadings(const std::vector<Shown>& points) {
    arrangeLoaders(points);
    const int what = plot_->currentIndex();
    const bool isSum = what == 0, isLift = what == 1;
    auto &top = middle_.upper(), &bottom = middle_.lower();
    const QString along = isSum ? "x [m]" : "y [m]", quantity = isSum    ? tr("drag so far / q [m\u00b2]")
                                                                : isLift ? tr("lift a metre / q [m]")
                                                                         : tr("drag a metre / q [m]");
    top.begin(along, quantity);
    bottom.begin(along, tr("less %1").arg(points.empty() ? tr("the reference") : points[0].name));
    std::vector<double> referenceX, referenceY;
    std::size_t colour = 0;
    for (const auto& p : points) {
        const auto& l = *loaders_.at(p.point.name());
        const QColor ink = look::curve(colour++);
        if (!l.ready()) continue;
        const auto key = p.point.name() + (isSum ? " x " : " y ") + std::to_string(l.generation());
        if (!loadings_.contains(key)) {
            try {
                loadings_[key] = readout::loadingAlong(*l.fields().grid, *l.fields().geometry, l.fields().wall,
                                                       l.fields().wind, isSum ? Vec3::UnitX() : Vec3::UnitY(), kStrips);
            } catch (const base::InputError&) {
                continue;  // no walls
            }
        }
        const auto& loading = loadings_.at(key);
        const double q = l.fields().wind.dynamicPressure();
        const Vec3 way = isLift ? l.fields().wind.liftAxis() : l.fields().wind.dragAxis();
        std::vector<double> x, y;
        double sum = 0.0;
        for (const auto& s : loading.strips) {
            sum += s.force().dot(way) / q;
            x.push_back(isSum ? s.to : s.middle());
            y.push_back(isSum ? sum : s.force().dot(way) / q / (s.to - s.from));
        }
        top.add(p.name, x, y, ink, 0);
        if (referenceX.empty()) {
            referenceX = x;
            referenceY = y;
            continue;
        }
        // The reference between its own places; where it has none there is no difference.
        std::vector<double> dx, dy;
        for (std::size_t i = 0; i < x.size(); ++i) {
            const auto after = std::lower_bound(referenceX.begin(), referenceX.end(), x[i]);
            if (after == referenceX.end() || x[i] < referenceX.front()) continue;
            const auto k = static_cast<std::size_t>(after - referenceX.begin());
            const double t = k == 0 ? 0.0 : (x[i] - referenceX[k - 1]) / (referenceX[k] - referenceX[k - 1]);
            const double at = k == 0 ? referenceY[0] : referenceY[k - 1] + t * (referenceY[k] - referenceY[k - 1]);
            dx.push_back(x[i]);
            dy.push_back(y[i] - at);
        }
        bottom.add(p.name, dx, dy, ink, 0);
    }
    top.finish();
    bottom.finish();
    middle_.showPlots(points.size() > 1);
}

void CompareStage::plotQuantities() {
    const auto xId = x_->currentData().toString().toStdString();
    const auto& y = readout::resultQuantity(y_->currentData().toString().toStdString());
    auto& top = middle_.upper();
    top.begin(x_->currentText(), headOf(y));
    struct Curve {
        std::vector<double> x, y, band;
    };
    std::map<QString, Curve> curves;
    const bool overSpeed = xId == "speed";
    std::set<double> betas;
    for (const auto& r : document_.reports()) betas.insert(r.point.condition.beta_deg);
    auto reports = std::vector<const campaign::PointReport*>();
    for (const auto& r : document_.reports())
        if (r.result) reports.push_back(&r);
    std::stable_sort(reports.begin(), reports.end(), [&](const auto* a, const auto* b) {
        const auto order = [&](const campaign::Condition& c) {
            return overSpeed ? c.speed : xId == "beta" ? c.beta_deg : c.alpha_deg;
        };
        return order(a->point.condition) < order(b->point.condition);
    });
    std::optional<readout::Axles> axles;
    std::pair<std::string, std::string> of{"?", "?"};
    for (const auto* r : reports) {
        if (of != std::pair(r->point.configuration, r->point.setUp)) {
            of = {r->point.configuration, r->point.setUp};
            axles = axlesOf(r->point);
        }
        const auto& c = r->point.condition;
        std::optional<double> at;
        if (xId == "alpha") at = c.alpha_deg;
        if (xId == "beta") at = c.beta_deg;
        if (overSpeed) at = c.speed;
        if (!at) at = readout::resultQuantity(xId).of(*r->result, axles).value;
        const auto v = y.of(*r->result, axles);
        if (!at || !v.value) continue;
        QStringList name;
        for (const auto& variant : {r->point.configuration, r->point.setUp})
            if (!variant.empty()) name << QString::fromStdString(variant);
        name << (overSpeed ? QString("%1\u00b0").arg(c.alpha_deg) : QString("%1 m/s").arg(c.speed));
        if (xId != "beta" && betas.size() > 1) name << tr("beta %1\u00b0").arg(c.beta_deg);
        auto& curve = curves[name.join(", ")];
        curve.x.push_back(*at);
        curve.y.push_back(*v.value);
        curve.band.push_back(v.band.value_or(0.0));
    }
    std::size_t colour = 0;
    for (const auto& [name, c] : curves) top.add(name, c.x, c.y, look::curve(colour++), 1, c.band);
    top.finish();
    middle_.showPlots(false);
    if (curves.empty()) words_->setText(tr("No point has both quantities."));
}

void CompareStage::show() {
    const auto points = shown();
    reference_->clear();
    reference_->addItem(tr("the selected point"), "");
    for (const auto& r : document_.reports())
        if (r.result)
            reference_->addItem(QString::fromStdString(r.point.name()), QString::fromStdString(r.point.name()));
    reference_->setCurrentIndex(pinned_ ? std::max(0, reference_->findData(QString::fromStdString(pinned_->name())))
                                        : 0);
    words_->setText(
        points.size() > 1
            ? tr("%1 against %2. Differences no larger than the doubt are pale.")
                  .arg(points.size() == 2 ? points[1].name : tr("%1 points").arg(points.size() - 1), points[0].name)
            : tr("Ctrl+click tiles of the point board that have results: up to six are compared."));
    fillTable(points);
    fillSettings(points);
    const bool quantities = plot_->currentIndex() == 3;
    x_->setEnabled(quantities);
    y_->setEnabled(quantities);
    quantities ? plotQuantities() : plotLoadings(points);
}

}  // namespace cvane::desk
