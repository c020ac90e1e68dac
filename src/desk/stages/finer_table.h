#pragma once
#include <QTableWidget>
#include <QWidget>

#include "desk/canvas.h"
#include "desk/model/document.h"

namespace cvane::desk {

/// Table of the places and parts that shall have smaller cells; each row is edited in place.
class FinerTable : public QWidget {
    Q_OBJECT
  public:
    FinerTable(Document& document, Canvas& canvas);

  private:
    void fill();
    void edited(int row, int column);
    void addPlace(grid::FinerPlace::Shape shape);
    void addPart();
    void removeRow();
    void placeInView(const Vec3& from, const Vec3& to, int axis);
    void change(const QString& intent, const std::function<void(grid::GridSettings&)>& how);

    Document& document_;
    QTableWidget* table_;
};

}  // namespace cvane::desk
