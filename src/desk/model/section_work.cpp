#include "desk/model/section_work.h"

#include <algorithm>

#include "base/errors.h"
#include "base/units.h"

namespace cvane::desk {

SectionWork::SectionWork(Document& d) : document_(d) {
    pool_.setMaxThreadCount(2);  // a view must not wait for the polars
    timer_.setInterval(100);
    connect(&timer_, &QTimer::timeout, this, &SectionWork::takeFresh);
    document_.when(Change::Campaign | Change::Settings, this, [this] { listCurves(); });
}

double SectionWork::share() const {
    std::size_t known = 0, all = 0;
    for (const Curve& c : curves_) known += c.points.size(), all += c.asked.what.values.size();
    return all == 0 ? 1.0 : static_cast<double>(known) / static_cast<double>(all);
}

void SectionWork::listCurves() {
    std::vector<Curve> next;
    if (document_.isOpen())
        for (auto& asked : campaign::polarsAsked(document_.campaign())) {
            const auto known =
                std::find_if(curves_.begin(), curves_.end(), [&](const Curve& c) { return c.asked.key == asked.key; });
            Curve c{asked, {}, {}};
            if (known != curves_.end()) {
                c.points = known->points;
                c.before = known->before;
            } else {
                // The section was changed, or what it is computed for: its last polar stays beside the new one.
                const auto last = std::find_if(curves_.begin(), curves_.end(), [&](const Curve& old) {
                    return old.asked.section == asked.section &&
                           old.asked.what.flow.air.reynolds == asked.what.flow.air.reynolds;
                });
                if (last != curves_.end()) c.before = last->done() ? last->points : last->before;
            }
            if (!c.done())
                if (auto stored = campaign::storedPolar(document_.campaign(), asked.key)) c.points = std::move(*stored);
            next.push_back(std::move(c));
        }
    const bool same = std::equal(next.begin(), next.end(), curves_.begin(), curves_.end(), [](auto& a, auto& b) {
        return a.asked.key == b.asked.key && a.asked.section == b.asked.section;
    });
    if (same) return;
    curves_ = std::move(next);
    start();
    emit changed();
}

void SectionWork::goOn() {
    if (!running()) start();
}

void SectionWork::start() {
    job_.forget();
    {
        const std::lock_guard lock(mutex_);
        fresh_.clear();
    }
    if (std::all_of(curves_.begin(), curves_.end(), [](const Curve& c) { return c.done(); })) {
        timer_.stop();
        return;
    }
    timer_.start();
    job_.start(
        [this, c = document_.campaign()](const auto& wanted) -> QString {
            try {
                campaign::computeSections(c, [&](const campaign::PolarAsked& p, const section::PolarPoint& point) {
                    const std::lock_guard lock(mutex_);
                    fresh_.emplace_back(p.key, point);
                    return wanted();
                });
            } catch (const base::Cancelled&) {
            } catch (const std::exception& e) {
                return e.what();
            }
            return {};
        },
        [this](const QString& error) {
            takeFresh();
            timer_.stop();
            if (!error.isEmpty()) emit document_.problem(error);
            emit changed();
        });
}

void SectionWork::takeFresh() {
    std::vector<std::pair<std::string, section::PolarPoint>> fresh;
    {
        const std::lock_guard lock(mutex_);
        fresh.swap(fresh_);
    }
    for (auto& [key, point] : fresh)
        for (Curve& c : curves_) {
            if (c.asked.key != key) continue;
            const auto at = std::lower_bound(c.points.begin(), c.points.end(), point.asked,
                                             [](const auto& p, double v) { return p.asked < v - 1e-12; });
            if (at != c.points.end() && std::abs(at->asked - point.asked) < 1e-12)
                *at = point;
            else
                c.points.insert(at, point);
        }
    if (!fresh.empty()) emit changed();
}

void SectionWork::stop() {
    job_.cancel();
}

void SectionWork::look(const std::string& name, double reynolds, double alpha) {
    if (!document_.isOpen()) return;
    viewJob_.start(
        [c = document_.campaign(), name, reynolds, alpha](const auto&) {
            View v;
            v.section = name;
            try {
                for (const auto& e : c.settings.sections.sections)
                    if (e.name == name) v.outline = campaign::outlineOf(c, e);
                if (v.outline.points.empty()) return v;
                section::Panelling panelling;
                panelling.panels = c.settings.sections.panels;
                const section::PanelFlow flow(section::panelsOf(v.outline, panelling));
                section::PolarCase one;
                one.flow.air = {reynolds, c.settings.sections.mach};
                one.flow.nCritical = c.settings.sections.nCritical;
                one.flow.tripUpper = c.settings.sections.tripUpper, one.flow.tripLower = c.settings.sections.tripLower;
                // Near stall a point is reached from smaller angles only.
                const double step = 2.0 * base::degree;
                for (double a = std::min(alpha, 2.0 * base::degree); a < alpha - 1e-9; a += step)
                    if (alpha > 6.0 * base::degree) one.values.push_back(a);
                one.values.push_back(alpha);
                const auto points = section::computePolar(flow, one);
                const auto& p = points.back();
                if (p.state) {
                    v.figures = p.figures;
                    v.distribution = section::distributionOf(flow, one.flow, *p.state);
                } else {
                    v.figures = section::potentialFigures(flow, one.flow, alpha);
                    v.distribution = section::potentialDistribution(flow, one.flow, alpha);
                    v.trouble = tr("did not converge: drawn without friction");
                }
            } catch (const std::exception& e) {
                v.trouble = e.what();
            }
            return v;
        },
        [this](View v) {
            view_ = std::move(v);
            emit viewed();
        });
}

}  // namespace cvane::desk
