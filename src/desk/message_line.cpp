#include "desk/message_line.h"

#include <QDialog>
#include <QHBoxLayout>
#include <QPlainTextEdit>
#include <QTime>
#include <QToolButton>

#include "desk/look.h"

namespace cvane::desk {
namespace {
constexpr qsizetype kMostKept = 500;
}

MessageLine::MessageLine(QWidget* parent) : QWidget(parent) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    label_ = new QLabel;
    label_->setObjectName("message");
    label_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    // A long sentence is read in the list; it must not widen the window.
    label_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    label_->setAccessibleName(tr("What was said last"));
    row->addWidget(label_, 1);
    auto* all = new QToolButton;
    all->setObjectName("messages");
    all->setText(tr("All messages"));
    all->setAutoRaise(true);
    connect(all, &QToolButton::clicked, this, &MessageLine::showHistory);
    row->addWidget(all);
}

void MessageLine::say(const QString& text) {
    note(text, "");
}

void MessageLine::warn(const QString& text) {
    note("\u26a0 " + text, "alarm");
}

void MessageLine::forgetWarning() {
    if (label_->property("role").toString() != "alarm") return;
    label_->clear();
    label_->setToolTip({});
    setRole(*label_, "");
}

void MessageLine::note(const QString& text, const char* role) {
    label_->setText(text);
    label_->setToolTip(text);
    setRole(*label_, role);
    const QString line = QTime::currentTime().toString("hh:mm:ss") + "  " + text;
    history_ << line;
    if (history_.size() > kMostKept) history_.removeFirst();
    if (list_) list_->appendPlainText(line);
}

void MessageLine::showHistory() {
    auto* dialog = new QDialog(window());
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setWindowTitle(tr("What was said"));
    dialog->resize(720, 320);
    auto* column = new QHBoxLayout(dialog);
    list_ = new QPlainTextEdit(history_.join('\n'));
    list_->setObjectName("messageHistory");
    list_->setReadOnly(true);
    list_->setAccessibleName(tr("What was said"));
    column->addWidget(list_);
    list_->moveCursor(QTextCursor::End);
    dialog->show();
}

}  // namespace cvane::desk
