// The stage Flow's list of items: what is drawn, added, copied, changed.
#include <QGridLayout>
#include <QMenu>
#include <QToolButton>
#include <algorithm>

#include "desk/stages/flow/flow_stage.h"
#include "view/actors.h"

namespace cvane::desk {
namespace {
using Kind = campaign::FlowItem::Kind;
}  // namespace

void FlowStage::makeList() {
    list_ = new QListWidget;
    list_->setObjectName("flowItems");
    list_->setAccessibleName(tr("What is shown"));
    list_->setFixedHeight(6 * list_->fontMetrics().lineSpacing() + 8);
    list_->setToolTip(tr("Ticked items are drawn; the chosen one is changed below and dragged in the view"));
    column_->addWidget(list_);
    auto* buttons = new QGridLayout;
    const std::tuple<const char*, QString, Kind, QString> kinds[] = {
        {"addSlice", tr("Slice"), Kind::Slice, tr("slice")},
        {"addLines", tr("Streamlines"), Kind::Lines, tr("streamlines")},
        {"addSurface", tr("Isosurface"), Kind::Surface, tr("isosurface")},
        {"addWall", tr("Walls"), Kind::Wall, tr("walls")}};
    int at = 0;
    for (const auto& [name, text, kind, plain] : kinds) {
        auto* b = new QPushButton("+ " + text);
        b->setObjectName(name);
        buttons->addWidget(b, at / 3, at % 3);
        ++at;
        connect(b, &QPushButton::clicked, this, [this, k = kind, n = plain] { add(n, itemOf(k)); });
    }
    auto* more = new QToolButton;
    more->setObjectName("addMore");
    more->setText(tr("+ More"));
    more->setPopupMode(QToolButton::InstantPopup);
    more->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    auto* menu = new QMenu(more);
    menu->addAction(tr("Skin-friction lines"), this,
                    [this] { add(tr("skin-friction lines"), itemOf(Kind::WallLines)); });
    menu->addAction(tr("Wall-shear vectors"), this, [this] { add(tr("wall shear"), itemOf(Kind::WallArrows)); });
    menu->addAction(tr("Vectors on a plane"), this, [this] { add(tr("vectors"), itemOf(Kind::Arrows)); });
    menu->addAction(tr("Reversed flow"), this, [this] {
        auto item = itemOf(Kind::Surface);
        item.quantity = "ux";
        item.value = 0.0;
        item.colour = "";
        item.opacity = 0.6;
        add(tr("reversed flow"), item);
    });
    menu->addAction(tr("Probe at a place"), this, [this] { add(tr("probe"), itemOf(Kind::Probe)); });
    menu->addAction(tr("Grid along a plane"), this, [this] { add(tr("cells"), itemOf(Kind::Cells)); });
    menu->addAction(tr("Edges of the tunnel"), this, [this] { add(tr("tunnel"), itemOf(Kind::Tunnel)); });
    menu->addAction(tr("Model as a ghost"), this, [this] {
        auto item = itemOf(Kind::Wall);
        item.quantity.clear();
        item.opacity = 0.3;
        add(tr("ghost"), item);
    });
    more->setMenu(menu);
    buttons->addWidget(more, 1, 1);
    auto* copy = new QPushButton(tr("Copy"));
    copy->setObjectName("copyItem");
    auto* remove = new QPushButton(tr("Remove"));
    remove->setObjectName("removeItem");
    buttons->addWidget(copy, 1, 2);
    buttons->addWidget(remove, 2, 2);
    column_->addLayout(buttons);
    connect(copy, &QPushButton::clicked, this, [this] {
        if (!chosen()) return;
        auto next = items_;
        next.push_back(*chosen());
        next.back().name += tr(", copy").toStdString();
        changeItems(tr("copy an item of the flow"), next);
        list_->setCurrentRow(list_->count() - 1);
    });
    connect(remove, &QPushButton::clicked, this, [this] {
        auto next = items_;
        // An empty list would bring the first items back.
        if (!chosen() || next.size() < 2) return;
        next.erase(next.begin() + list_->currentRow());
        changeItems(tr("remove an item of the flow"), next);
    });
    connect(list_, &QListWidget::currentRowChanged, this, [this] {
        // The colours' legend is that of the chosen item.
        if (!filling_ && current_) show();
    });
    connect(list_, &QListWidget::itemChanged, this, [this](QListWidgetItem* row) {
        if (filling_) return;
        auto next = items_;
        auto& item = next.at(static_cast<std::size_t>(list_->row(row)));
        item.shown = row->checkState() == Qt::Checked;
        if (!row->text().trimmed().isEmpty()) item.name = row->text().trimmed().toStdString();
        changeItems(tr("change what is drawn"), next);
    });
}

FlowStage::Item FlowStage::itemOf(Kind kind) const {
    Item item;
    item.kind = kind;
    if (!loader_.flow()) return item;
    const auto first = view::firstItems(*loader_.flow());
    for (const auto& f : first)
        if (f.kind == kind || (f.kind == Kind::Slice && (kind == Kind::Arrows || kind == Kind::Cells))) item = f;
    item.kind = kind;
    const Box walls = view::wallsOf(*loader_.flow());
    switch (kind) {
        case Kind::Surface:
            item.quantity = "loss";
            item.value = 0.3;
            item.colour = "speed";
            break;
        case Kind::WallLines:
            item.quantity.clear();
            item.count = 800;
            break;
        case Kind::WallArrows:
            item.quantity = "wall_Cf";
            item.low = item.high = 0.0;
            item.count = 60;
            break;
        case Kind::Arrows:
            item.quantity = "speed";
            item.low = item.high = 0.0;
            item.count = 40;
            break;
        case Kind::Probe:
            item.quantity = "speed";
            item.through = walls.centre();
            item.through.z() = walls.high.z() + 0.3 * walls.size().z();
            break;
        default:
            break;
    }
    return item;
}

// A plane is put where none of its kind is yet: the next one stands a fifth of the model farther.
void FlowStage::standClear(Item& item) const {
    const Vec3 n = item.normal.normalized();
    const double apart = 0.2 * n.cwiseAbs().dot(view::wallsOf(*loader_.flow()).size());
    const auto isTaken = [&] {
        return std::any_of(items_.begin(), items_.end(), [&](const Item& i) {
            return i.kind == item.kind && std::abs(i.normal.normalized().dot(n)) > 0.999 &&
                   std::abs((i.through - item.through).dot(n)) < 0.1 * apart;
        });
    };
    while (apart > 0.0 && isTaken()) item.through += apart * n;
}

void FlowStage::add(const QString& name, Item item) {
    if (!loader_.flow()) return;
    item.name = name.toStdString();
    if (item.kind == Kind::Slice || item.kind == Kind::Cells || item.kind == Kind::Arrows) standClear(item);
    const auto same = std::count_if(items_.begin(), items_.end(), [&](const Item& i) {
        return i.name == item.name || i.name.starts_with(item.name + " ");
    });
    if (same > 0) item.name += " " + std::to_string(same + 1);
    auto next = items_;
    next.push_back(item);
    changeItems(tr("add an item to the flow"), next);
    list_->setCurrentRow(list_->count() - 1);
}

const FlowStage::Item* FlowStage::chosen() const {
    const int row = list_->currentRow();
    return row >= 0 && row < static_cast<int>(items_.size()) ? &items_[static_cast<std::size_t>(row)] : nullptr;
}

void FlowStage::changeItems(const QString& intent, const std::vector<Item>& next) {
    auto s = document_.settings();
    if (s.flowItems == next) return;
    s.flowItems = next;
    change(intent, s);
    if (current_) show();
}

void FlowStage::replaceChosen(const QString& intent, const Item& item) {
    if (!chosen()) return;
    auto next = items_;
    next[static_cast<std::size_t>(list_->currentRow())] = item;
    changeItems(intent, next);
}

void FlowStage::fill() {
    items_ = loader_.items();
    filling_ = true;
    const int row = std::max(0, list_->currentRow());
    // Rows stay where they are as long as they can, so that the list keeps its place under the mouse.
    while (list_->count() > static_cast<int>(items_.size())) delete list_->takeItem(list_->count() - 1);
    for (std::size_t i = 0; i < items_.size(); ++i) {
        auto* line = list_->item(static_cast<int>(i));
        if (!line) {
            line = new QListWidgetItem;
            line->setFlags(line->flags() | Qt::ItemIsUserCheckable | Qt::ItemIsEditable);
            list_->addItem(line);
        }
        line->setText(QString::fromStdString(items_[i].name));
        line->setCheckState(items_[i].shown ? Qt::Checked : Qt::Unchecked);
    }
    if (!items_.empty()) list_->setCurrentRow(std::min(row, static_cast<int>(items_.size()) - 1));
    filling_ = false;
    if (chosen() && loader_.flow())
        form_->show(*chosen(), *loader_.flow(), loader_.shapeOf(*chosen()).get(), document_.measures().bounds);
    else
        form_->clear();
}

}  // namespace cvane::desk
