#pragma once
#include <QTableWidget>

namespace cvane::desk {

/// A table with its head as spreadsheets take it from the clipboard: parted by tabs.
QString tableText(const QTableWidget& table);

/// A table as high as its rows, so that the sheet around it is what scrolls. @param least  rows that it has room for
void fitRows(QTableWidget& table, int least = 1);

}  // namespace cvane::desk
