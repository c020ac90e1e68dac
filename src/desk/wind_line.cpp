#include "desk/wind_line.h"

#include <QHBoxLayout>
#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "base/units.h"
#include "campaign/points.h"

namespace cvane::desk {
namespace {
QDoubleSpinBox* field(const char* name, double low, double high, int decimals, const QString& suffix, const QString& tip) {
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
    altitude_ = field("windAltitude", -2000, 32000, 0, " m", "Altitude of the standard atmosphere");
    offset_ = field("windOffset", -100, 100, 1, " K", "Temperature above standard");
    reynolds_ = field("windReynolds", 1e-5, 1e4, 4, " M", "Reynolds number on the reference length, in millions");
    mach_ = field("windMach", 1e-5, 0.88, 4, "", "Mach number");
    q_ = new QLabel;
    q_->setObjectName("windQ");
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(12, 5, 12, 5);
    row->setSpacing(5);
    const auto word = [&](const char* text) { row->addWidget(new QLabel(text)); };
    word("Air at");
    row->addWidget(speed_);
    word(", alpha");
    row->addWidget(alpha_);
    word(", beta");
    row->addWidget(beta_);
    word(", at");
    row->addWidget(altitude_);
    word("standard +");
    row->addWidget(offset_);
    word("\u2192 Re");
    row->addWidget(reynolds_);
    word(", Mach");
    row->addWidget(mach_);
    row->addWidget(q_);
    row->addStretch(1);
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
    for (auto signal : {&Document::settingsChanged, &Document::selectionChanged, &Document::modelChanged, &Document::opened}) connect(&d, signal, this, &WindLine::show);
    setEnabled(false);
}

void WindLine::show() {
    const auto* r = document_.selectedReport();
    setEnabled(document_.isOpen() && r != nullptr);
    if (!r) return;
    showing_ = true;
    const auto& s = document_.settings();
    const auto unit = base::unitNamed(base::speedUnits(), s.units.speed);
    speed_->setSuffix(" " + QString::fromStdString(s.units.speed));
    speed_->setValue(r->point.speed / unit.inSI);
    alpha_->setValue(r->point.alpha_deg);
    beta_->setValue(r->point.beta_deg);
    altitude_->setValue(s.air.altitude);
    offset_->setValue(s.air.temperatureOffset);
    try {
        const auto wind = campaign::windOf(s, r->point);
        reynolds_->setValue(wind.reynolds(document_.reference().length) / 1e6);
        mach_->setValue(wind.mach());
        q_->setText(QString(", q %1 Pa, \u03c1 %2 kg/m\u00b3").arg(wind.dynamicPressure(), 0, 'g', 4).arg(wind.air.density, 0, 'f', 4));
    } catch (const base::InputError& e) {
        q_->setText(e.what());
    }
    showing_ = false;
}

namespace {
void replaceIn(std::vector<double>& list, double from, double to) {
    for (double& v : list)
        if (std::abs(v - from) < 1e-9) v = to;
    std::sort(list.begin(), list.end());
    list.erase(std::unique(list.begin(), list.end()), list.end());
}
}  // namespace

void WindLine::typedSpeed(double v) {
    const auto* r = document_.selectedReport();
    if (!r) return;
    auto next = document_.settings();
    replaceIn(next.schedule.speeds, r->point.speed, std::round(v * 1e4) / 1e4);
    document_.change(tr("change the speed"), next);
    show();
}

void WindLine::typedAngle(bool alpha, double degrees) {
    const auto* r = document_.selectedReport();
    if (showing_ || !r) return;
    auto next = document_.settings();
    if (alpha)
        replaceIn(next.schedule.alphas_deg, r->point.alpha_deg, degrees);
    else
        replaceIn(next.schedule.betas_deg, r->point.beta_deg, degrees);
    document_.change(alpha ? tr("change the angle of attack") : tr("change the sideslip"), next);
}

void WindLine::typedAir() {
    if (showing_ || !document_.isOpen()) return;
    auto next = document_.settings();
    next.air = {altitude_->value(), offset_->value()};
    document_.change(tr("change the air"), next);
    show();
}

}  // namespace cvane::desk
