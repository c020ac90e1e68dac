#include "desk/model/change_settings.h"

#include <QDateTime>

namespace cvane::desk {

namespace {
constexpr qint64 kClosely_ms = 1500;
}

ChangeSettings::ChangeSettings(Document& d, const QString& intent, campaign::Settings before, campaign::Settings after,
                               const QString& place)
    : QUndoCommand(intent),
      document_(d),
      before_(std::move(before)),
      after_(std::move(after)),
      place_(place),
      when_(QDateTime::currentMSecsSinceEpoch()) {}

void ChangeSettings::undo() {
    // What cannot be saved stays as it is, and is no longer to be undone.
    if (!document_.take(before_)) setObsolete(true);
    emit document_.undoneAt(place_);
}

void ChangeSettings::redo() {
    if (taken_) {
        taken_ = false;
        return;
    }
    if (!document_.take(after_)) setObsolete(true);
    emit document_.undoneAt(place_);
}

bool ChangeSettings::mergeWith(const QUndoCommand* other) {
    const auto* next = static_cast<const ChangeSettings*>(other);
    if (next->text() != text() || next->place_ != place_ || next->when_ - when_ > kClosely_ms) return false;
    after_ = next->after_;
    when_ = next->when_;
    return true;
}

}  // namespace cvane::desk
