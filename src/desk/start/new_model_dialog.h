#pragma once
#include <QCheckBox>
#include <QDialog>
#include <QThreadPool>
#include <optional>
#include <vector>

#include "base/vec3.h"
#include "desk/model/job.h"

class QDialogButtonBox;
class QLabel;
class QLineEdit;
class QTableWidget;

namespace cvane::desk {

/// Asks in which unit a surface file's lengths are, with the size that each would give it, or how finely solids shall
/// be cut into facets; and for the campaign's folder. The file is read away from the window's thread.
class NewModelDialog : public QDialog {
    Q_OBJECT
  public:
    NewModelDialog(const QString& file, QWidget* parent);
    ~NewModelDialog() override;
    QString unit() const;
    QString folder() const;
    std::optional<double> facetTolerance() const;  ///< of solids [m]
    /// A box of air around solids and what it holds, where the tunnel shall be as large [m].
    std::optional<std::pair<Box, Box>> airAndModel() const;

  private:
    struct Read {
        Box bounds;
        int parts = 0, facets = 0;
        QString bodies;                                        ///< of solids: what they are, a sentence or more
        std::vector<std::pair<double, std::size_t>> facetsBy;  ///< of solids: tolerance [m], facets
        std::optional<std::pair<Box, Box>> airAndModel;
        QString error;
    };
    void show(const Read& read);
    void chooseFolder();
    QString file_;
    QLabel* says_;
    QTableWidget* units_;
    QLabel* question_;
    std::vector<double> tolerances_;
    QCheckBox* asTunnel_;
    std::optional<std::pair<Box, Box>> airAndModel_;
    QLineEdit* folder_;
    QDialogButtonBox* buttons_;
    QThreadPool pool_;
    Job<Read> job_{*this, pool_};
};

}  // namespace cvane::desk
