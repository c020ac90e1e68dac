#include "desk/table_text.h"

#include <QHeaderView>
#include <QScrollBar>
#include <algorithm>

namespace cvane::desk {

QString tableText(const QTableWidget& table) {
    QString text;
    for (int c = 0; c < table.columnCount(); ++c) text += (c > 0 ? "\t" : "") + table.horizontalHeaderItem(c)->text();
    for (int r = 0; r < table.rowCount(); ++r) {
        text += "\n";
        for (int c = 0; c < table.columnCount(); ++c)
            text += (c > 0 ? "\t" : "") + (table.item(r, c) ? table.item(r, c)->text() : QString());
    }
    return text;
}

void fitRows(QTableWidget& table, int least) {
    const int row = table.verticalHeader()->defaultSectionSize();
    int height = table.horizontalHeader()->sizeHint().height() + 2 * table.frameWidth() +
                 table.horizontalScrollBar()->sizeHint().height();
    for (int i = 0; i < std::max(least, table.rowCount()); ++i)
        height += i < table.rowCount() ? table.rowHeight(i) : row;
    table.setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    table.setFixedHeight(height);
}

}  // namespace cvane::desk
