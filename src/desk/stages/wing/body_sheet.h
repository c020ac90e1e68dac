#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <array>

#include "desk/stages/wing/cell_table.h"
#include "desk/stages/wing/edit_aircraft.h"

namespace cvane::desk {

/// The bodies of an aircraft, of which one at a time is seen: its place, and its frames from nose to tail.
class BodySheet : public QWidget {
    Q_OBJECT
  public:
    explicit BodySheet(EditAircraft edit);
    void fill(const wing::Aircraft& aircraft, const ShownLength& length);

  private:
    void add();
    void takeOut();
    void insertFrame();
    void removeFrame();
    void typed(int row, int column, const QString& text);
    void show();
    EditAircraft edit_;
    QComboBox* bodies_;
    QWidget* one_;
    std::array<QDoubleSpinBox*, 3> place_{};
    QCheckBox* mirrored_;
    CellTable* frames_;
    wing::Aircraft aircraft_;
    std::size_t body_ = 0;
    ShownLength length_;
    bool filling_ = false;
};

}  // namespace cvane::desk
