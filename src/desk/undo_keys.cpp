#include "desk/undo_keys.h"

#include <QAbstractSpinBox>
#include <QCoreApplication>
#include <QKeyEvent>
#include <QLineEdit>

namespace cvane::desk {
namespace {
class UndoKeys : public QObject {
  public:
    using QObject::QObject;
    bool eventFilter(QObject* watched, QEvent* e) override {
        if (e->type() != QEvent::ShortcutOverride) return false;
        auto* line = qobject_cast<QLineEdit*>(watched);
        if (!line && qobject_cast<QAbstractSpinBox*>(watched)) line = watched->findChild<QLineEdit*>();
        const auto* key = static_cast<QKeyEvent*>(e);
        if (!line || line->isModified() || !(key->matches(QKeySequence::Undo) || key->matches(QKeySequence::Redo)))
            return false;
        e->ignore();
        return true;
    }
};
}  // namespace

void passUndoOn(QObject& window) {
    QCoreApplication::instance()->installEventFilter(new UndoKeys(&window));
}

}  // namespace cvane::desk
