#pragma once
#include <QWidget>

namespace cvane::desk {

/// From now on the mouse wheel scrolls a sheet even where the pointer passes over its fields; a field turns only once
/// it has been chosen. Otherwise scrolling past it would change a setting unnoticed. For the fields that the sheet has
/// now.
void keepWheelForScrolling(QWidget& sheet);

}  // namespace cvane::desk
