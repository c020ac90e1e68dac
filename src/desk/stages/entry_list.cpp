#include "desk/stages/entry_list.h"

#include <QHBoxLayout>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>

namespace cvane::desk {

EntryList::EntryList(const Names& names, int height)
    : list_(new QListWidget), addMenu_(new QMenu(this)), formHolder_(new QWidget) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    list_->setObjectName(names.list);
    list_->setMaximumHeight(height);
    column->addWidget(list_);
    auto* row = new QHBoxLayout;
    auto* more = new QPushButton(tr("Add"));
    more->setObjectName(names.add);
    more->setMenu(addMenu_);
    auto* less = new QPushButton(tr("Take out"));
    less->setObjectName(names.remove);
    row->addWidget(more);
    row->addWidget(less);
    column->addLayout(row);
    column->addWidget(formHolder_);
    connect(less, &QPushButton::clicked, this, &EntryList::removed);
}

void EntryList::newForm() {
    // A line that is being left asks for this while it still runs: the old form goes when it is done.
    auto* holder = new QWidget;
    form_ = new QFormLayout(holder);
    form_->setContentsMargins(0, 0, 0, 0);
    layout()->replaceWidget(formHolder_, holder);
    formHolder_->hide();
    formHolder_->deleteLater();
    formHolder_ = holder;
}

void EntryList::refill(const std::function<void(QListWidget&)>& fill) {
    const int row = list_->currentRow();
    {
        const QSignalBlocker quiet(list_);
        list_->clear();
        fill(*list_);
        list_->setCurrentRow(std::min(row, list_->count() - 1));
        if (list_->currentRow() < 0 && list_->count() > 0) list_->setCurrentRow(0);
    }
    list_->setVisible(list_->count() > 0);
}

}  // namespace cvane::desk
