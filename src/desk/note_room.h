#pragma once
#include <QLabel>
#include <QScrollArea>
#include <QToolButton>

namespace cvane::desk {

/// A place of so many lines for a note that comes, grows and goes, so that nothing below it moves by itself. A longer
/// one is unfolded by a button in its corner.
class NoteRoom : public QScrollArea {
    Q_OBJECT
  public:
    NoteRoom(QLabel* note, int lines);

  protected:
    void resizeEvent(QResizeEvent* e) override;
    bool eventFilter(QObject* watched, QEvent* e) override;

  private:
    void fit();
    QLabel* note_;
    QToolButton* more_;
    int lines_;
};

inline NoteRoom* roomFor(QLabel* note, int lines) {
    return new NoteRoom(note, lines);
}

}  // namespace cvane::desk
