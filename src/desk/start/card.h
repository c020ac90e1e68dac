#pragma once
#include <QFrame>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <functional>
#include <vector>

namespace cvane::desk {

/// A sentence with one to three buttons, to be laid over the middle of the window.
class Card : public QFrame {
    Q_OBJECT
  public:
    struct Button {
        QString words;
        std::function<void()> press;
        const char* name;  ///< of the object
    };
    explicit Card(const char* name, QWidget* parent = nullptr);
    /// What it says from now on. The same again changes nothing, so that a button can be pressed while news arrive.
    void tell(const QString& title, const QString& says, const std::vector<Button>& buttons);

  private:
    QLabel *title_, *says_;
    QHBoxLayout* row_;
    QString told_;
};

}  // namespace cvane::desk
