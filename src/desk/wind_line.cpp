#include "desk/wind_line.h"

#include <QKeyEvent>
#include <QLineEdit>
#include <algorithm>
#include <cmath>

#include "air/gas.h"
#include "base/errors.h"
#include "base/units.h"
#include "campaign/plan/points.h"
#include "desk/wrap_layout.h"

namespace cvane::desk {
namespace {
/// @param wide  letters that it has room for
QDoubleSpinBox* field(const char* name, double low, double high, int decimals, const QString& suffix,
                      const QString& tip, int wide) {
    auto* box = new QDoubleSpinBox;
    box->setObjectName(name);
    box->setRange(low, high);
    box->setDecimals(decimals);
    box->setSuffix(suffix);
    box->setToolTip(tip);
    box->setAccessibleName(tip);
    box->setKeyboardTracking(false);
    box->setButtonSymbols(QAbstractSpinBox::NoButtons);
    box->setAlignment(Qt::AlignRight);
    box->setFixedWidth(wide * box->fontMetrics().averageCharWidth() + 18);
    return box;
}
}  // namespace

WindLine::WindLine(Document& d, QWidget* parent) : QWidget(parent), document_(d) {
    setObjectName("windLine");
    // The ranges hold what can be typed; what can be run is checked when it is entered, and said.
    constexpr double kAny = 1e6;
    speed_ = field("windSpeed", 0.0, kAny, 2, " m/s", "Speed of the free stream", 11);
    alpha_ = field("windAlpha", -kAny, kAny, 2, "\u00b0", "Angle of attack, nose up positive", 7);
    beta_ = field("windBeta", -kAny, kAny, 2, "\u00b0", "Sideslip, wind from starboard positive", 7);
    altitude_ = field("windAltitude", -1000, 20000, 0, " m", "Altitude of the standard atmosphere", 7);
    offset_ = field("windOffset", -60, 60, 1, " K", "Temperature above standard", 6);
    reynolds_ = field("windReynolds", 0.0, kAny, 4, " M", "Reynolds number on the reference length, in millions", 9);
    mach_ = field("windMach", 0.0, kAny, 4, "", "Mach number", 6);
    q_ = new QLabel;
    q_->setObjectName("windQ");
    const auto button = [](const char* name, const QString& tip) {
        auto* b = new QPushButton;
        b->setObjectName(name);
        b->setToolTip(tip);
        b->setFocusPolicy(Qt::NoFocus);
        b->hide();
        return b;
    };
    add_ = button("windAdd", tr("A further point of the schedule (Enter)"));
    change_ = button("windChange", tr("Instead of the point that is selected; its result stays in the campaign"));
    leave_ = button("windLeave", tr("Back to what the selected point has (Esc)"));
    leave_->setText(tr("Leave it"));
    // No higher than the fields: the line does not move for the offer.
    for (auto* b : {add_, change_, leave_}) b->setFixedHeight(speed_->sizeHint().height());
    auto* row = new WrapLayout(5, this);
    row->setContentsMargins(12, 5, 12, 5);
    const auto word = [](const char* text) { return new QLabel(text); };
    gas_ = new QLabel(tr("Air at"));
    gas_->setObjectName("windGas");
    row->addTogether({gas_, speed_, word(",")});
    row->addTogether({word("alpha"), alpha_, word(",")});
    row->addTogether({word("beta"), beta_, word(",")});
    row->addTogether({word("at"), altitude_});
    row->addTogether({word("standard +"), offset_});
    row->addTogether({word("\u2192 Re"), reynolds_, word(",")});
    row->addTogether({word("Mach"), mach_, word(",")});
    row->addWidget(q_);
    row->addTogether({add_, change_, leave_});
    for (auto* box : {speed_, alpha_, beta_, altitude_, offset_, reynolds_, mach_}) {
        auto* edit = box->findChild<QLineEdit*>();
        box->installEventFilter(this);
        connect(edit, &QLineEdit::textEdited, this, [this, box] {
            bool isNumber = false;
            const double v = box->locale().toDouble(box->cleanText(), &isNumber);
            if (isNumber) drafted(box, v);
        });
        connect(box, &QDoubleSpinBox::valueChanged, this, [this, box](double v) { drafted(box, v); });
    }
    connect(add_, &QPushButton::clicked, this, &WindLine::add);
    connect(change_, &QPushButton::clicked, this, &WindLine::change);
    connect(leave_, &QPushButton::clicked, this, &WindLine::leave);
    d.when(Change::Settings | Change::Selection | Change::Model | Change::Values | Change::Campaign, this,
           [this] { show(); });
    setEnabled(false);
}

bool WindLine::isOfAirOnly() const {
    return draft_ && draft_->condition == draft_->of.condition;
}

bool WindLine::eventFilter(QObject* watched, QEvent* e) {
    if (e->type() != QEvent::KeyPress || !draft_) return QWidget::eventFilter(watched, e);
    const auto* key = static_cast<QKeyEvent*>(e);
    if (key->key() == Qt::Key_Escape) {
        leave();
        return true;
    }
    if (key->key() != Qt::Key_Return && key->key() != Qt::Key_Enter) return QWidget::eventFilter(watched, e);
    key->modifiers() & Qt::ShiftModifier || isOfAirOnly() ? change() : add();
    return true;
}

void WindLine::show() {
    const auto* r = document_.selectedReport();
    setEnabled(document_.isOpen() && r != nullptr);
    // What was typed for one point is not carried over to another.
    if (draft_ && (!r || !(draft_->of == r->point))) draft_.reset();
    if (!r) return;
    if (draft_) {
        showDraft(nullptr);
        return;
    }
    draft_ = Draft{r->point, r->point.condition, document_.settings().air};
    showDraft(nullptr);
    draft_.reset();
}

// @param typed  the field that is being typed in, which keeps its text
void WindLine::showDraft(const QDoubleSpinBox* typed) {
    showing_ = true;
    const auto put = [&](QDoubleSpinBox* box, double value) {
        // A number that is half typed is the user's until it is entered.
        const auto* edit = box->findChild<QLineEdit*>();
        if (box != typed && !(box->hasFocus() && edit && edit->isModified())) box->setValue(value);
    };
    auto s = document_.settings();
    s.air = draft_->air;
    const auto& c = draft_->condition;
    const auto unit = base::unitNamed(base::speedUnits(), s.units.speed);
    if (speed_->suffix() != " " + QString::fromStdString(s.units.speed))
        speed_->setSuffix(" " + QString::fromStdString(s.units.speed));
    put(speed_, c.speed / unit.inSI);
    put(alpha_, c.alpha_deg);
    put(beta_, c.beta_deg);
    put(altitude_, s.air.altitude);
    put(offset_, s.air.temperatureOffset);
    try {
        const auto wind = campaign::windOf(s, c);
        put(reynolds_, wind.reynolds(document_.reference().length) / 1e6);
        put(mach_, wind.mach());
        const bool compressible = campaign::isCompressible(s, wind);
        q_->setText(QString("q %1 Pa, \u03c1 %2 kg/m\u00b3%3")
                        .arg(wind.dynamicPressure(), 0, 'g', 4)
                        .arg(wind.air.density, 0, 'g', 4)
                        .arg(compressible ? tr(", compressible") : QString()));
        q_->setToolTip(tr("Static %1 Pa and %2 K, in total %3 Pa and %4 K")
                           .arg(wind.air.pressure, 0, 'f', 0)
                           .arg(wind.air.temperature, 0, 'f', 2)
                           .arg(air::totalPressure(wind.air, wind.speed), 0, 'f', 0)
                           .arg(air::totalTemperature(wind.air, wind.speed), 0, 'f', 2));
        const QString gas = QString::fromStdString(s.air.gas);
        gas_->setText(tr("%1 at").arg(gas.left(1).toUpper() + gas.mid(1)));
    } catch (const base::InputError& e) {
        q_->setText(e.what());
    }
    const bool offers = !(c == draft_->of.condition) || !(draft_->air == document_.settings().air);
    if (offers) {
        const campaign::Point wanted{c, draft_->of.configuration, draft_->of.setUp, draft_->of.method};
        const auto builds = (s.configurations.size() + 1) * (s.setUps.size() + 1);
        add_->setText(document_.reportOf(wanted) ? tr("Go to that point") : tr("Add this condition"));
        change_->setText(isOfAirOnly() ? tr("Use this air for every point")
                         : campaign::isOfEveryBuild(document_.settings(), draft_->of)
                             ? tr("Change it in all %1 builds").arg(builds)
                             : tr("Change this point"));
    }
    add_->setVisible(offers && !isOfAirOnly());
    change_->setVisible(offers);
    leave_->setVisible(offers);
    q_->setVisible(!offers);  // in its place
    showing_ = false;
}

void WindLine::drafted(QDoubleSpinBox* box, double v) {
    const auto* r = document_.selectedReport();
    if (showing_ || !document_.isOpen() || !r) return;
    if (!draft_) draft_ = Draft{r->point, r->point.condition, document_.settings().air};
    auto& c = draft_->condition;
    auto s = document_.settings();
    s.air = draft_->air;
    // Four decimals: a speed that follows from another number shall be one that can be read.
    const auto rounded = [](double speed) { return std::round(speed * 1e4) / 1e4; };
    try {
        const auto air = [&] { return campaign::windOf(s, {1.0, 0.0, 0.0}).air; };
        if (box == speed_) c.speed = rounded(v * base::unitNamed(base::speedUnits(), s.units.speed).inSI);
        if (box == alpha_) c.alpha_deg = v;
        if (box == beta_) c.beta_deg = v;
        if (box == altitude_) draft_->air.altitude = v;
        if (box == offset_) draft_->air.temperatureOffset = v;
        if (box == mach_) c.speed = rounded(air::speedFromMach(v, air()));
        if (box == reynolds_ && document_.modelReady())
            c.speed = rounded(air::speedFromReynolds(1e6 * v, document_.reference().length, air()));
    } catch (const base::InputError&) {
        // An air that cannot be is said where q stands.
    }
    // A shown value is rounded: one that is typed as it was shown asks for nothing.
    const auto& was = draft_->of.condition;
    if (std::abs(c.speed - was.speed) < 1e-4) c.speed = was.speed;
    showDraft(box);
    if (c == was && draft_->air == document_.settings().air) draft_.reset();
}

void WindLine::take(const QString& intent, const campaign::Point& then, const QString& words,
                    const std::function<void(campaign::Settings&)>& put) {
    const Draft was = *draft_;
    auto next = document_.settings();
    try {
        next.air = was.air;
        put(next);
        draft_.reset();
        document_.change(intent, next);
        document_.select(then);
        show();
        emit said(words);
    } catch (const base::InputError& e) {
        draft_ = was;
        emit document_.problem(e.what());
    }
}

void WindLine::add() {
    if (!draft_) return;
    const campaign::Point wanted{draft_->condition, draft_->of.configuration, draft_->of.setUp, draft_->of.method};
    const QString name = QString::fromStdString(wanted.condition.name());
    if (document_.reportOf(wanted) && draft_->air == document_.settings().air) {
        draft_.reset();
        document_.select(wanted);
        return;
    }
    take(tr("add a condition"), wanted, tr("%1 is in the schedule now; F5 runs it, Ctrl+Z takes it out.").arg(name),
         [&](campaign::Settings& s) { campaign::addPoint(s, wanted); });
}

void WindLine::change() {
    if (!draft_) return;
    auto wanted = draft_->of;
    wanted.condition = draft_->condition;
    if (isOfAirOnly()) {
        take(tr("change the air"), wanted, tr("Every point has this air now."), [](auto&) {});
        return;
    }
    const auto of = draft_->of;
    take(tr("change a condition"), wanted,
         tr("%1 has become %2. What it had stays in the campaign; Ctrl+Z brings it back.")
             .arg(QString::fromStdString(of.condition.name()), QString::fromStdString(wanted.condition.name())),
         [&](campaign::Settings& s) { campaign::movePoint(s, of, wanted.condition); });
}

void WindLine::leave() {
    draft_.reset();
    for (auto* box : {speed_, alpha_, beta_, altitude_, offset_, reynolds_, mach_})
        if (auto* edit = box->findChild<QLineEdit*>()) edit->setModified(false);
    show();
}

}  // namespace cvane::desk
