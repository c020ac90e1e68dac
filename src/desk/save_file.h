#pragma once
#include <QString>

class QWidget;

namespace cvane::desk {

/// A file's name with the ending of the chosen kind ("Films (*.mp4 *.webm)"), or else of what was proposed, where it
/// was typed without one.
QString withEnding(const QString& file, const QString& kind, const QString& proposal);

/// Asks where to save. Empty: nowhere, or onto a file that a campaign keeps for itself, which the message line says.
QString askWhereToSave(QWidget* parent, const QString& title, const QString& proposal, const QString& kinds = {});

/// The same for a film, which becomes numbered pictures where nothing can join them.
/// @param stem  of the proposal, without an ending
QString askWhereToSaveFilm(QWidget* parent, const QString& title, const QString& stem);

}  // namespace cvane::desk
