#include "desk/stages/wing/cell_table.h"

#include <QHeaderView>

#include "desk/table_text.h"

namespace cvane::desk {

QString inCell(double value) {
    return QString::number(value, 'g', 6);
}

CellTable::CellTable(const char* name, const QString& words, const QString& tip) {
    setObjectName(name);
    setAccessibleName(words);
    setToolTip(tip);
    verticalHeader()->hide();
    horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    setMinimumWidth(1);  // what does not fit is scrolled to
    setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    connect(this, &QTableWidget::cellChanged, this, [this](int row, int column) {
        if (filling_) return;
        const auto* cell = item(row, column);
        const bool box = cell->data(Qt::CheckStateRole).isValid();
        emit typed(row, column, !box ? cell->text().trimmed() : cell->checkState() == Qt::Checked ? "true" : "false");
    });
}

void CellTable::fill(const QStringList& heads, const std::vector<QStringList>& rows, int leastRows) {
    filling_ = true;
    setColumnCount(static_cast<int>(heads.size()));
    setHorizontalHeaderLabels(heads);
    setRowCount(static_cast<int>(rows.size()));
    for (int r = 0; r < rowCount(); ++r)
        for (int c = 0; c < columnCount(); ++c) {
            const QString& text = rows[static_cast<std::size_t>(r)][c];
            auto* cell = new QTableWidgetItem;
            if (text == "true" || text == "false") {
                cell->setFlags(cell->flags() & ~Qt::ItemIsEditable);
                cell->setCheckState(text == "true" ? Qt::Checked : Qt::Unchecked);
            } else {
                cell->setText(text);
            }
            setItem(r, c, cell);
        }
    filling_ = false;
    fitRows(*this, leastRows);
}

}  // namespace cvane::desk
