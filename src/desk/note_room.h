#pragma once
#include <QLabel>
#include <QScrollArea>

namespace cvane::desk {

/// A place of so many lines for a note that comes, grows and goes, so that nothing below it moves; longer ones scroll.
QScrollArea* roomFor(QLabel* note, int lines);

}  // namespace cvane::desk
