#include "desk/by_turns.h"

#include <QVBoxLayout>

namespace cvane::desk {

ByTurns::ByTurns(QWidget* upper, const QString& upperName, QWidget* lower, const QString& lowerName, int least)
    : tabs_(new QTabBar), upper_(upper), lower_(lower), least_(least) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(2);
    tabs_->setObjectName("byTurns");
    tabs_->setAccessibleName(upperName + ", " + lowerName);
    tabs_->setExpanding(false);
    tabs_->setDrawBase(false);
    tabs_->addTab(upperName);
    tabs_->addTab(lowerName);
    tabs_->hide();
    column->addWidget(tabs_);
    auto* split = new QSplitter(Qt::Vertical);
    split->addWidget(upper);
    split->addWidget(lower);
    split->setStretchFactor(0, 2);
    split->setStretchFactor(1, 3);
    column->addWidget(split, 1);
    // The panes may be lower than both of them need: that is what the tabs are for.
    setMinimumHeight(0);
    connect(tabs_, &QTabBar::currentChanged, this, &ByTurns::arrange);
}

void ByTurns::arrange() {
    const bool both = height() >= least_;
    tabs_->setVisible(!both);
    upper_->setVisible(both || tabs_->currentIndex() == 0);
    lower_->setVisible(both || tabs_->currentIndex() == 1);
}

void ByTurns::resizeEvent(QResizeEvent* e) {
    QWidget::resizeEvent(e);
    arrange();
}

}  // namespace cvane::desk
