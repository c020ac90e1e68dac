#include "desk/note_room.h"

namespace cvane::desk {

QScrollArea* roomFor(QLabel* note, int lines) {
    auto* room = new QScrollArea;
    room->setFrameShape(QFrame::NoFrame);
    room->setAccessibleName(QScrollArea::tr("Note"));
    room->setWidgetResizable(true);
    room->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    room->setFixedHeight(lines * note->fontMetrics().lineSpacing() + 6);
    note->setAlignment(Qt::AlignLeft | Qt::AlignTop);
    room->setWidget(note);
    room->viewport()->setAutoFillBackground(false);
    note->setAutoFillBackground(false);
    return room;
}

}  // namespace cvane::desk
