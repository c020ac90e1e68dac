#include "desk/wheel_guard.h"

#include <QAbstractSlider>
#include <QAbstractSpinBox>
#include <QComboBox>
#include <QEvent>
#include <QScrollBar>

#include "desk/plot.h"

namespace cvane::desk {
namespace {

class WheelGuard : public QObject {
  public:
    using QObject::QObject;
    bool eventFilter(QObject* watched, QEvent* e) override {
        if (e->type() != QEvent::Wheel || static_cast<QWidget*>(watched)->hasFocus()) return false;
        e->ignore();  // goes on to the parent
        return true;
    }
};

}  // namespace

void keepWheelForScrolling(QWidget& sheet) {
    auto* guard = new WheelGuard(&sheet);
    for (auto* field : sheet.findChildren<QWidget*>()) {
        if (qobject_cast<QScrollBar*>(field) ||
            !(qobject_cast<QComboBox*>(field) || qobject_cast<QAbstractSpinBox*>(field) ||
              qobject_cast<QAbstractSlider*>(field) || qobject_cast<Plot*>(field)))
            continue;
        field->setFocusPolicy(Qt::StrongFocus);  // without the wheel, which would choose it on the way
        field->installEventFilter(guard);
    }
}

}  // namespace cvane::desk
