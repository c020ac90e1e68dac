#pragma once
#include <QWidget>

namespace cvane::desk {

/// Gives each field of a sheet the words beside it as its name for screen readers, and each label its field, so that
/// the label's key leads there. Fields that have a name keep it.
void nameFields(QWidget& sheet);

}  // namespace cvane::desk
