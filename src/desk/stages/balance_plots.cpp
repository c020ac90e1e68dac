// The plots of the stage Balance: polars of all points, the loading of the selected one along the span.
#include <cmath>
#include <map>

#include "base/errors.h"
#include "base/units.h"
#include "desk/look.h"
#include "desk/stages/balance_stage.h"
#include "readout/loading.h"

namespace cvane::desk {

void BalanceStage::show() {
    plot_->currentIndex() == 0 ? plotPolars() : plotSpan();
}

namespace {
/// One curve a build and wind: over alpha at a speed and sideslip, or over speed at an alpha and sideslip.
struct Key {
    bool provisional;
    std::string configuration, setUp;
    campaign::Method method;
    double beta, other;
    auto operator<=>(const Key&) const = default;
};

struct Series {
    std::vector<double> a, CL, CD, Cm, drag, bandL, bandD, bandM, bandDrag;
    std::vector<bool> known;
    /// @param newtons  a drag coefficient of 1, in the unit shown
    void add(double at, const readout::Result& r, double newtons) {
        const auto& k = r.coefficients;
        const auto band = r.trust();
        a.push_back(at);
        CL.push_back(k.CL);
        CD.push_back(k.CD);
        Cm.push_back(k.Cm);
        drag.push_back(k.CD * newtons);
        bandL.push_back(band.CL);
        bandD.push_back(band.CD);
        bandM.push_back(band.Cm);
        bandDrag.push_back(band.CD * newtons);
        known.push_back(r.gridBand().has_value());
    }
    /// A point that has no value: the curve is not joined across it.
    void addGap(double at) {
        if (a.empty()) return;
        a.push_back(at);
        for (auto* v : {&CL, &CD, &Cm, &drag}) v->push_back(std::nan(""));
        for (auto* v : {&bandL, &bandD, &bandM, &bandDrag}) v->push_back(0.0);
        known.push_back(false);
    }
};
}  // namespace

void BalanceStage::plotPolars() {
    auto &top = middle_.upper(), &bottom = middle_.lower();
    std::map<Key, Series> series;
    auto reports = document_.reports();
    const auto by = [](auto value) {
        return [value](const auto& p, const auto& q) { return value(p.point.condition) < value(q.point.condition); };
    };
    const auto [least, most] =
        std::minmax_element(reports.begin(), reports.end(), by([](const auto& c) { return c.alpha_deg; }));
    const bool overAlpha =
        least != reports.end() && most->point.condition.alpha_deg - least->point.condition.alpha_deg > 1e-9;
    std::stable_sort(reports.begin(), reports.end(),
                     by([&](const auto& c) { return overAlpha ? c.alpha_deg : c.speed; }));
    const auto speed = base::unitNamed(base::speedUnits(), document_.settings().units.speed);
    const auto force = base::unitNamed(base::forceUnits(), document_.settings().units.force);
    const QString speedUnit = QString::fromUtf8(speed.symbol.data()),
                  forceUnit = QString::fromUtf8(force.symbol.data());
    for (const auto& r : reports) {
        const auto& c = r.point.condition;
        const double at = overAlpha ? c.alpha_deg : c.speed / speed.inSI;
        Key key{
            false, r.point.configuration, r.point.setUp, r.point.method, c.beta_deg, overAlpha ? c.speed : c.alpha_deg};
        const bool usable =
            r.result && r.state != campaign::PointState::OutOfDate && r.state != campaign::PointState::Diverged;
        if (!usable || r.provisional())
            if (const auto own = series.find(key); own != series.end()) own->second.addGap(at);
        if (!usable) continue;
        key.provisional = r.provisional();
        series[key].add(at, *r.result, r.result->wind.dynamicPressure() * r.result->reference.area / force.inSI);
    }
    // What all curves share is not said of each.
    const auto varies = [&](auto value) {
        return std::any_of(series.begin(), series.end(),
                           [&](const auto& one) { return value(one.first) != value(series.begin()->first); });
    };
    const bool configurations = varies([](const Key&k) { return k.configuration; }),
               setUps = varies([](const Key&k) { return k.setUp; });
    const bool methods = varies([](const Key& k) { return k.method; });
    const bool betas = varies([](const Key& k) { return k.beta; });
    const auto nameOf = [&](const Key& k) {
        QStringList words;
        const auto shown = [](const std::string& name) { return QString::fromStdString(campaign::shownName(name)); };
        if (configurations) words << shown(k.configuration);
        if (setUps) words << shown(k.setUp);
        if (methods) words << tr(campaign::nameOf(k.method).shown);
        words << (overAlpha ? QString("%1 %2").arg(k.other / speed.inSI, 0, 'g', 4).arg(speedUnit)
                            : tr("alpha %1\u00b0").arg(k.other));
        if (betas) words << tr("beta %1\u00b0").arg(k.beta);
        if (k.provisional) words << tr("~ provisional");
        return words.join(", ");
    };
    if (overAlpha) {
        top.begin(tr("alpha [deg]"), tr("CL (line) and Cm (dashed)"));
        bottom.begin("CD", "CL");
    } else {
        top.begin(tr("speed [%1]").arg(speedUnit), "CD");
        bottom.begin(tr("speed [%1]").arg(speedUnit), tr("drag [%1]").arg(forceUnit));
    }
    std::size_t i = 0;
    for (const auto& [key, s] : series) {
        const QColor colour = look::curve(i++);
        // Methods are told apart by more than their colour.
        const auto line = key.provisional                         ? Qt::NoPen
                          : key.method == campaign::Method::Field ? Qt::SolidLine
                                                                  : Qt::DashDotLine;
        if (overAlpha) {
            top.addMeasured(nameOf(key), {s.a, s.CL, s.bandL, {}, s.known}, colour, line);
            top.addMeasured("Cm, " + nameOf(key), {s.a, s.Cm, s.bandM, {}, s.known}, colour,
                            key.provisional ? Qt::NoPen : Qt::DashLine, false);
            bottom.addMeasured(nameOf(key), {s.CD, s.CL, s.bandL, s.bandD, s.known}, colour, line);
        } else {
            top.addMeasured(nameOf(key), {s.a, s.CD, s.bandD, {}, s.known}, colour, line);
            bottom.addMeasured(nameOf(key), {s.a, s.drag, s.bandDrag, {}, s.known}, colour, line);
        }
    }
    if (overAlpha) plotQuick();
    top.finish();
    bottom.finish();
    middle_.showPlots(true);
}

// Under what was run, and before anything was.
void BalanceStage::plotQuick() {
    quick_.wanted();
    const auto& quick = quick_.points();
    if (!quick) return;
    const QString words = quick->ofOutline ? tr("flat lifting surface of the outline, no profile drag")
                                           : tr("lifting surface, no profile drag");
    middle_.upper().add(words, quick->alpha_deg, quick->CL, look::faint, 2);
    middle_.lower().add(words, quick->CD, quick->CL, look::faint, 2);
}

void BalanceStage::plotSpan() {
    walls_.wanted();
    auto &top = middle_.upper(), &bottom = middle_.lower();
    top.begin("y [m]", tr("lift per span / q [m]"));
    bottom.begin("y [m]", tr("bending moment about x / q [m\u00b3]"));
    const auto* r = document_.selectedReport();
    if (!walls_.ready() || !r || !r->result) {
        spanWords_->setText(walls_.excuse());
    } else {
        try {
            constexpr int kStrips = 60;
            const auto& f = walls_.fields();
            const auto loading = readout::loadingAlong(*f.grid, *f.geometry, f.wall, f.wind, Vec3::UnitY(), kStrips);
            const Vec3 way = f.wind.liftAxis();
            const double q = f.wind.dynamicPressure();
            const auto carried = readout::carriedBeyond(loading, way);
            std::vector<double> y, lift, inner, bending;
            for (std::size_t i = 0; i < loading.strips.size(); ++i) {
                const auto& s = loading.strips[i];
                y.push_back(s.middle());
                lift.push_back(s.force().dot(way) / q / (s.to - s.from));
                // Of a whole model from the middle outwards; the other half carries as much.
                if (s.from < -1e-9 * std::abs(s.to)) continue;
                inner.push_back(s.from);
                bending.push_back(carried.bending[i] / q);
            }
            top.add(tr("lift"), y, lift, look::curve(0), 0);
            bottom.add(tr("starboard half"), inner, bending, look::curve(0), 0);
            const auto e = readout::spanEfficiency(loading, way, r->result->halfModel);
            spanWords_->setText(
                tr("Lift %1 m\u00b2 of q%2.%3%4")
                    .arg(loading.total().dot(way) / q, 0, 'g', 4)
                    .arg(r->result->halfModel ? tr(" on the half that is computed") : QString())
                    .arg(e ? tr(" Span efficiency %1 by the distribution of lift.").arg(*e, 0, 'f', 3) : QString())
                    .arg(bending.empty()
                             ? QString()
                             : tr(" Bending moment at the root %1 N m.").arg(bending.front() * q, 0, 'g', 4)));
        } catch (const base::InputError& e) {
            spanWords_->setText(e.what());
        }
    }
    top.finish();
    bottom.finish();
    middle_.showPlots(true);
}

}  // namespace cvane::desk
