#include "desk/stages/stage.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QGroupBox>
#include <QLineEdit>
#include <QSpinBox>
#include <QToolButton>

#include "base/errors.h"
#include "base/units.h"
#include "campaign/plan/points.h"

namespace cvane::desk {
namespace {
// A number that is half typed is the user's until it is entered.
bool isHalfTyped(const QAbstractSpinBox& box) {
    const auto* edit = box.findChild<QLineEdit*>();
    return box.hasFocus() && edit && edit->isModified();
}
}  // namespace

QVBoxLayout* Stage::makeSheet() {
    sheet_ = new QWidget;
    column_ = new QVBoxLayout(sheet_);
    column_->setContentsMargins(12, 10, 12, 10);
    column_->setSpacing(8);
    auto* head = new QLabel(title());
    QFont f = head->font();
    f.setPointSizeF(1.35 * f.pointSizeF());
    f.setWeight(QFont::DemiBold);
    head->setFont(f);
    column_->addWidget(head);
    return column_;
}

QFormLayout* Stage::section(const QString& title) {
    auto* box = new QGroupBox(title);
    auto* form = new QFormLayout(box);
    form->setContentsMargins(0, 6, 0, 0);
    form->setLabelAlignment(Qt::AlignLeft);
    form->setFieldGrowthPolicy(QFormLayout::AllNonFixedFieldsGrow);
    column_->addWidget(box);
    return form;
}

QFormLayout* Stage::foldedGroup(const QString& title, const char* name) {
    auto* button = new QToolButton;
    button->setObjectName(name);
    button->setText(title);
    button->setCheckable(true);
    button->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
    button->setArrowType(Qt::RightArrow);
    button->setAutoRaise(true);
    column_->addWidget(button);
    auto* rows = new QWidget;
    auto* form = new QFormLayout(rows);
    form->setContentsMargins(0, 0, 0, 0);
    form->setLabelAlignment(Qt::AlignLeft);
    form->setFieldGrowthPolicy(QFormLayout::AllNonFixedFieldsGrow);
    rows->hide();
    column_->addWidget(rows);
    connect(button, &QToolButton::toggled, rows, [button, rows](bool open) {
        rows->setVisible(open);
        button->setArrowType(open ? Qt::DownArrow : Qt::RightArrow);
    });
    return form;
}

QLabel* Stage::note(const QString& text, bool warning) {
    auto* l = new QLabel(text);
    l->setWordWrap(true);
    l->setProperty("role", warning ? "warn" : "note");
    l->setTextInteractionFlags(Qt::TextSelectableByMouse);
    return l;
}

template <class Box, class Value>
Box* Stage::bound(Box* box, QFormLayout* form, const QString& label, const char* name, Value low, Value high,
                  const QString& intent, std::function<Value&(campaign::Settings&)> field) {
    box->setObjectName(name);
    box->setRange(low, high);
    box->setKeyboardTracking(false);
    form->addRow(label, box);
    document_.when(Change::Settings, box, [this, box, field] {
        if (isHalfTyped(*box)) return;
        auto s = document_.settings();
        const QSignalBlocker quiet(box);
        box->setValue(field(s));
    });
    connect(box, &Box::valueChanged, this, [this, field, intent](Value v) {
        if (!document_.isOpen()) return;
        auto s = document_.settings();
        field(s) = v;
        change(intent, s);
    });
    return box;
}

QDoubleSpinBox* Stage::number(QFormLayout* form, const QString& label, const char* name, double low, double high,
                              int decimals, const QString& suffix, const QString& intent,
                              std::function<double&(campaign::Settings&)> field) {
    auto* box = new QDoubleSpinBox;
    box->setDecimals(decimals);
    box->setSuffix(suffix);
    return bound(box, form, label, name, low, high, intent, std::move(field));
}

double Stage::lengthUnit() const {
    return base::unitNamed(base::lengthUnits(), document_.settings().units.length).inSI;
}

QString Stage::lengthSuffix() const {
    return " " + QString::fromStdString(document_.settings().units.length);
}

QDoubleSpinBox* Stage::length(QFormLayout* form, const QString& label, const char* name, double low, double high,
                              int decimals, const QString& intent, std::function<double&(campaign::Settings&)> field) {
    return measured(form, label, name, low, high, decimals, intent, std::move(field), [this] {
        return Shown{lengthUnit(), lengthSuffix()};
    });
}

QDoubleSpinBox* Stage::area(QFormLayout* form, const QString& label, const char* name, double low, double high,
                            int decimals, const QString& intent, std::function<double&(campaign::Settings&)> field) {
    return measured(form, label, name, low, high, decimals, intent, std::move(field), [this] {
        const auto unit = base::unitNamed(base::areaUnits(), document_.settings().units.area);
        return Shown{unit.inSI, unit.symbol == "m2" ? " m\u00b2" : " ft\u00b2"};
    });
}

QDoubleSpinBox* Stage::measured(QFormLayout* form, const QString& label, const char* name, double low, double high,
                                int decimals, const QString& intent, std::function<double&(campaign::Settings&)> field,
                                std::function<Shown()> unit) {
    auto* box = new QDoubleSpinBox;
    box->setObjectName(name);
    box->setDecimals(decimals);
    box->setKeyboardTracking(false);
    form->addRow(label, box);
    const auto dress = [box, low, high, unit] {
        const QSignalBlocker quiet(box);
        box->setRange(low / unit().inSI, high / unit().inSI);
        box->setSuffix(unit().suffix);
    };
    dress();
    document_.when(Change::Settings, box, [this, box, field, dress, unit] {
        if (isHalfTyped(*box)) return;
        auto s = document_.settings();
        if (box->suffix() != unit().suffix) dress();
        const QSignalBlocker quiet(box);
        box->setValue(field(s) / unit().inSI);
    });
    connect(box, &QDoubleSpinBox::valueChanged, this, [this, field, intent, unit](double v) {
        if (!document_.isOpen()) return;
        auto s = document_.settings();
        field(s) = v * unit().inSI;
        change(intent, s);
    });
    return box;
}

QSpinBox* Stage::whole(QFormLayout* form, const QString& label, const char* name, int low, int high, int step,
                       const QString& intent, std::function<int&(campaign::Settings&)> field) {
    auto* box = new QSpinBox;
    box->setSingleStep(step);
    box->setGroupSeparatorShown(true);
    return bound(box, form, label, name, low, high, intent, std::move(field));
}

QLineEdit* Stage::list(QFormLayout* form, const QString& label, const char* name, const QString& intent,
                       std::function<std::vector<double>&(campaign::Settings&)> field) {
    auto* edit = new QLineEdit;
    edit->setObjectName(name);
    edit->setMinimumWidth(60);
    edit->setToolTip(tr("Numbers with commas, or first:last:step"));
    form->addRow(label, edit);
    document_.when(Change::Settings, edit, [this, edit, field] {
        auto s = document_.settings();
        if (!edit->hasFocus() || !edit->isModified())
            edit->setText(QString::fromStdString(campaign::listText(field(s))));
    });
    connect(edit, &QLineEdit::editingFinished, this, [this, edit, field, intent, label] {
        if (!document_.isOpen() || !edit->isModified()) return;
        edit->setModified(false);
        auto s = document_.settings();
        try {
            field(s) = campaign::parseList(edit->text().toStdString(), label.toStdString());
            campaign::pointsOf(s);
            change(intent, s);
        } catch (const base::InputError& e) {
            emit document_.problem(e.what());
        }
        s = document_.settings();
        edit->setText(QString::fromStdString(campaign::listText(field(s))));
    });
    return edit;
}

QComboBox* Stage::choice(QFormLayout* form, const QString& label, const char* name, const QStringList& words,
                         const QString& intent, std::function<int(const campaign::Settings&)> get,
                         std::function<void(campaign::Settings&, int)> set) {
    auto* box = new QComboBox;
    box->setObjectName(name);
    // Long words are cut in the closed box rather than widening the sheet beyond the window.
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(8);
    box->addItems(words);
    form->addRow(label, box);
    document_.when(Change::Settings, box, [this, box, get] {
        const QSignalBlocker quiet(box);
        box->setCurrentIndex(get(document_.settings()));
    });
    connect(box, &QComboBox::currentIndexChanged, this, [this, set, intent](int i) {
        if (!document_.isOpen()) return;
        auto s = document_.settings();
        set(s, i);
        change(intent, s);
    });
    return box;
}

Stage::State Stage::stateOfResult() const {
    const auto* r = document_.selectedReport();
    return !r || !r->result                              ? State::NeedsYou
           : r->state == campaign::PointState::OutOfDate ? State::OutOfDate
                                                         : State::Ready;
}

Stage::Need Stage::needOfResult() const {
    const auto* r = document_.selectedReport();
    return r && document_.reportsKnown() && !r->result && r->state != campaign::PointState::Running ? Need::Result
                                                                                                    : Need::Nothing;
}

double Stage::placeAt(int axis, int percent) const {
    const Box b = document_.measures().bounds;
    // A little off round values, so that the plane does not run along cell sides.
    return b.low[axis] + (0.01 * percent + 1.7e-4) * b.size()[axis];
}

}  // namespace cvane::desk
