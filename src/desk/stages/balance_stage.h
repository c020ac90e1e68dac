#pragma once
#include <QTableWidget>

#include "desk/stages/findings_note.h"
#include "desk/stages/stage.h"

namespace cvane::desk {

/// Coefficients, forces and shares of the selected point, whole and by part; polars of all points.
class BalanceStage : public Stage {
    Q_OBJECT
  public:
    BalanceStage(Document& document, Middle& middle);
    QString title() const override { return "Balance"; }
    Group group() const override { return Group::Reading; }
    bool draws() const override { return false; }
    QString keyFigure() const override;
    State state() const override;
    Need need() const override { return needOfResult(); }
    void show() override;

  private:
    void fill();
    void fillTable(const readout::Result& result);
    static QString ofDrag(const readout::Result& result);
    QTableWidget* table_;
    QLabel* words_;
    FindingsNote* findings_;
};

}  // namespace cvane::desk
