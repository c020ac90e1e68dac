#include "desk/point_board.h"

#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QHeaderView>
#include <QKeyEvent>
#include <QMenu>
#include <algorithm>
#include <set>

#include "campaign/table.h"
#include "desk/look.h"

namespace cvane::desk {

PointBoard::PointBoard(Document& d, RunQueue& q, QWidget* parent) : QTableWidget(parent), document_(d), queue_(q) {
    setObjectName("pointBoard");
    setEditTriggers(NoEditTriggers);
    setSelectionMode(ExtendedSelection);
    horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    horizontalHeader()->setMinimumSectionSize(14 * fontMetrics().averageCharWidth());
    verticalHeader()->setDefaultSectionSize(2 * fontMetrics().height() + 8);
    connect(&d, &Document::reportsChanged, this, &PointBoard::refresh);
    connect(&d, &Document::selectionChanged, this, &PointBoard::refresh);
    connect(this, &QTableWidget::itemSelectionChanged, this, [this] {
        if (showing_) return;
        if (currentItem() && currentItem()->data(Qt::UserRole).isValid()) document_.select(currentItem()->data(Qt::UserRole).toInt());
        emit selectedPointsChanged();
    });
    connect(this, &QTableWidget::itemDoubleClicked, this, [this] { runSelected(); });
}

std::vector<int> PointBoard::selectedPoints() const {
    std::vector<int> out;
    for (const auto* i : selectedItems())
        if (i->data(Qt::UserRole).isValid()) out.push_back(i->data(Qt::UserRole).toInt());
    if (out.empty() && document_.selected() >= 0) out.push_back(document_.selected());
    return out;
}

void PointBoard::refresh() {
    showing_ = true;
    std::set<std::pair<double, double>> columns;
    std::set<double> rows;
    for (const auto& r : document_.reports()) {
        columns.insert({r.point.speed, r.point.beta_deg});
        rows.insert(r.point.alpha_deg);
    }
    setColumnCount(static_cast<int>(columns.size()));
    setRowCount(static_cast<int>(rows.size()));
    const auto columnOf = [&](const campaign::Point& p) { return static_cast<int>(std::distance(columns.begin(), columns.find({p.speed, p.beta_deg}))); };
    const auto rowOf = [&](const campaign::Point& p) { return static_cast<int>(std::distance(rows.begin(), rows.find(p.alpha_deg))); };
    for (int i = 0; i < static_cast<int>(document_.reports().size()); ++i) {
        const auto& r = document_.reports()[static_cast<std::size_t>(i)];
        const int row = rowOf(r.point), column = columnOf(r.point);
        setHorizontalHeaderItem(column, new QTableWidgetItem(QString("%1 m/s").arg(r.point.speed, 0, 'g', 4) + (r.point.beta_deg != 0.0 ? QString(", beta %1\u00b0").arg(r.point.beta_deg) : "")));
        setVerticalHeaderItem(row, new QTableWidgetItem(QString("alpha %1\u00b0").arg(r.point.alpha_deg)));
        auto* tile = item(row, column);
        if (!tile) setItem(row, column, tile = new QTableWidgetItem);
        QString text = QString::fromStdString(campaign::nameOf(r.state));
        if (r.state == campaign::PointState::Running)
            text += (r.coarse ? tr(", coarse") : QString()) + QString(" %1/%2\nCL %3  CD %4").arg(r.iterations).arg(r.mostIterations).arg(r.CL, 0, 'f', 4).arg(r.CD, 0, 'f', 4);
        else if (r.result)
            text += QString("\nCL %1  CD %2").arg(r.result->coefficients.CL, 0, 'f', 4).arg(r.result->coefficients.CD, 0, 'f', 4);
        tile->setText(text);
        tile->setData(Qt::UserRole, i);
        tile->setToolTip(QString::fromStdString(!r.message.empty() ? r.message : r.result ? r.result->remark : ""));
        const QColor back = r.state == campaign::PointState::Running ? QColor(0xfb, 0xe6, 0xd6)
                            : r.state == campaign::PointState::Settled ? QColor(0xe3, 0xee, 0xe9)
                            : r.state == campaign::PointState::Diverged ? QColor(0xf3, 0xd8, 0xd2)
                                                                        : look::sheet;
        tile->setBackground(back);
        if (i == document_.selected() && (selectedItems().isEmpty() || (selectedItems().size() == 1 && !tile->isSelected()))) setCurrentItem(tile);
    }
    showing_ = false;
}

void PointBoard::runSelected() {
    std::vector<campaign::Point> points;
    for (const int i : selectedPoints()) points.push_back(document_.reports()[static_cast<std::size_t>(i)].point);
    queue_.add(points);
}

void PointBoard::keyPressEvent(QKeyEvent* e) {
    if (e->matches(QKeySequence::Copy)) {
        QString text = QString::fromStdString(campaign::csvTable(document_.reports()));
        QApplication::clipboard()->setText(text.replace(',', '\t'));
    } else if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) {
        runSelected();
    } else {
        QTableWidget::keyPressEvent(e);
    }
}

void PointBoard::contextMenuEvent(QContextMenuEvent* e) {
    QMenu menu(this);
    menu.addAction(tr("Run the selected points"), this, &PointBoard::runSelected);
    menu.addAction(tr("Run all that are not done"), &queue_, &RunQueue::addAllOpen);
    menu.addAction(tr("Stop and keep"), &queue_, &RunQueue::stop)->setEnabled(queue_.busy());
    menu.exec(e->globalPos());
}

}  // namespace cvane::desk
