#pragma once
#include <QPushButton>
#include <QWidget>
#include <vector>

#include "desk/stages/stage.h"

namespace cvane::desk {

/// The stages of the work from top to bottom, each with its state in a word and its key figure. Keys go there.
class StageRail : public QWidget {
    Q_OBJECT
  public:
    explicit StageRail(std::vector<Stage*> stages, QWidget* parent = nullptr);
    void setCurrent(int index);
    void showCurrent();  ///< scrolls to the step that is shown
    void refresh();
    /// Stages of the tunnel's work out of sight, for a campaign that has sections alone. Their keys rest.
    void setFolded(bool folded);

  signals:
    void chosen(int index);

  private:
    QString keyOf(std::size_t stage) const;
    std::vector<Stage*> stages_;
    std::vector<QPushButton*> buttons_;
    std::vector<QWidget*> ofTunnel_;  ///< buttons and captions that a campaign without a model has no use for
    QLabel* folded_ = nullptr;        ///< says what is out of sight
};

}  // namespace cvane::desk
