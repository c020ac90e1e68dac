#pragma once
#include <QString>

class QWidget;

namespace cvane::desk {

/// Asks where to save. Empty: nowhere, or onto a file that a campaign keeps for itself, which the message line says.
QString askWhereToSave(QWidget* parent, const QString& title, const QString& proposal, const QString& kinds = {});

}  // namespace cvane::desk
