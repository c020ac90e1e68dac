#pragma once
#include <QComboBox>
#include <optional>

#include "campaign/store/outside_data.h"
#include "desk/model/document.h"

namespace cvane::desk {

/// Which of the campaign's tables from elsewhere is shown beside what was computed; takes another one in.
class OutsidePicker : public QComboBox {
    Q_OBJECT
  public:
    /// @param says  what such a table has, for the file dialog
    OutsidePicker(Document& document, const QString& says, QWidget* parent = nullptr);
    void fill();  ///< with the tables that the campaign has now
    /// Takes a file into the campaign and chooses it. Errors go to the document.
    void take(const QString& file);
    /// The chosen table; nothing: none is chosen, or it cannot be read (which the document has then said).
    std::optional<campaign::OutsideData> data() const;

  signals:
    void picked();

  private:
    void ask();
    Document& document_;
    QString says_;
};

}  // namespace cvane::desk
