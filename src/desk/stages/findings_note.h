#pragma once
#include <QLabel>

#include "desk/model/document.h"

namespace cvane::desk {

/// What looks wrong before a run or in a result, each line with the way to mend it or to the place where it is.
class FindingsNote : public QLabel {
    Q_OBJECT
  public:
    /// @param change  takes an assignment (as for setField) that mends something
    FindingsNote(Document& document, std::function<void(const QString& assignment)> change);
    void showPreflight();
    void showAfterflight();  ///< of the selected point

  private:
    void follow(const QString& link);
    Document& document_;
    std::function<void(const QString&)> change_;
};

}  // namespace cvane::desk
