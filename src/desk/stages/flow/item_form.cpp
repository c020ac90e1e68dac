#include "desk/stages/flow/item_form.h"

#include <QHBoxLayout>
#include <QLineEdit>
#include <QSpinBox>
#include <algorithm>
#include <cmath>

namespace cvane::desk {
namespace {
using Kind = campaign::FlowItem::Kind;
const std::vector<Kind> kPlanes{Kind::Slice, Kind::Arrows, Kind::Cells};
const std::vector<Kind> kFaces{Kind::Slice, Kind::Wall, Kind::Surface};
const std::vector<Kind> kColoured{Kind::Slice,     Kind::Wall,   Kind::Surface,   Kind::Lines,
                                  Kind::WallLines, Kind::Arrows, Kind::WallArrows};

QString text(const std::string& s) {
    return QString::fromStdString(s);
}
}  // namespace

ItemForm::ItemForm() : QGroupBox(tr("The chosen item")), form_(new QFormLayout(this)) {
    form_->setContentsMargins(0, 6, 0, 0);
    form_->setLabelAlignment(Qt::AlignLeft);
    form_->setFieldGrowthPolicy(QFormLayout::AllNonFixedFieldsGrow);
    quantity_ = new QComboBox;
    quantity_->setObjectName("flowQuantity");
    quantity_->setEditable(true);
    quantity_->setInsertPolicy(QComboBox::NoInsert);
    quantity_->setToolTip(tr("A quantity, or a formula of quantities such as speed^2 + Cp"));
    colour_ = new QComboBox;
    colour_->setObjectName("flowColour");
    for (auto* box : {quantity_, colour_}) {
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(8);
    }
    auto withProbe = kColoured;
    withProbe.push_back(Kind::Probe);
    addRow(tr("Show"), quantity_, withProbe);
    const auto take = [this] {
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
    number(tr("Where it is"), "flowValue", {Kind::Surface}, tr("change an item of the flow"), [](Item& i) -> double& {
        return i.value;
    })->setSingleStep(0.05);
    addRow(tr("Coloured by"), colour_, {Kind::Surface});
    connect(colour_, &QComboBox::activated, this, [this](int at) {
        edit(tr("colour an item of the flow"),
             [&](Item& i) { i.colour = colour_->itemData(at).toString().toStdString(); });
    });
    makePlane();
    makeRake();
    makeColours();
    number(tr("Opacity"), "flowOpacity", kFaces, tr("change how opaque it is"),
           [](Item& i) -> double& { return i.opacity; });
    auto* opacity = findChild<QDoubleSpinBox*>("flowOpacity");
    opacity->setRange(0.0, 1.0);
    opacity->setSingleStep(0.1);
    opacity->setDecimals(2);
    clear();
}

void ItemForm::addRow(const QString& label, QWidget* widget, std::vector<Kind> kinds) {
    form_->addRow(label, widget);
    rows_.emplace_back(widget, std::move(kinds));
}

QDoubleSpinBox* ItemForm::number(const QString& label, const char* name, std::vector<Kind> kinds, const QString& intent,
                                 std::function<double&(Item&)> field) {
    auto* box = new QDoubleSpinBox;
    box->setObjectName(name);
    box->setRange(-1e9, 1e9);
    box->setDecimals(4);
    box->setKeyboardTracking(false);
    addRow(label, box, std::move(kinds));
    fillers_.push_back([box, field](const Item& i) {
        Item copy = i;
        box->setValue(field(copy));
    });
    connect(box, &QDoubleSpinBox::valueChanged, this,
            [this, field, intent](double v) { edit(intent, [&](Item& i) { field(i) = v; }); });
    return box;
}

void ItemForm::place(const QString& label, const char* name, std::vector<Kind> kinds, const QString& intent,
                     Vec3 Item::*field) {
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
        box->setAccessibleName(QString("%1, %2").arg(label).arg("xyz"[k]));
        boxes->addWidget(box);
        fillers_.push_back([box, field, k](const Item& i) { box->setValue((i.*field)[k]); });
        connect(box, &QDoubleSpinBox::valueChanged, this,
                [this, field, k, intent](double v) { edit(intent, [&](Item& i) { (i.*field)[k] = v; }); });
    }
    addRow(label, row, std::move(kinds));
}

void ItemForm::check(const QString& words, const char* name, std::vector<Kind> kinds, bool Item::*field) {
    auto* box = new QCheckBox(words);
    box->setObjectName(name);
    addRow({}, box, std::move(kinds));
    fillers_.push_back([box, field](const Item& i) { box->setChecked(i.*field); });
    connect(box, &QCheckBox::clicked, this,
            [this, field, words](bool on) { edit(words, [&](Item& i) { i.*field = on; }); });
}

void ItemForm::whole(const QString& label, const char* name, std::vector<Kind> kinds, int low, int high,
                     const QString& zero, int Item::*field) {
    auto* box = new QSpinBox;
    box->setObjectName(name);
    box->setRange(low, high);
    box->setKeyboardTracking(false);
    if (!zero.isEmpty()) box->setSpecialValueText(zero);
    addRow(label, box, std::move(kinds));
    fillers_.push_back([box, field](const Item& i) { box->setValue(i.*field); });
    connect(box, &QSpinBox::valueChanged, this, [this, field, label](int n) {
        edit(tr("change the number: %1").arg(label), [&](Item& i) { i.*field = n; });
    });
}

void ItemForm::makePlane() {
    axis_ = new QComboBox;
    axis_->setObjectName("flowAxis");
    axis_->addItems({tr("across x"), tr("across y"), tr("across z"), tr("oblique")});
    addRow(tr("Plane"), axis_, kPlanes);
    connect(axis_, &QComboBox::activated, this, [this](int k) {
        edit(tr("turn a plane"), [&](Item& i) { i.normal = k < 3 ? Vec3(Vec3::Unit(k)) : Vec3(1.0, 1.0, 0.0); });
    });
    auto* normal = new QLineEdit;
    normal->setObjectName("flowNormal");
    normal->setToolTip(tr("The normal of the plane, ring or lattice, three numbers"));
    auto kinds = kPlanes;
    kinds.push_back(Kind::Lines);
    normal_ = normal;
    addRow(tr("Its normal"), normal, kinds);
    fillers_.push_back([normal](const Item& i) {
        normal->setText(QString("%1 %2 %3").arg(i.normal.x()).arg(i.normal.y()).arg(i.normal.z()));
    });
    connect(normal, &QLineEdit::editingFinished, this, [this, normal] {
        if (filling_) return;
        const auto words = normal->text().split(' ', Qt::SkipEmptyParts);
        Vec3 n = Vec3::Zero();
        bool good = words.size() == 3;
        for (int k = 0; good && k < 3; ++k) n[k] = words[k].toDouble(&good);
        if (good && n.norm() > 0.0)
            edit(tr("turn a plane"), [&](Item& i) { i.normal = n; });
        else
            emit refused(tr("A plane\u2019s normal is three numbers that are not all zero, such as 1 1 0."));
    });
    place_ = new QSlider(Qt::Horizontal);
    place_->setObjectName("flowPlace");
    place_->setRange(-100, 400);
    addRow(tr("Place"), place_, kPlanes);
    connect(place_, &QSlider::valueChanged, this, [this](int percent) {
        edit(tr("move a plane"), [&](Item& i) {
            const Vec3 n = i.normal.normalized();
            // A little off round values, so that the plane does not run along cell sides.
            i.through = model_.centre() + (0.01 * percent + 1.7e-4 - 0.5) * reachAlong(n) * n;
        });
    });
    auto* at = new QDoubleSpinBox;
    at->setObjectName("flowAt");
    at->setRange(-1e5, 1e5);
    at->setDecimals(4);
    at->setSingleStep(0.01);
    at->setSuffix(" m");
    at->setKeyboardTracking(false);
    addRow(tr("At"), at, kPlanes);
    fillers_.push_back([at](const Item& i) { at->setValue(i.through.dot(i.normal.normalized())); });
    connect(at, &QDoubleSpinBox::valueChanged, this, [this](double v) {
        edit(tr("move a plane"), [&](Item& i) {
            const Vec3 n = i.normal.normalized();
            i.through += (v - i.through.dot(n)) * n;
        });
    });
    place(tr("At [m]"), "probe", {Kind::Probe}, tr("move a probe"), &Item::through);
}

void ItemForm::makeRake() {
    rake_ = new QComboBox;
    rake_->setObjectName("flowRake");
    rake_->addItems({tr("seeds on a line"), tr("seeds on a ring"), tr("a lattice of seeds")});
    addRow(tr("Through"), rake_, {Kind::Lines});
    fillers_.push_back([this](const Item& i) { rake_->setCurrentIndex(static_cast<int>(i.rake)); });
    connect(rake_, &QComboBox::activated, this, [this](int k) {
        edit(tr("change the rake"), [&](Item& i) {
            i.rake = static_cast<Item::Rake>(k);
            // Rings and lattices stand across the wind at first.
            if (i.rake != Item::Rake::Line) i.normal = Vec3::UnitX();
        });
    });
    place(tr("from [m]"), "rakeFrom", {Kind::Lines}, tr("move the rake"), &Item::from);
    place(tr("to [m]"), "rakeTo", {Kind::Lines}, tr("move the rake"), &Item::to);
    whole(tr("How many"), "flowCount", {Kind::Lines, Kind::WallLines, Kind::Arrows, Kind::WallArrows}, 1, 5000, {},
          &Item::count);
}

void ItemForm::makeColours() {
    automatic_ = new QCheckBox(tr("range of the values"));
    automatic_->setObjectName("flowAutomatic");
    automatic_->setToolTip(tr("Without it the ends stay the same for every point"));
    addRow(tr("Colours"), automatic_, kColoured);
    connect(automatic_, &QCheckBox::clicked, this, [this](bool on) {
        edit(tr("change the colour range"), [&](Item& i) {
            i.low = on ? 0.0 : shownLow_;
            i.high = on ? 0.0 : shownHigh_;
        });
    });
    low_ = number(tr("from"), "flowLow", kColoured, tr("change the colour range"),
                  [](Item& i) -> double& { return i.low; });
    high_ = number(tr("to"), "flowHigh", kColoured, tr("change the colour range"),
                   [](Item& i) -> double& { return i.high; });
    whole(tr("Steps"), "flowSteps", kColoured, 0, 64, tr("smooth"), &Item::steps);
    check(tr("contour lines"), "flowContours", kFaces, &Item::contours);
    check(tr("cell values, not interpolated"), "flowByCell", {Kind::Slice}, &Item::byCell);
}

void ItemForm::edit(const QString& intent, const std::function<void(Item&)>& how) {
    if (filling_ || !isEnabled()) return;
    Item next = item_;
    how(next);
    if (!(next == item_)) emit edited(intent, next);
}

void ItemForm::fillQuantities(const field::FlowField& flow) {
    const bool focused = quantity_->lineEdit()->hasFocus() && quantity_->lineEdit()->isModified();
    if (!focused) {
        quantity_->clear();
        const bool onWalls =
            item_.kind == Kind::Wall || item_.kind == Kind::WallLines || item_.kind == Kind::WallArrows;
        if (onWalls) quantity_->addItem(tr("nothing: plain"), "");
        if (onWalls)
            for (const auto& q : view::wallQuantities()) quantity_->addItem(text(q.label), text(q.id));
        for (const auto& q : flow.quantities())
            quantity_->addItem(text(q.unit.empty() ? q.label : q.label + " [" + q.unit + "]"), text(q.id));
        const int at = quantity_->findData(text(item_.quantity));
        if (at >= 0)
            quantity_->setCurrentIndex(at);
        else
            quantity_->setEditText(text(item_.quantity));
        quantity_->lineEdit()->setCursorPosition(0);
    }
    colour_->clear();
    colour_->addItem(tr("plain"), "");
    for (const auto& q : flow.quantities()) colour_->addItem(text(q.label), text(q.id));
    colour_->setCurrentIndex(std::max(0, colour_->findData(text(item_.colour))));
}

void ItemForm::show(const Item& item, const field::FlowField& flow, const view::ItemShape* shape, const Box& model) {
    item_ = item;
    model_ = model;
    setEnabled(true);
    filling_ = true;
    fillQuantities(flow);
    int axis = 3;
    for (int k = 0; k < 3; ++k)
        if (std::abs(item.normal.normalized()[k]) > 1.0 - 1e-9) axis = k;
    axis_->setCurrentIndex(axis);
    const Vec3 n = item.normal.normalized();
    const double reach = reachAlong(n);
    if (!place_->isSliderDown() && reach > 0.0)
        place_->setValue(static_cast<int>(std::lround(100.0 * (n.dot(item.through - model.centre()) / reach + 0.5))));
    for (const auto& fill : fillers_) fill(item);
    const bool own = item.low != item.high;
    automatic_->setChecked(!own);
    if (shape) {
        shownLow_ = shape->low;
        shownHigh_ = shape->high;
        if (!own) {
            low_->setValue(shape->low);
            high_->setValue(shape->high);
        }
    }
    low_->setEnabled(own);
    high_->setEnabled(own);
    for (const auto& [row, kinds] : rows_) {
        bool has = std::find(kinds.begin(), kinds.end(), item.kind) != kinds.end();
        if (row == normal_ && item.kind == Kind::Lines) has = item.rake != Item::Rake::Line;
        row->setVisible(has);
        if (auto* label = form_->labelForField(row)) label->setVisible(has);
    }
    filling_ = false;
}

void ItemForm::clear() {
    setEnabled(false);
}

double ItemForm::reachAlong(const Vec3& n) const {
    const Vec3 size = model_.size();
    return std::max(n.cwiseAbs().dot(size), 0.05 * size.maxCoeff());
}

std::vector<Handle> ItemForm::handlesOf(const Item& item) {
    switch (item.kind) {
        case Kind::Slice:
        case Kind::Arrows:
        case Kind::Cells:
            return {{"plane", item.through, item.normal}};
        case Kind::Probe:
            return {{"probe", item.through, {}}};
        case Kind::Lines:
            return {{"from", item.from, {}}, {"to", item.to, {}}, {"all", 0.5 * (item.from + item.to), {}}};
        default:
            return {};
    }
}

campaign::FlowItem ItemForm::moved(Item item, const std::string& handle, const Vec3& to) {
    if (handle == "plane" || handle == "probe") item.through = to;
    if (handle == "from") item.from = to;
    if (handle == "to") item.to = to;
    if (handle == "all") {
        const Vec3 by = to - 0.5 * (item.from + item.to);
        item.from += by;
        item.to += by;
    }
    return item;
}

}  // namespace cvane::desk
