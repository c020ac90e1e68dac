#include "campaign/steps/section_stage.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "base/errors.h"
#include "base/units.h"
#include "section/polar/batch.h"

namespace cvane::campaign {

void computeSections(const Campaign& c, const OnSectionPoint& onPoint) {
    std::map<std::pair<std::string, double>, std::size_t> place;
    std::vector<std::shared_ptr<const section::PanelFlow>> flows;
    std::vector<section::BatchJob> jobs;
    std::vector<PolarAsked> asked;
    for (const auto& p : polarsAsked(c)) {
        const auto stored = storedPolar(c, p.key);
        if (stored && stored->size() == p.what.values.size()) continue;
        const auto [at, fresh] = place.try_emplace({p.section, p.flapTurn_deg}, flows.size());
        if (fresh)
            flows.push_back(std::make_shared<const section::PanelFlow>(section::panelsOf(p.outline, p.panelling)));
        jobs.push_back({at->second, p.what});
        asked.push_back(p);
    }
    std::vector<std::map<double, section::PolarPoint>> known(jobs.size());
    const auto store = [&](std::size_t k) {
        std::vector<section::PolarPoint> all;
        for (const auto& [value, p] : known[k]) all.push_back(p);
        storePolar(c, asked[k], all);
    };
    try {
        section::computeBatch(flows, jobs, [&](std::size_t k, const section::PolarPoint& point) {
            known[k][point.asked] = point;
            // Points that come again were mended on the way back: what is stored grows better with them.
            if (known[k].size() == jobs[k].what.values.size()) store(k);
            return !onPoint || onPoint(asked[k], point);
        });
    } catch (const base::Cancelled&) {
        for (std::size_t k = 0; k < jobs.size(); ++k)
            if (!known[k].empty()) store(k);
        throw;
    }
}

void computeSectionFields(const Campaign& c, const std::vector<std::string>& keys, const OnFieldIteration& onIteration,
                          const OnFieldPoint& onPoint) {
    std::vector<double> angles;
    for (const double a : c.settings.sections.fieldAngles_deg) angles.push_back(a * base::degree);
    for (const auto& asked : fieldsAsked(c)) {
        if (!keys.empty() && std::find(keys.begin(), keys.end(), asked.key) == keys.end()) continue;
        const auto stored = storedFields(c, asked.key);
        std::vector<double> missing;
        for (const double a : angles)
            if (std::none_of(stored.begin(), stored.end(),
                             [&](const auto& p) { return p.settled && std::abs(p.alpha - a) < 1e-9; }))
                missing.push_back(a);
        if (missing.empty()) continue;
        solveSectionField(
            asked.outline, asked.what, missing,
            [&](double alpha, int iteration, double cl, double cd) {
                return !onIteration || onIteration(asked, {alpha, iteration, cl, cd});
            },
            [&](const SectionFieldPoint& p) {
                storeField(c, asked, p);
                if (onPoint) onPoint(asked, p);
            });
    }
}

}  // namespace cvane::campaign
