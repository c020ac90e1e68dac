#pragma once
#include <QUndoCommand>

#include "desk/model/document.h"

namespace cvane::desk {

/// One intent of the user, undone and redone as a whole. Steps of the same intent on the same stage that follow each
/// other closely are one: a number that was stepped up five times goes back at once.
class ChangeSettings : public QUndoCommand {
  public:
    ChangeSettings(Document& document, const QString& intent, campaign::Settings before, campaign::Settings after,
                   const QString& place);
    void undo() override;
    void redo() override;
    int id() const override { return 1; }
    bool mergeWith(const QUndoCommand* next) override;

  private:
    Document& document_;
    campaign::Settings before_, after_;
    QString place_;
    qint64 when_;        ///< [ms] since the epoch
    bool taken_ = true;  ///< its change holds already when it enters the list
};

}  // namespace cvane::desk
