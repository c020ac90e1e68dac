#include "desk/stages/flow_stage.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QLineEdit>

#include "desk/look.h"
#include "desk/scene.h"
#include "field/formula.h"
#include "view/actors.h"

namespace cvane::desk {
namespace {
using Kind = campaign::FlowItem::Kind;
}  // namespace

FlowStage::FlowStage(Document& d, Middle& m) : Stage(d, m), loader_(d) {
    makeSheet();
    words_ = note();
    words_->setObjectName("flowWords");
    words_->setMinimumHeight(3 * words_->fontMetrics().lineSpacing());
    words_->setAlignment(Qt::AlignTop);
    column_->addWidget(words_);
    makeList();
    makeForm();
    column_->addStretch(1);
    const auto again = [this] {
        if (current_) show();
    };
    document_.when(Change::Selection, this, again);
    document_.when(Change::Settings, this, [this] {
        if (current_ && document_.settings().flowItems != items_) show();
    });
    connect(&loader_, &FlowLoader::changed, this, again);
}

void FlowStage::makeList() {
    list_ = new QListWidget;
    list_->setObjectName("flowItems");
    list_->setFixedHeight(6 * list_->fontMetrics().lineSpacing() + 8);
    list_->setToolTip(tr("Ticked items are drawn; the chosen one is changed below"));
    column_->addWidget(list_);
    auto* buttons = new QGridLayout;
    const std::tuple<const char*, QString, Kind> kinds[] = {{"addSlice", tr("Slice"), Kind::Slice},
                                                            {"addLines", tr("Lines"), Kind::Lines},
                                                            {"addSurface", tr("Surface"), Kind::Surface},
                                                            {"addWall", tr("Walls"), Kind::Wall}};
    int column = 0;
    for (const auto& [name, text, kind] : kinds) {
        auto* b = new QPushButton("+ " + text);
        b->setObjectName(name);
        buttons->addWidget(b, column / 2, column % 2);
        ++column;
        connect(b, &QPushButton::clicked, this, [this, k = kind] { add(k); });
    }
    auto* copy = new QPushButton(tr("Copy"));
    copy->setObjectName("copyItem");
    auto* remove = new QPushButton(tr("Remove"));
    remove->setObjectName("removeItem");
    buttons->addWidget(copy, 2, 0);
    buttons->addWidget(remove, 2, 1);
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

QDoubleSpinBox* FlowStage::numberOf(QFormLayout* form, const QString& label, const char* name, const QString& suffix,
                                    std::function<double&(Item&)> field) {
    auto* box = new QDoubleSpinBox;
    box->setObjectName(name);
    box->setRange(-1e9, 1e9);
    box->setDecimals(4);
    box->setSuffix(suffix);
    box->setKeyboardTracking(false);
    form->addRow(label, box);
    fillers_.push_back([box, field](const Item& i) {
        Item copy = i;
        box->setValue(field(copy));
    });
    connect(box, &QDoubleSpinBox::valueChanged, this,
            [this, field](double v) { edit(tr("change an item of the flow"), [&](Item& i) { field(i) = v; }); });
    return box;
}

void FlowStage::rake(QFormLayout* form, const QString& label, const char* name, Vec3 Item::*end) {
    auto* row = new QWidget;
    auto* boxes = new QHBoxLayout(row);
    boxes->setContentsMargins(0, 0, 0, 0);
    for (int k = 0; k < 3; ++k) {
        auto* box = new QDoubleSpinBox;
        box->setObjectName(QString("%1%2").arg(name).arg("xyz"[k]));
        box->setRange(-1e5, 1e5);
        box->setDecimals(3);
        box->setSingleStep(0.02);
        box->setKeyboardTracking(false);
        box->setButtonSymbols(QAbstractSpinBox::NoButtons);
        box->setMinimumWidth(40);
        box->setToolTip(QString("%1 [m]").arg("xyz"[k]));
        boxes->addWidget(box);
        fillers_.push_back([box, end, k](const Item& i) { box->setValue((i.*end)[k]); });
        connect(box, &QDoubleSpinBox::valueChanged, this,
                [this, end, k](double v) { edit(tr("move the rake"), [&](Item& i) { (i.*end)[k] = v; }); });
    }
    form->addRow(label, row);
    rows_.push_back({row, {Kind::Lines}});
}

void FlowStage::makeForm() {
    form_ = section(tr("The chosen item"));
    quantity_ = new QComboBox;
    quantity_->setObjectName("flowQuantity");
    quantity_->setEditable(true);
    quantity_->setInsertPolicy(QComboBox::NoInsert);
    quantity_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    quantity_->setMinimumContentsLength(8);
    quantity_->setToolTip(tr("A quantity, or a formula of quantities such as speed^2 + Cp"));
    form_->addRow(tr("Show"), quantity_);
    const auto take = [this] {
        if (filling_ || !loader_.flow()) return;
        // What is chosen from the list stands in its data; anything else was typed.
        const int at = quantity_->findText(quantity_->currentText());
        const auto id =
            (at >= 0 ? quantity_->itemData(at).toString() : quantity_->currentText().trimmed()).toStdString();
        edit(tr("show another quantity"), [&](Item& i) {
            if (i.quantity == id) return;
            i.quantity = id;
            i.low = i.high = 0.0;
        });
    };
    connect(quantity_, &QComboBox::activated, this, take);
    connect(quantity_->lineEdit(), &QLineEdit::editingFinished, this, take);
    auto* value = numberOf(form_, tr("Where it is"), "flowValue", "", [](Item& i) -> double& { return i.value; });
    value->setSingleStep(0.05);
    rows_.push_back({value, {Kind::Surface}});
    colour_ = new QComboBox;
    colour_->setObjectName("flowColour");
    colour_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    colour_->setMinimumContentsLength(8);
    form_->addRow(tr("Coloured by"), colour_);
    rows_.push_back({colour_, {Kind::Surface}});
    connect(colour_, &QComboBox::activated, this, [this](int at) {
        edit(tr("colour an item of the flow"),
             [&](Item& i) { i.colour = colour_->itemData(at).toString().toStdString(); });
    });
    axis_ = new QComboBox;
    axis_->setObjectName("flowAxis");
    axis_->addItems({tr("across x"), tr("across y"), tr("across z"), tr("oblique")});
    form_->addRow(tr("Plane"), axis_);
    rows_.push_back({axis_, {Kind::Slice}});
    connect(axis_, &QComboBox::activated, this, [this](int k) {
        edit(tr("turn a slice"), [&](Item& i) { i.normal = k < 3 ? Vec3(Vec3::Unit(k)) : Vec3(1.0, 1.0, 0.0); });
    });
    auto* normal = new QLineEdit;
    normal->setObjectName("flowNormal");
    normal->setToolTip(tr("The plane\u2019s normal, three numbers"));
    form_->addRow(tr("Its normal"), normal);
    rows_.push_back({normal, {Kind::Slice}});
    fillers_.push_back([normal](const Item& i) {
        normal->setText(QString("%1 %2 %3").arg(i.normal.x()).arg(i.normal.y()).arg(i.normal.z()));
    });
    connect(normal, &QLineEdit::editingFinished, this, [this, normal] {
        const auto words = normal->text().split(' ', Qt::SkipEmptyParts);
        Vec3 n = Vec3::Zero();
        bool good = words.size() == 3;
        for (int k = 0; good && k < 3; ++k) n[k] = words[k].toDouble(&good);
        if (good && n.norm() > 0.0)
            edit(tr("turn a slice"), [&](Item& i) { i.normal = n; });
        else
            emit document_.problem(tr("A plane\u2019s normal is three numbers that are not all zero, such as 1 1 0."));
    });
    place_ = new QSlider(Qt::Horizontal);
    place_->setObjectName("flowPlace");
    place_->setRange(-100, 400);
    form_->addRow(tr("Place"), place_);
    rows_.push_back({place_, {Kind::Slice}});
    connect(place_, &QSlider::valueChanged, this, &FlowStage::slideTo);
    auto* at = new QDoubleSpinBox;
    at->setObjectName("flowAt");
    at->setRange(-1e5, 1e5);
    at->setDecimals(4);
    at->setSingleStep(0.01);
    at->setSuffix(" m");
    at->setKeyboardTracking(false);
    form_->addRow(tr("At"), at);
    rows_.push_back({at, {Kind::Slice}});
    fillers_.push_back([at](const Item& i) { at->setValue(i.through.dot(i.normal.normalized())); });
    connect(at, &QDoubleSpinBox::valueChanged, this, [this](double v) {
        edit(tr("move a slice"), [&](Item& i) {
            const Vec3 n = i.normal.normalized();
            i.through += (v - i.through.dot(n)) * n;
        });
    });
    rake(form_, tr("Through, from"), "rakeFrom", &Item::from);
    rake(form_, tr("to [m]"), "rakeTo", &Item::to);
    auto* count = new QSpinBox;
    count->setObjectName("flowCount");
    count->setRange(1, 2000);
    count->setKeyboardTracking(false);
    form_->addRow(tr("Lines"), count);
    rows_.push_back({count, {Kind::Lines}});
    fillers_.push_back([count](const Item& i) { count->setValue(i.count); });
    connect(count, &QSpinBox::valueChanged, this,
            [this](int n) { edit(tr("change the number of lines"), [&](Item& i) { i.count = n; }); });
    automatic_ = new QCheckBox(tr("as the values are"));
    automatic_->setObjectName("flowAutomatic");
    form_->addRow(tr("Colours"), automatic_);
    connect(automatic_, &QCheckBox::clicked, this, [this](bool on) {
        const auto shape = chosen() ? loader_.shapeOf(*chosen()) : nullptr;
        edit(tr("change the colours' ends"), [&](Item& i) {
            i.low = on || !shape ? 0.0 : shape->low;
            i.high = on || !shape ? 0.0 : shape->high;
        });
    });
    low_ = numberOf(form_, tr("from"), "flowLow", "", [](Item& i) -> double& { return i.low; });
    high_ = numberOf(form_, tr("to"), "flowHigh", "", [](Item& i) -> double& { return i.high; });
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

void FlowStage::edit(const QString& intent, const std::function<void(Item&)>& how) {
    if (filling_ || !chosen()) return;
    auto next = items_;
    how(next[static_cast<std::size_t>(list_->currentRow())]);
    if (next != items_) changeItems(intent, next);
}

void FlowStage::add(Kind kind) {
    if (!loader_.flow()) return;
    const auto first = view::firstItems(*loader_.flow());
    Item item;
    for (const auto& f : first)
        if (f.kind == kind) item = f;
    const char* const names[] = {"walls", "slice", "surface", "lines"};
    item.name = names[static_cast<std::size_t>(kind)];
    item.kind = kind;
    if (kind == Kind::Surface) {
        item.quantity = "loss";
        item.value = 0.3;
        item.colour = "speed";
    }
    const auto same = std::count_if(items_.begin(), items_.end(), [&](const Item& i) { return i.kind == kind; });
    if (same > 0) item.name += " " + std::to_string(same + 1);
    auto next = items_;
    next.push_back(item);
    changeItems(tr("add an item to the flow"), next);
    list_->setCurrentRow(list_->count() - 1);
}

double FlowStage::reachAlong(const Vec3& n) const {
    const Vec3 size = document_.measures().bounds.size();
    return std::max(n.cwiseAbs().dot(size), 0.05 * size.maxCoeff());
}

void FlowStage::slideTo(int percent) {
    edit(tr("move a slice"), [&](Item& i) {
        const Vec3 n = i.normal.normalized();
        const Box b = document_.measures().bounds;
        // A little off round values, so that the plane does not run along cell sides.
        const double at = n.dot(b.centre()) + (0.01 * percent + 1.7e-4 - 0.5) * reachAlong(n);
        i.through = b.centre() + (at - n.dot(b.centre())) * n;
    });
}

int FlowStage::axisOf(const Item& item) const {
    for (int k = 0; k < 3; ++k)
        if (item.normal == Vec3::Unit(k)) return k;
    return -1;
}

void FlowStage::fill() {
    filling_ = true;
    items_ = loader_.items();
    const int row = std::clamp(list_->currentRow(), 0, std::max(0, static_cast<int>(items_.size()) - 1));
    if (list_->count() != static_cast<int>(items_.size())) list_->clear();
    for (std::size_t k = 0; k < items_.size(); ++k) {
        auto* line = list_->item(static_cast<int>(k));
        if (!line) {
            line = new QListWidgetItem(list_);
            line->setFlags(line->flags() | Qt::ItemIsUserCheckable | Qt::ItemIsEditable);
        }
        line->setText(QString::fromStdString(items_[k].name));
        line->setCheckState(items_[k].shown ? Qt::Checked : Qt::Unchecked);
    }
    list_->setCurrentRow(row);
    filling_ = false;
    fillForm();
}

void FlowStage::fillForm() {
    const Item* item = chosen();
    form_->parentWidget()->setEnabled(item != nullptr);
    if (!item || !loader_.flow()) return;
    filling_ = true;
    const bool focused = quantity_->lineEdit()->hasFocus() && quantity_->lineEdit()->isModified();
    if (!focused) {
        quantity_->clear();
        if (item->kind == Kind::Wall)
            for (const auto& q : view::wallQuantities())
                quantity_->addItem(QString::fromStdString(q.label), QString::fromStdString(q.id));
        for (const auto& q : loader_.flow()->quantities())
            quantity_->addItem(QString::fromStdString(q.unit.empty() ? q.label : q.label + " [" + q.unit + "]"),
                               QString::fromStdString(q.id));
        const int at = quantity_->findData(QString::fromStdString(item->quantity));
        if (at >= 0)
            quantity_->setCurrentIndex(at);
        else
            quantity_->setEditText(QString::fromStdString(item->quantity));
        quantity_->lineEdit()->setCursorPosition(0);
    }
    colour_->clear();
    colour_->addItem(tr("plain"), "");
    for (const auto& q : loader_.flow()->quantities())
        colour_->addItem(QString::fromStdString(q.label), QString::fromStdString(q.id));
    colour_->setCurrentIndex(std::max(0, colour_->findData(QString::fromStdString(item->colour))));
    axis_->setCurrentIndex(axisOf(*item) < 0 ? 3 : axisOf(*item));
    const Vec3 n = item->normal.normalized();
    const Box b = document_.measures().bounds;
    const double reach = reachAlong(n);
    if (!place_->isSliderDown() && reach > 0.0)
        place_->setValue(static_cast<int>(std::lround(100.0 * (n.dot(item->through - b.centre()) / reach + 0.5))));
    for (const auto& fillOne : fillers_) fillOne(*item);
    automatic_->setChecked(item->low == item->high);
    const auto shape = loader_.shapeOf(*item);
    if (item->low == item->high && shape) {
        low_->setValue(shape->low);
        high_->setValue(shape->high);
    }
    low_->setEnabled(item->low != item->high);
    high_->setEnabled(item->low != item->high);
    for (const auto& [row, kinds] : rows_) {
        const bool has = std::find(kinds.begin(), kinds.end(), item->kind) != kinds.end();
        row->setVisible(has);
        if (auto* label = form_->labelForField(row)) label->setVisible(has);
    }
    filling_ = false;
}

QString FlowStage::keyFigure() const {
    if (!loader_.flow()) return {};
    const auto drawn = std::count_if(items_.begin(), items_.end(), [](const Item& i) { return i.shown; });
    return tr("%1 of %2 items").arg(drawn).arg(items_.size());
}

Stage::State FlowStage::state() const {
    return stateOfResult();
}

void FlowStage::draw() {
    QStringList troubles;
    const Item* const front = chosen();
    std::shared_ptr<const view::ItemShape> scale;
    bool waiting = false;
    for (std::size_t k = 0; k < items_.size(); ++k) {
        const auto& item = items_[k];
        if (!item.shown) continue;
        const auto name = "item " + std::to_string(k);
        const auto shape = loader_.shapeOf(item);
        if (!shape) {
            // What is there stays until its follower has been worked out, so that nothing flickers.
            scene_.hold(name);
            waiting = true;
            continue;
        }
        if (!shape->trouble.empty()) troubles << QString::fromStdString(item.name + ": " + shape->trouble);
        if (shape->pieces() == 0) continue;
        scene_.keep(name, loader_.keyOf(item), [&] {
            const double plain[3] = {0.85, 0.81, 0.73};
            return view::actorOf(*shape, plain);
        });
        if (!shape->values.empty() && (!scale || &item == front)) scale = shape;
    }
    if (scale) {
        scene_.add("scale", scene::scaleFor(scale->low, scale->high, scale->sense, scale->title));
    } else if (waiting) {
        scene_.hold("scale");
    }
    QString text = waiting ? tr("Working it out\u2026") : troubles.join("\n");
    if (text.isEmpty() && scale) text = tr("The colours show: %1.").arg(QString::fromStdString(scale->title));
    words_->setText(text);
}

void FlowStage::show() {
    loader_.wanted();
    middle_.showCanvas();
    scene_.begin();
    fill();
    if (!loader_.flow()) {
        words_->setText(loader_.excuse());
    } else {
        loader_.makeShapes();
        draw();
    }
    scene_.finish();
    middle_.canvas().refresh();
}

}  // namespace cvane::desk
