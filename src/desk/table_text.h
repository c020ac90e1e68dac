#pragma once
#include <QTableWidget>

namespace cvane::desk {

/// A table with its head as spreadsheets take it from the clipboard: parted by tabs.
QString tableText(const QTableWidget& table);

}  // namespace cvane::desk
