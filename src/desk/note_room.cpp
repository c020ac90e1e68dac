#include "desk/note_room.h"

#include <QEvent>
#include <algorithm>

namespace cvane::desk {

NoteRoom::NoteRoom(QLabel* note, int lines) : note_(note), more_(new QToolButton(this)), lines_(lines) {
    setFrameShape(QFrame::NoFrame);
    setAccessibleName(tr("Note"));
    setWidgetResizable(true);
    setFocusPolicy(Qt::NoFocus);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    note->setAlignment(Qt::AlignLeft | Qt::AlignTop);
    note->installEventFilter(this);
    setWidget(note);
    viewport()->setAutoFillBackground(false);
    note->setAutoFillBackground(false);
    more_->setObjectName(note->objectName() + "More");
    more_->setCheckable(true);
    more_->setAutoFillBackground(true);
    connect(more_, &QToolButton::toggled, this, &NoteRoom::fit);
    fit();
}

void NoteRoom::fit() {
    const int room = lines_ * note_->fontMetrics().lineSpacing() + 6,
              whole =
                  note_->hasHeightForWidth() ? note_->heightForWidth(viewport()->width()) : note_->sizeHint().height();
    const bool isLonger = whole > room;
    more_->setVisible(isLonger);
    more_->setText(more_->isChecked() ? tr("less") : tr("more\u2026"));
    more_->setAccessibleName(more_->isChecked() ? tr("Fold the note") : tr("Show the whole note"));
    more_->adjustSize();
    // Whole lines only: no sliver of the next one.
    setViewportMargins(0, 0, 0, isLonger && !more_->isChecked() ? 6 : 0);
    setFixedHeight(isLonger && more_->isChecked() ? whole + more_->height() : room);
    more_->move(width() - more_->width(), height() - more_->height());
}

void NoteRoom::resizeEvent(QResizeEvent* e) {
    QScrollArea::resizeEvent(e);
    fit();
}

// Another text asks for another height.
bool NoteRoom::eventFilter(QObject* watched, QEvent* e) {
    if (watched == note_ &&
        (e->type() == QEvent::LayoutRequest || e->type() == QEvent::Resize || e->type() == QEvent::FontChange))
        fit();
    return QScrollArea::eventFilter(watched, e);
}

}  // namespace cvane::desk
