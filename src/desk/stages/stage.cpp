#include "desk/stages/stage.h"

#include <QComboBox>
#include <QCoreApplication>
#include <QDoubleSpinBox>
#include <QGroupBox>
#include <QLineEdit>
#include <QSpinBox>
#include <QToolButton>
#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "base/number_list.h"
#include "base/units.h"
#include "campaign/plan/points.h"
#include "campaign/settings/fields.h"
#include "desk/scene.h"

namespace cvane::desk {
namespace {
constexpr int kLeastFieldWidth = 70;  // [px]

// A number that is half typed is the user's until it is entered.
bool isHalfTyped(const QAbstractSpinBox& box) {
    const auto* edit = box.findChild<QLineEdit*>();
    return box.hasFocus() && edit && edit->isModified();
}

// What has been entered is no longer being typed: it follows the settings again, and undo is the window's.
void enter(QAbstractSpinBox& box) {
    if (auto* edit = box.findChild<QLineEdit*>()) edit->setModified(false);
}

// Place of a value among those that may be chosen, and the value at a place.
int placeIn(const campaign::Field& row, const nlohmann::json& value) {
    if (row.kind == campaign::Kind::Flag) return value.get<bool>() ? 1 : 0;
    if (row.kind == campaign::Kind::Whole) return value.get<int>() - static_cast<int>(row.limits.low);
    return static_cast<int>(std::find(row.words.begin(), row.words.end(), value.get<std::string>()) -
                            row.words.begin());
}

nlohmann::json valueAt(const campaign::Field& row, int place) {
    if (row.kind == campaign::Kind::Flag) return place == 1;
    if (row.kind == campaign::Kind::Whole) return place + static_cast<int>(row.limits.low);
    return row.words.at(static_cast<std::size_t>(place));
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

void Stage::explain(QWidget& field, const char* setting) {
    const auto& row = campaign::settingNamed(setting, setting);
    const auto shown = [](const std::string& text) {
        return QCoreApplication::translate("settings", text.c_str()).toHtmlEscaped();
    };
    QStringList lines{"<b>" + shown(row.label) + "</b>"};
    if (!row.help.empty()) lines << shown(row.help);
    // What can be chosen, or ticked, is seen in the field.
    if (row.kind != campaign::Kind::Flag && row.kind != campaign::Kind::Word) lines << shown(row.rangeText());
    lines << QString("<i>%1</i>").arg(setting);
    field.setToolTip("<qt>" + lines.join("<br>") + "</qt>");
}

template <class Field>
Field* Stage::fieldOf(const char* setting, const char* name) {
    auto* field = new Field;
    field->setObjectName(name);
    explain(*field, setting);
    field->setProperty(kAffects, static_cast<int>(campaign::settingNamed(setting, name).affects));
    if constexpr (std::is_base_of_v<QAbstractSpinBox, Field>) field->setKeyboardTracking(false);
    // The widest value of a wide range shall not widen the sheet.
    field->setMinimumWidth(kLeastFieldWidth);
    return field;
}

void Stage::addToolTip(QWidget& field, const QString& text) {
    field.setToolTip(QString(field.toolTip()).replace("</b>", "</b><br>" + text.toHtmlEscaped()));
}

QLabel* Stage::note(const QString& text, bool warning) {
    auto* l = new QLabel(text);
    l->setWordWrap(true);
    l->setProperty("role", warning ? "warn" : "note");
    l->setTextInteractionFlags(Qt::TextSelectableByMouse);
    return l;
}

double Stage::lengthUnit() const {
    return base::unitNamed(base::lengthUnits(), document_.settings().units.length).inSI;
}

QString Stage::lengthSuffix() const {
    return " " + QString::fromStdString(document_.settings().units.length);
}

std::function<Stage::Shown()> Stage::shownUnit(const std::string& unit) const {
    if (unit == "m") return [this] { return Shown{lengthUnit(), lengthSuffix()}; };
    if (unit == "m2")
        return [this] {
            const auto area = base::unitNamed(base::areaUnits(), document_.settings().units.area);
            return Shown{area.inSI, area.symbol == "m2" ? " m\u00b2" : " ft\u00b2"};
        };
    // Other units are said by the row's label.
    return [suffix = QString(unit == "deg" ? "\u00b0" : unit == "x/c" ? " x/c" : "")] { return Shown{1.0, suffix}; };
}

QDoubleSpinBox* Stage::number(QFormLayout* form, const char* setting, const QString& label, const char* name,
                              int decimals, const QString& intent, int component) {
    const auto& row = campaign::settingNamed(setting, name);
    auto* box = numberField(form, setting, label, name, decimals, [&row, component](const campaign::Settings& s) {
        const auto v = row.get(s);
        return (component < 0 ? v : v.at(static_cast<std::size_t>(component))).get<double>();
    });
    connect(box, &QDoubleSpinBox::valueChanged, this,
            [this, box, &row, component, intent, unit = shownUnit(row.unit)](double v) {
                enter(*box);
                if (!document_.isOpen()) return;
                auto s = document_.settings();
                auto next = row.get(s);
                (component < 0 ? next : next.at(static_cast<std::size_t>(component))) = v * unit().inSI;
                row.put(s, next);
                change(intent, s);
            });
    return box;
}

QDoubleSpinBox* Stage::number(QFormLayout* form, const char* setting, const QString& label, const char* name,
                              int decimals, const QString& intent,
                              const std::function<double&(campaign::Settings&)>& valueIn) {
    auto* box =
        numberField(form, setting, label, name, decimals, [valueIn](campaign::Settings s) { return valueIn(s); });
    connect(box, &QDoubleSpinBox::valueChanged, this,
            [this, box, intent, valueIn, unit = shownUnit(campaign::settingNamed(setting, name).unit)](double v) {
                enter(*box);
                if (!document_.isOpen()) return;
                auto s = document_.settings();
                valueIn(s) = v * unit().inSI;
                change(intent, s);
            });
    return box;
}

QDoubleSpinBox* Stage::numberField(QFormLayout* form, const char* setting, const QString& label, const char* name,
                                   int decimals, const std::function<double(const campaign::Settings&)>& valueOf) {
    const auto& row = campaign::settingNamed(setting, name);
    auto* box = fieldOf<QDoubleSpinBox>(setting, name);
    box->setDecimals(decimals);
    form->addRow(label, box);
    const auto unit = shownUnit(row.unit);
    const auto takeUnit = [box, &row, unit, least = std::pow(10.0, -decimals)] {
        const QSignalBlocker quiet(box);
        const auto [inSI, suffix] = unit();
        box->setRange(row.limits.least() / inSI + (row.limits.aboveLow ? least : 0.0), row.limits.high / inSI);
        box->setSuffix(suffix);
    };
    takeUnit();
    document_.when(Change::Settings, box, [this, box, valueOf, takeUnit, unit] {
        if (isHalfTyped(*box)) return;
        if (box->suffix() != unit().suffix) takeUnit();
        const QSignalBlocker quiet(box);
        box->setValue(valueOf(document_.settings()) / unit().inSI);
    });
    return box;
}

QSpinBox* Stage::whole(QFormLayout* form, const char* setting, const QString& label, const char* name, int step,
                       const QString& intent) {
    const auto& row = campaign::settingNamed(setting, name);
    auto* box = fieldOf<QSpinBox>(setting, name);
    box->setSingleStep(step);
    box->setGroupSeparatorShown(true);
    box->setRange(static_cast<int>(row.limits.low), static_cast<int>(row.limits.high));
    form->addRow(label, box);
    document_.when(Change::Settings, box, [this, box, &row] {
        if (isHalfTyped(*box)) return;
        const QSignalBlocker quiet(box);
        box->setValue(row.get(document_.settings()).get<int>());
    });
    connect(box, &QSpinBox::valueChanged, this, [this, box, &row, intent](int v) {
        enter(*box);
        if (!document_.isOpen()) return;
        auto s = document_.settings();
        row.put(s, v);
        change(intent, s);
    });
    return box;
}

QLineEdit* Stage::list(QFormLayout* form, const char* setting, const QString& label, const char* name,
                       const QString& intent) {
    const auto& row = campaign::settingNamed(setting, name);
    auto* edit = fieldOf<QLineEdit>(setting, name);
    addToolTip(*edit, tr("Numbers with commas, or first:last:step"));
    form->addRow(label, edit);
    const auto text = [this, &row] {
        return QString::fromStdString(campaign::listText(row.get(document_.settings()).get<std::vector<double>>()));
    };
    document_.when(Change::Settings, edit, [edit, text] {
        if (!edit->hasFocus() || !edit->isModified()) edit->setText(text());
    });
    connect(edit, &QLineEdit::editingFinished, this, [this, edit, &row, setting, intent, label, text] {
        if (!document_.isOpen() || !edit->isModified()) return;
        edit->setModified(false);
        auto s = document_.settings();
        try {
            const nlohmann::json values = base::numbersIn(edit->text().toStdString(), label.toStdString());
            row.check(values, setting, label.toStdString());
            row.put(s, values);
            campaign::pointsOf(s);
            change(intent, s);
        } catch (const base::InputError& e) {
            emit document_.problem(e.what());
        }
        edit->setText(text());
    });
    return edit;
}

QComboBox* Stage::choice(QFormLayout* form, const char* setting, const QString& label, const char* name,
                         const QString& intent, const QStringList& words) {
    const auto& row = campaign::settingNamed(setting, name);
    auto* box = fieldOf<QComboBox>(setting, name);
    // Long words are cut in the closed box rather than widening the sheet beyond the window.
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(8);
    box->addItems(words);
    if (words.isEmpty())
        for (const auto& w : row.words) box->addItem(QString::fromStdString(w));
    form->addRow(label, box);
    document_.when(Change::Settings, box, [this, box, &row] {
        const QSignalBlocker quiet(box);
        box->setCurrentIndex(placeIn(row, row.get(document_.settings())));
    });
    connect(box, &QComboBox::currentIndexChanged, this, [this, &row, intent](int i) {
        if (!document_.isOpen() || i < 0) return;
        auto s = document_.settings();
        row.put(s, valueAt(row, i));
        change(intent, s);
    });
    return box;
}

Stage::State Stage::stateOfResult() const {
    const auto* r = document_.selectedReport();
    return !document_.modelReady()                       ? State::NeedsModel
           : !r || !r->result                            ? State::AfterRun
           : r->state == campaign::PointState::OutOfDate ? State::OutOfDate
                                                         : State::Ready;
}

Stage::Need Stage::needOfResult() const {
    const auto* r = document_.selectedReport();
    return r && document_.reportsKnown() && !r->result && r->state != campaign::PointState::Running ? Need::Result
                                                                                                    : Need::Nothing;
}

QString Stage::provisionalNote() const {
    const auto* r = document_.selectedReport();
    if (!r || !r->provisional()) return {};
    return tr("~ Provisional: %1 after %2 iterations%3. ")
        .arg(QString::fromStdString(campaign::nameOf(r->state)))
        .arg(r->result->iterations)
        .arg(r->result->readings().onGrid.empty() ? QString()
                                                  : tr(" on a coarser grid of %L1 cells").arg(r->result->cells));
}

void Stage::drawModel() {
    const auto& s = document_.placed();
    for (std::size_t p = 0; p < s.parts.size(); ++p)
        if (s.parts[p].inTheAir)
            scene_.keep("part " + std::to_string(p), std::to_string(document_.modelGeneration()),
                        [&] { return scene::surfaceActor(s, static_cast<int>(p), QColor(0xd8, 0xcf, 0xba), 1.0); });
}

double Stage::placeAt(int axis, int percent) const {
    const Box b = document_.measures().bounds;
    // A little off round values, so that the plane does not run along cell sides.
    return b.low[axis] + (0.01 * percent + 1.7e-4) * b.size()[axis];
}

}  // namespace cvane::desk
