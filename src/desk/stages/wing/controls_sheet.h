#pragma once
#include "desk/stages/wing/cell_table.h"
#include "desk/stages/wing/edit_aircraft.h"

namespace cvane::desk {

/// The controls of one lifting surface.
class ControlsSheet : public QWidget {
    Q_OBJECT
  public:
    explicit ControlsSheet(EditAircraft edit);
    void fill(const wing::Aircraft& aircraft, std::size_t surface, const ShownLength& length);

  private:
    void add(bool against);
    void takeOut();
    void typed(int row, int column, const QString& text);
    EditAircraft edit_;
    CellTable* table_;
    std::size_t surface_ = 0;
    ShownLength length_;
};

}  // namespace cvane::desk
