#pragma once
#include <QTableWidget>

namespace cvane::desk {

/// A number as a cell shows it.
QString inCell(double value);

/// A small table whose cells are typed into.
class CellTable : public QTableWidget {
    Q_OBJECT
  public:
    CellTable(const char* name, const QString& words, const QString& tip);
    /// Of a cell that holds `true` or `false` a box to tick is shown.
    void fill(const QStringList& heads, const std::vector<QStringList>& rows, int leastRows);

  signals:
    void typed(int row, int column, const QString& text);  ///< "true" or "false" of a box

  private:
    bool filling_ = false;
};

}  // namespace cvane::desk
