#pragma once
#include "command/report_content.h"

namespace cvane::command {

/// The section of models that were built from numbers: stations, what they measure, and what the lifting surface says
/// of the schedule's angles, without profile drag. Of each configuration that has an aircraft of its own.
void writeWing(report::Outline& out, ReportMaterial& material);

}  // namespace cvane::command
