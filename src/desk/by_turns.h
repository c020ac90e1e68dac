#pragma once
#include <QSplitter>
#include <QTabBar>
#include <QWidget>

namespace cvane::desk {

/// Two panes one above the other; where there is no height for both, one of them, and tabs to change.
class ByTurns : public QWidget {
    Q_OBJECT
  public:
    /// @param least  height [px] from which both are shown
    ByTurns(QWidget* upper, const QString& upperName, QWidget* lower, const QString& lowerName, int least);
    /// Of its tabs, where a window has several.
    void setName(const char* name) { tabs_->setObjectName(name); }
    bool areBothShown() const { return tabs_->isHidden(); }

  protected:
    void resizeEvent(QResizeEvent* e) override;

  private:
    void arrange();
    QTabBar* tabs_;
    QWidget *upper_, *lower_;
    int least_;
};

}  // namespace cvane::desk
