#include "campaign/steps/section_stage.h"

#include <map>

#include "base/errors.h"
#include "section/polar/batch.h"

namespace cvane::campaign {

void computeSections(const Campaign& c, const OnSectionPoint& onPoint) {
    std::map<std::string, std::size_t> place;
    std::vector<std::shared_ptr<const section::PanelFlow>> flows;
    std::vector<section::BatchJob> jobs;
    std::vector<PolarAsked> asked;
    for (const auto& p : polarsAsked(c)) {
        if (storedPolar(c, p.key)) continue;
        if (!place.contains(p.section)) {
            for (const auto& e : c.settings.sections.sections)
                if (e.name == p.section)
                    flows.push_back(
                        std::make_shared<const section::PanelFlow>(section::panelsOf(outlineOf(c, e), p.panelling)));
            place[p.section] = flows.size() - 1;
        }
        jobs.push_back({place[p.section], p.what});
        asked.push_back(p);
    }
    std::vector<std::map<double, section::PolarPoint>> known(jobs.size());
    section::computeBatch(flows, jobs, [&](std::size_t k, const section::PolarPoint& point) {
        known[k][point.asked] = point;
        if (known[k].size() == jobs[k].what.values.size()) {
            // Points that come again were mended on the way back: what is stored grows better with them.
            std::vector<section::PolarPoint> all;
            for (const auto& [value, p] : known[k]) all.push_back(p);
            storePolar(c, asked[k], all);
        }
        return !onPoint || onPoint(asked[k], point);
    });
}

}  // namespace cvane::campaign
