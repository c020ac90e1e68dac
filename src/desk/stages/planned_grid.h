#pragma once
#include <QString>
#include <functional>
#include <memory>

#include "base/errors.h"
#include "campaign/steps/grid_stage.h"
#include "desk/model/job.h"

namespace cvane::desk {

/// Works out beside the window, as `job`, what the grid of a campaign will be.
/// @param placed  its model as it stands in the wind
/// @param words   of the plan; where there can be none, its error takes their place, and a plan that is wanted no more
///                has none
/// @param done    takes them, on the window's thread
inline void planGrid(Job<QString>& job, const campaign::Campaign& c, std::shared_ptr<const shape::Surface> placed,
                     std::function<QString(const grid::Plan&)> words, std::function<void(QString)> done) {
    job.start(
        [c, placed = std::move(placed), words = std::move(words)](const Job<QString>::Wanted& wanted) -> QString {
            try {
                return words(campaign::plannedGrid(c, *placed, [&](double, std::string_view) { return wanted(); }));
            } catch (const base::Cancelled&) {
                return {};
            } catch (const std::exception& e) {
                return e.what();
            }
        },
        std::move(done));
}

}  // namespace cvane::desk
