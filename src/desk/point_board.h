#pragma once
#include <QTableView>

#include "desk/model/point_model.h"
#include "desk/model/run_queue.h"

namespace cvane::desk {

/// The matrix of points; each tile shows a point's state and coefficients. Selecting a tile selects that point
/// everywhere; Enter runs what is not done of the selected ones, Ctrl+C copies the board for a spreadsheet. The menu
/// chooses what stands in rows.
class PointBoard : public QTableView {
    Q_OBJECT
  public:
    PointBoard(PointModel& points, RunQueue& queue, QWidget* parent = nullptr);
    std::vector<campaign::Point> selectedPoints() const;
    BoardModel& board() { return board_; }

  signals:
    void fits(int height);  ///< its rows are all seen with this height

  protected:
    void keyPressEvent(QKeyEvent* e) override;
    void contextMenuEvent(QContextMenuEvent* e) override;

  private:
    void showSelection();
    void fitHeight();
    void runSelected();
    void runSelectedAnew();
    Document& document_;
    RunQueue& queue_;
    BoardModel board_;
    bool showing_ = false;
};

}  // namespace cvane::desk
