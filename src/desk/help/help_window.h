#pragma once
#include <QTextBrowser>

namespace cvane::desk {

/// docs/guide.md as it is installed or stands beside the program's source, open at a heading.
class HelpWindow : public QTextBrowser {
    Q_OBJECT
  public:
    explicit HelpWindow(QWidget* parent);
    void openAt(const QString& heading);

  protected:
    /// Pictures are as wide as the window has room for.
    QVariant loadResource(int type, const QUrl& name) override;

  private:
    bool found_ = false;
};

}  // namespace cvane::desk
