#include "desk/start/card.h"

#include <QVBoxLayout>

namespace cvane::desk {

Card::Card(const char* name, QWidget* parent) : QFrame(parent) {
    setObjectName(name);
    setProperty("role", "card");
    setAutoFillBackground(true);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(14, 10, 14, 10);
    title_ = new QLabel;
    auto font = title_->font();
    font.setBold(true);
    title_->setFont(font);
    says_ = new QLabel;
    says_->setObjectName(QString(name) + "Says");
    for (QLabel* l : {title_, says_}) {
        l->setWordWrap(true);
        column->addWidget(l);
    }
    row_ = new QHBoxLayout;
    column->addLayout(row_);
    hide();
}

void Card::tell(const QString& title, const QString& says, const std::vector<Button>& buttons) {
    QString now = title + '\n' + says;
    for (const auto& b : buttons) now += '\n' + b.words;
    if (now == told_) return;
    told_ = now;
    title_->setText(title);
    title_->setVisible(!title.isEmpty());
    says_->setText(says);
    while (auto* item = row_->takeAt(0)) {
        // The button whose click led here may be among them.
        if (item->widget()) item->widget()->hide(), item->widget()->deleteLater();
        delete item;
    }
    for (const auto& b : buttons) {
        auto* button = new QPushButton(b.words);
        button->setObjectName(b.name);
        connect(button, &QPushButton::clicked, this, b.press);
        row_->addWidget(button);
    }
    row_->addStretch(1);
    updateGeometry();
}

}  // namespace cvane::desk
