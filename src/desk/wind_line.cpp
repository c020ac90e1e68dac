#include "desk/wind_line.h"

#include <QLineEdit>
#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "base/units.h"
#include "campaign/plan/points.h"
#include "desk/wrap_layout.h"

namespace cvane::desk {
namespace {
QDoubleSpinBox* field(const char* name, double low, double high, int decimals, const QString& suffix,
                      const QString& tip) {
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
    return box;
}
}  // namespace

WindLine::WindLine(Document& d, QWidget* parent) : QWidget(parent), document_(d) {
    setObjectName("windLine");
    speed_ = field("windSpeed", 0.01, 300, 2, " m/s", "Speed of the free stream");
    alpha_ = field("windAlpha", -90, 90, 2, "\u00b0", "Angle of attack, nose up positive");
    beta_ = field("windBeta", -90, 90, 2, "\u00b0", "Sideslip, wind from starboard positive");
    altitude_ = field("windAltitude", -1000, 20000, 0, " m", "Altitude of the standard atmosphere");
    offset_ = field("windOffset", -60, 60, 1, " K", "Temperature above standard");
    reynolds_ = field("windReynolds", 1e-5, 1e4, 4, " M", "Reynolds number on the reference length, in millions");
    mach_ = field("windMach", 1e-5, 0.88, 4, "", "Mach number");
    q_ = new QLabel;
    q_->setObjectName("windQ");
    auto* row = new WrapLayout(5, this);
    row->setContentsMargins(12, 5, 12, 5);
    const auto word = [](const char* text) { return new QLabel(text); };
    row->addTogether({word("Air at"), speed_});
    row->addTogether({word(", alpha"), alpha_});
    row->addTogether({word(", beta"), beta_});
    row->addTogether({word(", at"), altitude_});
    row->addTogether({word("standard +"), offset_});
    row->addTogether({word("\u2192 Re"), reynolds_});
    row->addTogether({word(", Mach"), mach_});
    row->addWidget(q_);
    connect(speed_, &QDoubleSpinBox::valueChanged, this, [this](double v) {
        if (!showing_) typedSpeed(v * base::unitNamed(base::speedUnits(), document_.settings().units.speed).inSI);
    });
    connect(alpha_, &QDoubleSpinBox::valueChanged, this, [this](double v) { typedAngle(true, v); });
    connect(beta_, &QDoubleSpinBox::valueChanged, this, [this](double v) { typedAngle(false, v); });
    connect(altitude_, &QDoubleSpinBox::valueChanged, this, &WindLine::typedAir);
    connect(offset_, &QDoubleSpinBox::valueChanged, this, &WindLine::typedAir);
    connect(reynolds_, &QDoubleSpinBox::valueChanged, this, [this](double v) {
        if (showing_ || !document_.modelReady()) return;
        const auto wind = campaign::windOf(document_.settings(), {1.0, 0.0, 0.0});
        typedSpeed(air::speedFromReynolds(1e6 * v, document_.reference().length, wind.air));
    });
    connect(mach_, &QDoubleSpinBox::valueChanged, this, [this](double v) {
        if (showing_ || !document_.isOpen()) return;
        typedSpeed(air::speedFromMach(v, campaign::windOf(document_.settings(), {1.0, 0.0, 0.0}).air));
    });
    d.when(Change::Settings | Change::Selection | Change::Model | Change::Points | Change::Campaign, this,
           [this] { show(); });
    setEnabled(false);
}

void WindLine::show() {
    const auto* r = document_.selectedReport();
    setEnabled(document_.isOpen() && r != nullptr);
    if (!r) return;
    // A number that is half typed is the user's until it is entered.
    for (const auto* box : {speed_, alpha_, beta_, altitude_, offset_, reynolds_, mach_})
        if (const auto* edit = box->findChild<QLineEdit*>(); box->hasFocus() && edit && edit->isModified()) return;
    showing_ = true;
    const auto& s = document_.settings();
    const auto unit = base::unitNamed(base::speedUnits(), s.units.speed);
    // The range is that of the speed, not of the number: 0.01 to 300 m/s in the unit that is shown.
    speed_->setRange(0.01 / unit.inSI, 300.0 / unit.inSI);
    speed_->setSuffix(" " + QString::fromStdString(s.units.speed));
    speed_->setValue(r->point.condition.speed / unit.inSI);
    alpha_->setValue(r->point.condition.alpha_deg);
    beta_->setValue(r->point.condition.beta_deg);
    altitude_->setValue(s.air.altitude);
    offset_->setValue(s.air.temperatureOffset);
    try {
        const auto wind = campaign::windOf(s, r->point.condition);
        reynolds_->setValue(wind.reynolds(document_.reference().length) / 1e6);
        mach_->setValue(wind.mach());
        q_->setText(QString(", q %1 Pa, \u03c1 %2 kg/m\u00b3")
                        .arg(wind.dynamicPressure(), 0, 'g', 4)
                        .arg(wind.air.density, 0, 'f', 4));
    } catch (const base::InputError& e) {
        q_->setText(e.what());
    }
    showing_ = false;
}

void WindLine::typedSpeed(double v) {
    const auto* r = document_.selectedReport();
    if (!r) return;
    auto condition = r->point.condition;
    condition.speed = std::round(v * 1e4) / 1e4;
    replaceCondition(tr("change the speed"), condition);
    show();
}

void WindLine::typedAngle(bool alpha, double degrees) {
    const auto* r = document_.selectedReport();
    if (showing_ || !r) return;
    auto condition = r->point.condition;
    (alpha ? condition.alpha_deg : condition.beta_deg) = degrees;
    replaceCondition(alpha ? tr("change the angle of attack") : tr("change the sideslip"), condition);
}

void WindLine::replaceCondition(const QString& intent, const campaign::Condition& to) {
    const auto* r = document_.selectedReport();
    if (!r || to == r->point.condition) return;
    const campaign::Point before = r->point;
    auto next = document_.settings();
    try {
        campaign::replaceCondition(next.schedule, before.condition, to);
        document_.change(intent, next);
        document_.select({to, before.configuration, before.setUp, before.method});
    } catch (const base::InputError& e) {
        emit document_.problem(e.what());
        show();
    }
}

void WindLine::typedAir() {
    if (showing_ || !document_.isOpen()) return;
    auto next = document_.settings();
    next.air = {altitude_->value(), offset_->value()};
    document_.change(tr("change the air"), next);
    show();
}

}  // namespace cvane::desk
