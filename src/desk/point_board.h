#pragma once
#include <QTableWidget>

#include "desk/document.h"
#include "desk/run_queue.h"

namespace cvane::desk {

/// Speeds (and sideslips) across, angles of attack down; each tile shows a point's state and coefficients. Selecting a tile
/// selects that point everywhere; Enter runs it, Ctrl+C copies the board for a spreadsheet.
class PointBoard : public QTableWidget {
    Q_OBJECT
  public:
    PointBoard(Document& document, RunQueue& queue, QWidget* parent = nullptr);
    std::vector<int> selectedPoints() const;  ///< indices into the document's reports

  signals:
    void selectedPointsChanged();

  protected:
    void keyPressEvent(QKeyEvent* e) override;
    void contextMenuEvent(QContextMenuEvent* e) override;

  private:
    void refresh();
    void runSelected();
    Document& document_;
    RunQueue& queue_;
    bool showing_ = false;
};

}  // namespace cvane::desk
