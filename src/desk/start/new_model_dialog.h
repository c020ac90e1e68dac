#pragma once
#include <QDialog>
#include <QThreadPool>

#include "base/vec3.h"
#include "desk/model/job.h"

class QDialogButtonBox;
class QLabel;
class QLineEdit;
class QTableWidget;

namespace cvane::desk {

/// Asks in which unit a surface file's lengths are, with the size that each would give it, and for the campaign's
/// folder. The file is read away from the window's thread.
class NewModelDialog : public QDialog {
    Q_OBJECT
  public:
    NewModelDialog(const QString& file, QWidget* parent);
    ~NewModelDialog() override;
    QString unit() const;
    QString folder() const;

  private:
    struct Read {
        Box bounds;
        int parts = 0, facets = 0;
        QString error;
    };
    void show(const Read& read);
    void chooseFolder();
    QString file_;
    QLabel* says_;
    QTableWidget* units_;
    QLineEdit* folder_;
    QDialogButtonBox* buttons_;
    QThreadPool pool_;
    Job<Read> job_{*this, pool_};
};

}  // namespace cvane::desk
