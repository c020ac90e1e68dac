#pragma once
#include <QComboBox>
#include <QTableWidget>

#include "desk/model/field_loader.h"
#include "desk/model/quick_curve.h"
#include "desk/stages/findings_note.h"
#include "desk/stages/stage.h"

namespace cvane::desk {

/// Coefficients, forces and shares of the selected point, whole and by part; slopes and neutral point of its polar;
/// polars of all points, its loading along the span.
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
    std::vector<readout::Result> polar() const;
    void fillSlopes();
    void plotPolars();
    void plotSpan();
    void plotQuick();
    FieldLoader walls_;  ///< of the selected point
    QuickCurve quick_;
    QTableWidget *table_, *slopes_;
    QLabel *words_, *slopeWords_, *spanWords_;
    QComboBox* plot_;
    FindingsNote* findings_;
};

}  // namespace cvane::desk
