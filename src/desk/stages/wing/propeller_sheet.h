#pragma once
#include <QWidget>

#include "desk/stages/wing/cell_table.h"
#include "desk/stages/wing/edit_aircraft.h"

namespace cvane::desk {

/// The propellers of an aircraft, a line each.
class PropellerSheet : public QWidget {
    Q_OBJECT
  public:
    explicit PropellerSheet(EditAircraft edit);
    void fill(const wing::Aircraft& aircraft, const ShownLength& length);

  private:
    void add();
    void takeOut();
    void typed(int row, int column, const QString& text);
    EditAircraft edit_;
    CellTable* table_;
    ShownLength length_;
};

}  // namespace cvane::desk
