#pragma once
#include <QComboBox>
#include <QGroupBox>
#include <QLabel>
#include <QPushButton>
#include <nlohmann/json.hpp>

#include "desk/canvas.h"
#include "desk/model/document.h"
#include "desk/model/job.h"

namespace cvane::desk {

/// Views under names, several points at a time, and pictures and films of all of them.
class ViewPanel : public QGroupBox {
    Q_OBJECT
  public:
    enum class Panes { One, Two, Four, Difference };
    ViewPanel(Document& document, Canvas& canvas, std::function<std::vector<campaign::FlowItem>()> itemsNow);
    ~ViewPanel() override;
    Panes panes() const { return static_cast<Panes>(panes_->currentIndex()); }
    /// Keeps what is seen now under a name; one of that name is replaced.
    void keep(const QString& name);
    void showView(const QString& name);
    /// Draws numbered pictures, joined to a film where that can be, away from the window's thread.
    void draw(const QString& file);
    bool drawing() const { return job_.running(); }

  signals:
    void panesChanged();

  private:
    struct Told {
        QString text;
    };
    void fill();
    void askAndDraw();
    void say(const QString& text);

    Document& document_;
    Canvas& canvas_;
    std::function<std::vector<campaign::FlowItem>()> itemsNow_;
    QThreadPool pool_;
    Job<Told> job_{*this, pool_};
    QComboBox *views_, *panes_, *what_, *size_;
    QPushButton *draw_, *stop_;
    QLabel* words_;
};

}  // namespace cvane::desk
