#pragma once
#include "command/action.h"

namespace cvane::command {

std::vector<Action> settingActions();   ///< new, set, parts, finer, configuration, set-up
std::vector<Action> scheduleActions();  ///< condition, group, hold, vary, points
std::vector<Action> gasActions();       ///< gases
std::vector<Action> solidActions();     ///< solids
std::vector<Action> deviceActions();    ///< wheel, rough, disc, porous
std::vector<Action> workActions();      ///< check, grid, run, save
std::vector<Action> readingActions();   ///< table, difference, cut
std::vector<Action> fieldActions();     ///< probe, slice, streamlines, profile, export, quantities
std::vector<Action> pictureActions();   ///< picture, film
std::vector<Action> numberActions();    ///< read, slopes, compare, loading, survey
std::vector<Action> reportActions();    ///< report
std::vector<Action> studyActions();     ///< study
std::vector<Action> batchActions();     ///< batch
std::vector<Action> manualActions();    ///< manual
std::vector<Action> storeActions();     ///< index, clean
std::vector<Action> sectionActions();   ///< section
std::vector<Action> wingActions();      ///< wing

}  // namespace cvane::command
