// The plots of the stage Compare: loadings of the points that were picked, quantities of all points over each other.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "desk/look.h"
#include "desk/stages/compare/compare_stage.h"
#include "readout/slopes.h"

namespace cvane::desk {
namespace {
constexpr int kStrips = 60;

// Of what is plotted, as the desk plots it.
std::string unitOfId(const std::string& id) {
    if (id == "alpha" || id == "beta") return "deg";
    if (id == "speed") return "m/s";
    return readout::unitOf(readout::resultQuantity(id).measure);
}
}  // namespace

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

const readout::Loading* CompareStage::loadingOf(const Shown& p, const Vec3& axis) {
    const auto loader = loaders_.find(p.point.name());
    if (loader == loaders_.end() || !loader->second->ready()) return nullptr;
    const auto& l = *loader->second;
    const auto key = l.key() + (axis.x() > 0.5 ? " x" : " y");
    if (!loadings_.contains(key)) {
        try {
            loadings_[key] = readout::loadingAlong(*l.fields().grid, *l.fields().geometry, l.fields().wall,
                                                   l.fields().wind, axis, kStrips);
        } catch (const base::InputError&) {
            return nullptr;  // no walls
        }
    }
    return &loadings_.at(key);
}

void CompareStage::plotLoadings(const std::vector<Shown>& points) {
    const int what = plot_->currentIndex();
    const bool isSum = what == 0, isLift = what == 1;
    auto &top = middle_.upper(), &bottom = middle_.lower();
    const QString along = isSum ? "x [m]" : "y [m]", quantity = isSum    ? tr("cumulative drag / q [m\u00b2]")
                                                                : isLift ? tr("lift per span / q [m]")
                                                                         : tr("drag per span / q [m]");
    top.begin(along, quantity);
    bottom.begin(along, tr("less %1").arg(points.empty() ? tr("the reference") : points[0].name));
    std::vector<double> referenceX, referenceY;
    std::size_t colour = 0;
    for (const auto& p : points) {
        const auto& l = *loaders_.at(p.point.name());
        const QColor ink = look::curve(colour++);
        const auto* found = loadingOf(p, isSum ? Vec3::UnitX() : Vec3::UnitY());
        if (!found) continue;
        const auto& loading = *found;
        const double q = l.fields().wind.dynamicPressure();
        const Vec3 way = isLift ? l.fields().wind.liftAxis() : l.fields().wind.dragAxis();
        std::vector<double> x, y;
        double sum = 0.0;
        // From nose to tail of the whole model, whichever part of it was computed.
        const double whole = p.report->result->halfModel ? 2.0 : 1.0;
        for (const auto& s : loading.strips) {
            sum += whole * s.force().dot(way) / q;
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
        std::vector<bool> known;
        bool provisional = false;
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
        if (r->point.method != campaign::Method::Field) name << tr(campaign::nameOf(r->point.method).shown);
        name << (overSpeed ? QString("%1\u00b0").arg(c.alpha_deg) : QString("%1 m/s").arg(c.speed));
        if (xId != "beta" && betas.size() > 1) name << tr("beta %1\u00b0").arg(c.beta_deg);
        if (r->provisional()) name << tr("~ provisional");
        auto& curve = curves[name.join(", ")];
        curve.provisional = r->provisional();
        curve.x.push_back(*at);
        curve.y.push_back(*v.value);
        curve.band.push_back(v.band.value_or(0.0));
        curve.known.push_back(v.band && std::isfinite(*v.band) && r->result->gridBand() && !r->provisional());
    }
    std::size_t colour = 0;
    QStringList fits;
    for (const auto& [name, c] : curves) {
        const QColor ink = look::curve(colour++);
        top.addMeasured(name, {c.x, c.y, c.band, {}, c.known}, ink, c.provisional ? Qt::NoPen : Qt::SolidLine);
        if (fit_->isChecked()) addFit(name, c.x, c.y, c.band, ink, fits);
    }
    if (const auto data = outside_->data(); data && outsideX_->count() > 0) {
        const auto &x = data->columns[static_cast<std::size_t>(std::max(0, outsideX_->currentIndex()))],
                   &v = data->columns[static_cast<std::size_t>(std::max(0, outsideY_->currentIndex()))];
        const auto px = x.in(unitOfId(xId)), py = v.in(unitOfId(y.id));
        const QString name = QString::fromStdString(data->name);
        top.add(name, px, py, look::ink, 4);
        if (fit_->isChecked()) addFit(name, px, py, {}, look::ink, fits);
    }
    top.finish();
    middle_.showPlots(false);
    if (curves.empty() && !outside_->data())
        words_->setText(tr("No point has both quantities."));
    else if (!fits.isEmpty())
        words_->setText(fits.join("\n"));
}

// The line over the places of a curve, and its slope in words.
void CompareStage::addFit(const QString& name, const std::vector<double>& x, const std::vector<double>& y,
                          const std::vector<double>& band, const QColor& ink, QStringList& said) {
    try {
        const auto f = readout::fitLine(x, y, band);
        const auto [low, high] = std::minmax_element(x.begin(), x.end());
        middle_.upper().add({}, {*low, *high}, {f.atZero + f.slope * *low, f.atZero + f.slope * *high}, ink, 2);
        said << tr("%1: slope %2 \u00b1 %3, at zero %4 \u00b1 %5")
                    .arg(name)
                    .arg(f.slope, 0, 'g', 4)
                    .arg(f.slopeError, 0, 'g', 2)
                    .arg(f.atZero, 0, 'g', 4)
                    .arg(f.atZeroError, 0, 'g', 2);
    } catch (const base::InputError& e) {
        said << name + ": " + e.what();
    }
}

void CompareStage::fillColumns() {
    outsideX_->clear();
    outsideY_->clear();
    const auto data = outside_->data();
    if (!data) return;
    for (const auto& c : data->columns) {
        const QString words = c.unit.empty() ? QString::fromStdString(c.name)
                                             : QString::fromStdString(fmt::format("{} [{}]", c.name, c.unit));
        for (auto* b : {outsideX_, outsideY_})
            b->addItem(words.isEmpty() ? tr("column %1").arg(b->count() + 1) : words);
    }
    const auto x = x_->currentData().toString().toStdString(), y = y_->currentData().toString().toStdString();
    const auto column = [&](const std::string& id) { return data->columnOf({id, id + "_deg", id + "_m_s"}); };
    const int atX = std::max(0, column(x));
    outsideX_->setCurrentIndex(atX);
    outsideY_->setCurrentIndex(column(y) >= 0 ? column(y) : atX == 1 ? 0 : std::min(1, outsideY_->count() - 1));
}

bool CompareStage::takeTable(const QString& file) {
    plot_->setCurrentIndex(3);
    outside_->take(file);
    return true;
}

}  // namespace cvane::desk
