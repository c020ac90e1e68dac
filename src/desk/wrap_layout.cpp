#include "desk/wrap_layout.h"

#include <QHBoxLayout>
#include <QWidget>
#include <algorithm>

namespace cvane::desk {

WrapLayout::WrapLayout(int spacing, QWidget* parent) : QLayout(parent) {
    setSpacing(spacing);
}

WrapLayout::~WrapLayout() {
    for (auto* item : items_) delete item;
}

void WrapLayout::addTogether(std::initializer_list<QWidget*> widgets) {
    auto* row = new QHBoxLayout;
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(spacing());
    for (auto* w : widgets) row->addWidget(w);
    auto* holder = new QWidget;
    holder->setLayout(row);
    addWidget(holder);
}

QLayoutItem* WrapLayout::itemAt(int i) const {
    return i >= 0 && i < count() ? items_[static_cast<std::size_t>(i)] : nullptr;
}

QLayoutItem* WrapLayout::takeAt(int i) {
    auto* item = itemAt(i);
    if (item) items_.erase(items_.begin() + i);
    return item;
}

QSize WrapLayout::sizeHint() const {
    const auto m = contentsMargins();
    int width = 0, height = 0;
    for (const auto* item : items_) {
        width += item->sizeHint().width() + spacing();
        height = std::max(height, item->sizeHint().height());
    }
    return {width + m.left() + m.right(), height + m.top() + m.bottom()};
}

QSize WrapLayout::minimumSize() const {
    const auto m = contentsMargins();
    QSize least;
    for (const auto* item : items_) least = least.expandedTo(item->minimumSize());
    return least + QSize(m.left() + m.right(), m.top() + m.bottom());
}

void WrapLayout::setGeometry(const QRect& place) {
    QLayout::setGeometry(place);
    arrange(place, true);
}

int WrapLayout::arrange(const QRect& whole, bool move) const {
    const auto m = contentsMargins();
    const QRect place = whole.marginsRemoved(m);
    int x = place.left(), y = place.top(), high = 0;
    std::vector<std::pair<QLayoutItem*, QRect>> line;
    const auto end = [&] {
        // Along their middles, as in a row.
        for (const auto& [item, at] : line)
            if (move) item->setGeometry(at.translated(0, (high - at.height()) / 2));
        line.clear();
    };
    for (auto* item : items_) {
        if (item->isEmpty()) continue;
        const QSize size = item->sizeHint();
        if (!line.empty() && x + size.width() > place.left() + place.width()) {
            end();
            x = place.left();
            y += high + spacing();
            high = 0;
        }
        high = std::max(high, size.height());
        line.push_back({item, QRect(QPoint(x, y), size)});
        x += size.width() + spacing();
    }
    end();
    return y + high - whole.top() + m.bottom();
}

}  // namespace cvane::desk
