#pragma once
#include <QListWidget>
#include <QWidget>

class QVBoxLayout;

namespace cvane::desk {

/// What the window shows while no campaign is open: the ways to one.
class StartPage : public QWidget {
    Q_OBJECT
  public:
    explicit StartPage(QWidget* parent = nullptr);
    void refresh();  ///< reads the recent campaigns again

  signals:
    void wantsModel();
    void wantsSections();
    void wantsWing();
    void wantsOutline();
    void wantsOpen();
    void opens(const QString& folder);

  private:
    void fillDemos(QVBoxLayout* column);
    QListWidget* recent_;
    QWidget* none_;
};

/// Folder of the demo campaigns beside the program; empty: they are not installed.
QString demoFolder();

}  // namespace cvane::desk
