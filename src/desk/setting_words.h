#pragma once
#include <QString>

namespace cvane::desk {

/// A text with the names that settings have in files ("grid.cell_budget") replaced by their labels ("Cell budget").
QString withLabels(const QString& text);

}  // namespace cvane::desk
