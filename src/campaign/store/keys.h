#pragma once
#include "campaign/plan/points.h"
#include "campaign/store/campaign.h"

namespace cvane::campaign {

/// Key of everything that the grid depends on: the model file's content, parts in the air, placement, tunnel, grid
/// settings, and the fastest wind where cells follow from it. Names of parts are not in it, nor settings at their
/// default.
std::string gridKey(const Campaign& campaign);

/// Key of what decides the flow of a point, on the settings of its configuration and set-up: grid, wind, model,
/// devices, the solver's version. How far it is iterated is not in it, so that a run can be extended; nor are reference
/// values, which are applied when a result is read.
std::string runKey(const Campaign& campaign, const Point& point);
/// The same whatever the solver's version.
std::string caseKey(const Campaign& campaign, const Point& point);

}  // namespace cvane::campaign
