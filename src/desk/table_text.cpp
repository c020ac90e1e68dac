#include "desk/table_text.h"

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

}  // namespace cvane::desk
