#include "desk/model/section_work.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "base/errors.h"
#include "base/units.h"

namespace cvane::desk {

SectionWork::SectionWork(Document& d) : document_(d) {
    pool_.setMaxThreadCount(4);  // a view waits neither for the polars nor for the field
    timer_.setInterval(100);
    connect(&timer_, &QTimer::timeout, this, &SectionWork::takeFresh);
    document_.when(Change::Campaign, this, [this] {
        fieldJob_.forget();
        fieldWords_.clear();
        listCurves(true);
        emit fieldMoved();
    });
    document_.when(Change::Settings, this, [this] { listCurves(false); });
}

double SectionWork::share() const {
    std::size_t known = 0, all = 0;
    for (const Curve& c : curves_)
        if (!c.field) known += c.points.size(), all += c.asked.what.values.size();
    return all == 0 ? 1.0 : static_cast<double>(known) / static_cast<double>(all);
}

void SectionWork::listCurves(bool anew) {
    if (!anew && document_.settings().sections == listed_) return;
    listed_ = document_.settings().sections;
    std::vector<Curve> next;
    if (document_.isOpen())
        for (auto& asked : campaign::polarsAsked(document_.campaign())) {
            const auto known =
                std::find_if(curves_.begin(), curves_.end(), [&](const Curve& c) { return c.asked.key == asked.key; });
            Curve c{asked, false, {}, {}, {}};
            if (known != curves_.end()) {
                c.points = known->points;
                c.before = known->before;
            } else {
                // The section was changed, or what it is computed for: its last polar stays beside the new one.
                const auto last = std::find_if(curves_.begin(), curves_.end(), [&](const Curve& old) {
                    const auto &a = old.asked.what.flow, &b = asked.what.flow;
                    return !old.field && old.asked.section == asked.section &&
                           old.asked.flapTurn_deg == asked.flapTurn_deg && a.air == b.air && a.nCritical == b.nCritical;
                });
                if (last != curves_.end()) c.before = last->done() ? last->points : last->before;
            }
            if (!c.done())
                if (auto stored = campaign::storedPolar(document_.campaign(), asked.key)) c.points = std::move(*stored);
            next.push_back(std::move(c));
        }
    const auto panels = std::find_if(curves_.begin(), curves_.end(), [](const Curve& c) { return c.field; });
    const bool same = std::equal(next.begin(), next.end(), curves_.begin(), panels, [](auto& a, auto& b) {
        return a.asked.key == b.asked.key && a.asked.section == b.asked.section;
    });
    if (!same) {
        curves_ = std::move(next);
        start();
    }
    listFields();
    emit changed();
}

void SectionWork::listFields() {
    std::erase_if(curves_, [](const Curve& c) { return c.field; });
    if (!document_.isOpen()) return;
    for (const auto& asked : campaign::fieldsAsked(document_.campaign())) {
        Curve c;
        c.field = true;
        c.walls = campaign::storedFields(document_.campaign(), asked.key);
        if (c.walls.empty()) continue;
        c.asked.section = asked.section, c.asked.flapTurn_deg = asked.flapTurn_deg, c.asked.key = asked.key;
        c.asked.what.flow.air.reynolds = asked.what.reynolds;
        for (const auto& w : c.walls)
            c.points.push_back({w.alpha, campaign::figuresOf(w, asked.what.reynolds), nullptr});
        curves_.push_back(std::move(c));
    }
}

void SectionWork::solveInField(const std::string& name) {
    if (!document_.isOpen() || fieldRunning()) return;
    std::vector<std::string> keys;
    for (const auto& asked : campaign::fieldsAsked(document_.campaign()))
        if (asked.section == name) keys.push_back(asked.key);
    if (keys.empty()) {
        emit document_.problem(tr("Tick the section in the list: only those that are ticked are solved."));
        return;
    }
    timer_.start();
    fieldWords_ = tr("making the grid");
    fieldJob_.start(
        [this, c = document_.campaign(), keys](const auto& wanted) -> QString {
            try {
                campaign::computeSectionFields(
                    c, keys,
                    [&](const campaign::FieldAsked& asked, const campaign::FieldIteration& at) {
                        const std::lock_guard lock(mutex_);
                        freshWords_ = at.iteration == 0 ? tr("Re %1 M, %2 deg: coarse grid first")
                                                              .arg(asked.what.reynolds / 1e6, 0, 'g', 3)
                                                              .arg(at.alpha / base::degree, 0, 'g', 4)
                                                        : tr("Re %1 M, %2 deg: iteration %3, cl %4, cd %5")
                                                              .arg(asked.what.reynolds / 1e6, 0, 'g', 3)
                                                              .arg(at.alpha / base::degree, 0, 'g', 4)
                                                              .arg(at.iteration)
                                                              .arg(at.cl, 0, 'f', 3)
                                                              .arg(at.cd, 0, 'f', 5);
                        return wanted();
                    },
                    [&](const campaign::FieldAsked&, const campaign::SectionFieldPoint&) {
                        const std::lock_guard lock(mutex_);
                        freshField_ = true;
                    });
            } catch (const base::Cancelled&) {
                return tr("stopped");
            } catch (const std::exception& e) {
                return e.what();
            }
            return tr("solved");
        },
        [this](const QString& end) {
            takeFresh();
            fieldWords_ = end;
            listFields();
            emit changed();
            emit fieldMoved();
        });
    emit fieldMoved();
}

const campaign::SectionFieldPoint* SectionWork::fieldView() const {
    const campaign::SectionFieldPoint* best = nullptr;
    for (const Curve& c : curves_) {
        if (!c.field || c.asked.section != view_.section || c.asked.what.flow.air.reynolds != view_.reynolds ||
            c.asked.flapTurn_deg != 0.0)
            continue;
        for (const auto& p : c.walls) {
            const double off = std::abs(p.alpha - view_.figures.alpha);
            if (!p.blewUp && off < 0.25 * base::degree && (!best || off < std::abs(best->alpha - view_.figures.alpha)))
                best = &p;
        }
    }
    return best;
}

void SectionWork::makeGrid(const std::string& name) {
    if (!document_.isOpen()) return;
    gridJob_.start(
        [c = document_.campaign(), name](const auto&) {
            Gridded out;
            try {
                for (const auto& e : c.settings.sections.sections) {
                    if (e.name != name) continue;
                    campaign::SectionField what;
                    what.reynolds = c.settings.sections.reynolds.front(), what.level = c.settings.sections.fieldLevel;
                    const auto grid = campaign::sectionGrid(campaign::outlineOf(c, e), what);
                    for (const auto& patch : grid.patches) {
                        if (patch.name != "y-") continue;
                        for (int f = patch.first; f < patch.first + patch.count; ++f) {
                            const auto polygon = grid.polygon(f);
                            if (polygon.size() != 4) continue;
                            auto& cell = out.cells.emplace_back();
                            for (std::size_t k = 0; k < 4; ++k) {
                                const auto& p = grid.points[static_cast<std::size_t>(polygon[k])];
                                cell[k] = Eigen::Vector2d(p.x(), p.z()).cast<float>();
                            }
                        }
                    }
                }
            } catch (const std::exception& e) {
                out.trouble = e.what();
            }
            return out;
        },
        [this](Gridded g) {
            cells_ = std::move(g.cells);
            if (!g.trouble.isEmpty()) emit document_.problem(g.trouble);
            emit gridded();
        });
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
        if (!fieldRunning()) timer_.stop();
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
            if (!fieldRunning()) timer_.stop();
            if (!error.isEmpty()) emit document_.problem(error);
            emit changed();
        });
}

void SectionWork::takeFresh() {
    std::vector<std::pair<std::string, section::PolarPoint>> fresh;
    bool moved = false, field = false;
    {
        const std::lock_guard lock(mutex_);
        fresh.swap(fresh_);
        moved = !freshWords_.isEmpty();
        if (moved) fieldWords_ = std::exchange(freshWords_, {});
        field = std::exchange(freshField_, false);
    }
    if (field) listFields();
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
    if (!fresh.empty() || field) emit changed();
    if (moved) emit fieldMoved();
    if (!running() && !fieldRunning()) timer_.stop();
}

void SectionWork::stop() {
    job_.cancel();
}

void SectionWork::look(const std::string& name, double reynolds, double alpha) {
    if (!document_.isOpen()) return;
    viewJob_.start(
        [c = document_.campaign(), name, reynolds, alpha](const auto&) {
            View v;
            v.section = name, v.reynolds = reynolds;
            try {
                for (const auto& e : c.settings.sections.sections)
                    if (e.name == name) v.outline = campaign::outlineOf(c, e);
                if (v.outline.points.empty()) return v;
                section::Panelling panelling;
                panelling.panels = c.settings.sections.panels;
                const section::PanelFlow flow(section::panelsOf(v.outline, panelling));
                section::PolarCase one = campaign::polarCaseOf(c.settings.sections, reynolds);
                one.kind = section::PolarCase::Kind::FixedReynolds;
                one.values.clear();
                // Near stall a point is reached from smaller angles only.
                const double step = 2.0 * base::degree;
                if (alpha > 6.0 * base::degree)
                    for (int i = 1; i * step < alpha - 1e-9; ++i) one.values.push_back(i * step);
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
