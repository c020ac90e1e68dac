#include "desk/point_board.h"

#include <QAction>
#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QHeaderView>
#include <QKeyEvent>
#include <QMenu>
#include <QPainter>
#include <QStyledItemDelegate>
#include <algorithm>

#include "campaign/store/table.h"
#include "desk/look.h"

namespace cvane::desk {

namespace {
/// A tile whose selection is an outline, so that its state's colour stays to be seen.
class Tile : public QStyledItemDelegate {
  public:
    Tile(const BoardModel& board, const Document& document, const RunQueue& queue, QObject* parent)
        : QStyledItemDelegate(parent), board_(board), document_(document), queue_(queue) {}
    void initStyleOption(QStyleOptionViewItem* option, const QModelIndex& at) const override {
        QStyledItemDelegate::initStyleOption(option, at);
        const auto* r = board_.report(at);
        if (r && r->state == campaign::PointState::Waiting && queue_.waitsForGrid(r->point))
            option->text = document_.gridRunning() ? PointBoard::tr("making the grid") : PointBoard::tr("next");
    }
    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& at) const override {
        auto plain = option;
        plain.state &= ~(QStyle::State_Selected | QStyle::State_HasFocus);
        QStyledItemDelegate::paint(painter, plain, at);
        if (!(option.state & QStyle::State_Selected)) return;
        constexpr int kPen = 2;
        painter->setPen(QPen(look::accent, kPen));
        painter->setBrush(Qt::NoBrush);
        painter->drawRect(option.rect.adjusted(kPen / 2, kPen / 2, -kPen / 2 - 1, -kPen / 2 - 1));
    }

  private:
    const BoardModel& board_;
    const Document& document_;
    const RunQueue& queue_;
};
}  // namespace

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
    setItemDelegate(new Tile(board_, document_, queue_, this));
    document_.when(Change::Grid, this, [this] { viewport()->update(); });
    connect(&queue_, &RunQueue::changed, viewport(), qOverload<>(&QWidget::update));
    connect(&board_, &QAbstractItemModel::modelReset, this, &PointBoard::fitHeight);
    connect(&board_, &QAbstractItemModel::modelReset, this, &PointBoard::showSelection);
    connect(selectionModel(), &QItemSelectionModel::selectionChanged, this, [this] {
        if (showing_) return;
        // What is added to a selection, of whatever build, is compared with the point that was selected first.
        const auto points = selectedPoints();
        const auto& first = document_.selected();
        const bool adds = points.size() > 1 && first && std::find(points.begin(), points.end(), *first) != points.end();
        if (const auto* r = board_.report(currentIndex()); !adds && r && selectionModel()->isSelected(currentIndex()))
            document_.select(r->point);
        document_.pick(points);
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
    for (const auto& p : document_.picked())
        if (const auto other = board_.indexOf(p); other.isValid())
            selectionModel()->select(other, QItemSelectionModel::Select);
    showing_ = false;
}

// No higher than its rows; how many of them are seen is the user's by the splitter.
void PointBoard::fitHeight() {
    const int rows = std::max(1, model()->rowCount());
    const int whole =
        horizontalHeader()->sizeHint().height() + rows * verticalHeader()->defaultSectionSize() + 2 * frameWidth() + 2;
    if (whole == maximumHeight()) return;
    setMaximumHeight(whole);
    emit fits(whole);
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
