#pragma once
#include <QLabel>
#include <QPointer>
#include <QStringList>
#include <QWidget>

class QPlainTextEdit;

namespace cvane::desk {

/// The line at the window's foot: what was said last, and all that was said before at a button beside it.
class MessageLine : public QWidget {
    Q_OBJECT
  public:
    explicit MessageLine(QWidget* parent = nullptr);
    void say(const QString& text);
    void warn(const QString& text);
    void forgetWarning();  ///< takes a warning off the line; it stays among all messages
    /// Every message of this window with its time, the last one at the end.
    const QStringList& history() const { return history_; }
    void showHistory();

  private:
    void note(const QString& text, const char* role);
    QLabel* label_;
    QStringList history_;
    QPointer<QPlainTextEdit> list_;
};

}  // namespace cvane::desk
