#pragma once
#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>

#include "campaign/store/holdings.h"
#include "desk/model/document.h"

namespace cvane::desk {

/// What runs and grids of the campaign take in space; deletes those that are ticked.
class CleanDialog : public QDialog {
    Q_OBJECT
  public:
    explicit CleanDialog(Document& document, QWidget* parent = nullptr);

  private:
    void read();
    void fill(std::vector<campaign::Holding> holdings);
    void tick(campaign::Holding::Use use);
    void count();
    void deleteTicked();
    Document& document_;
    std::vector<campaign::Holding> holdings_;
    QTableWidget* table_;
    QLabel* words_;
    QPushButton* delete_;
    Job<std::vector<campaign::Holding>> job_;
};

}  // namespace cvane::desk
