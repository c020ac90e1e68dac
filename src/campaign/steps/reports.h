#pragma once
#include <functional>
#include <map>
#include <mutex>

#include "campaign/steps/model_stage.h"
#include "campaign/store/point_report.h"

namespace cvane::campaign {

/// What models measure, found once for each model as it stands in the wind. May be asked from several threads.
class MeasureBook {
  public:
    /// Of a campaign as a configuration and set-up make it (Campaign::of). Throws InputError: the model cannot be read.
    ModelMeasures measures(const Campaign& resolved);
    air::Reference reference(const Campaign& resolved) {
        return resolveReference(resolved.settings.reference, measures(resolved), resolved.settings.tunnel.halfModel);
    }
    /// Notes measures that were found elsewhere.
    void note(const Campaign& resolved, const ModelMeasures& measures);

  private:
    std::mutex mutex_;
    std::map<std::string, ModelMeasures> known_;
};

/// How all points of the schedule stand, in the order in which they are run.
/// Throws InputError: a schedule or variant that makes no points, a model that cannot be read.
/// @param take  called with each; false ends it
void forEachReport(const Campaign& campaign, MeasureBook& book, const std::function<bool(PointReport)>& take);
std::vector<PointReport> reportsOf(const Campaign& campaign, MeasureBook& book);

/// How long the points will take that are not done [s], by the median of those of their configuration and set-up that
/// are, else of all; empty: none is done, or none is left.
std::optional<double> secondsForeseen(const std::vector<PointReport>& reports);

/// The point of this name. Throws InputError: there is none.
Point pointNamed(const Settings& settings, const std::string& name);

}  // namespace cvane::campaign
