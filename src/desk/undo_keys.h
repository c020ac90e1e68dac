#pragma once
class QObject;

namespace cvane::desk {

/// From now on Ctrl+Z and Ctrl+Shift+Z in a field in which nothing of one's own typing can be taken back are those of
/// the window. A field keeps them to itself otherwise, and a step that it entered could not be undone from there.
/// @param window  while it lives
void passUndoOn(QObject& window);

}  // namespace cvane::desk
