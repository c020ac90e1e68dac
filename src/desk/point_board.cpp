#include "desk/point_board.h"

#include <QAction>
#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QHeaderView>
#include <QKeyEvent>
#include <QMenu>
#include <algorithm>

#include "campaign/store/table.h"

namespace cvane::desk {

PointBoard::PointBoard(PointModel& points, RunQueue& q, QWidget* parent)
    : QTableView(parent), document_(points.document()), queue_(q), board_(points) {
    setObjectName("pointBoard");
    setAccessibleName(tr("Points"));
    setModel(&board_);
    setSelectionMode(ExtendedSelection);
    horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    horizontalHeader()->setMinimumSectionSize(14 * fontMetrics().averageCharWidth());
    verticalHeader()->setDefaultSectionSize(2 * fontMetrics().height() + 8);
    document_.when(Change::Selection | Change::Points | Change::Campaign, this, [this] { showSelection(); });
    connect(&board_, &QAbstractItemModel::modelReset, this, &PointBoard::showSelection);
    connect(selectionModel(), &QItemSelectionModel::selectionChanged, this, [this] {
        if (showing_) return;
        if (const auto* r = board_.report(currentIndex()); r && selectionModel()->isSelected(currentIndex()))
            document_.select(r->point);
        document_.pick(selectedPoints());
    });
    connect(this, &QTableView::doubleClicked, this, [this] { runSelected(); });
}

std::vector<campaign::Point> PointBoard::selectedPoints() const {
    std::vector<campaign::Point> out;
    for (const auto& i : selectionModel()->selectedIndexes())
        if (const auto* r = board_.report(i)) out.push_back(r->point);
    if (out.empty() && document_.selectedReport()) out.push_back(document_.selectedReport()->point);
    return out;
}

void PointBoard::showSelection() {
    if (!document_.selected()) return;
    const auto at = board_.indexOf(*document_.selected());
    // Several that the user has selected stay so while the document's point is one of them.
    if (!at.isValid() || selectionModel()->isSelected(at)) return;
    showing_ = true;
    selectionModel()->setCurrentIndex(at, QItemSelectionModel::ClearAndSelect);
    showing_ = false;
}

void PointBoard::runSelected() {
    queue_.add(selectedPoints());
}

void PointBoard::runSelectedAnew() {
    queue_.addAnew(selectedPoints());
}

void PointBoard::keyPressEvent(QKeyEvent* e) {
    if (e->matches(QKeySequence::Copy)) {
        QString text = QString::fromStdString(campaign::csvTable(document_.reports()));
        QApplication::clipboard()->setText(text.replace(',', '\t'));
    } else if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) {
        runSelected();
    } else {
        QTableView::keyPressEvent(e);
    }
}

void PointBoard::contextMenuEvent(QContextMenuEvent* e) {
    QMenu menu(this);
    menu.addAction(tr("Run what is not done of the selected points"), this, &PointBoard::runSelected);
    menu.addAction(tr("Run what is not done"), &queue_, &RunQueue::addAllOpen);
    menu.addAction(tr("Run the selected points anew, beside what there is"), this, &PointBoard::runSelectedAnew);
    menu.addAction(tr("Stop and keep"), &queue_, &RunQueue::stop)->setEnabled(queue_.busy());
    menu.addSeparator();
    auto* rows = menu.addMenu(tr("In rows"));
    for (int k = 0; k < kPointAxes; ++k) {
        const auto axis = static_cast<PointAxis>(k);
        auto* action = rows->addAction(axisName(axis));
        action->setCheckable(true);
        action->setChecked(std::find(board_.down().begin(), board_.down().end(), axis) != board_.down().end());
        connect(action, &QAction::toggled, this, [this, axis](bool on) {
            auto down = board_.down();
            std::erase(down, axis);
            if (on) down.push_back(axis);
            board_.setDown(down);
        });
    }
    menu.exec(e->globalPos());
}

}  // namespace cvane::desk
