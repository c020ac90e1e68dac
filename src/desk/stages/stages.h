#pragma once
#include <functional>
#include <vector>

#include "desk/model/run_queue.h"
#include "desk/stages/stage.h"

namespace cvane::desk {

/// The stages in the order of the work. A new one is a folder or file of its own and a line in stages.cpp.
using MakeStage = std::function<Stage*(Document&, Middle&, RunQueue&)>;
const std::vector<MakeStage>& stageMakers();

}  // namespace cvane::desk
