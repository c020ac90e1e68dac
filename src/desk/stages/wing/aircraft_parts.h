#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QTableWidget>
#include <array>
#include <functional>

#include "wing/aircraft.h"

namespace cvane::desk {

/// Changes the aircraft as one step of undo.
using EditAircraft = std::function<void(const QString& intent, const std::function<void(wing::Aircraft&)>& edit)>;

/// The unit in which lengths are shown.
struct ShownLength {
    double inSI = 1.0;
    QString name;  ///< "m"
};

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
