#include "desk/stages/gas_panel.h"

#include <QFormLayout>
#include <algorithm>

#include "air/gas.h"
#include "base/errors.h"
#include "campaign/plan/points.h"
#include "desk/stages/typed_values.h"

namespace cvane::desk {
namespace {
QString numberText(std::optional<double> v) {
    return v ? QString::number(*v, 'g', 7) : QString();
}
}  // namespace

GasPanel::GasPanel(Document& d) : document_(d) {
    auto* form = new QFormLayout(this);
    form->setContentsMargins(0, 0, 0, 0);
    gas_ = new QComboBox;
    gas_->setObjectName("gas");
    gas_->setToolTip(
        tr("What the tunnel is filled with. Gases of your own stand in the campaign under air.own_gases."));
    connect(gas_, &QComboBox::activated, this, [this](int row) {
        take(tr("change the gas"), [name = gas_->itemText(row).toStdString()](auto& air) { air.gas = name; });
    });
    form->addRow(tr("Gas"), gas_);
    pressure_ = line("gasPressure", tr("Static pressure of the free stream; empty: that of the standard atmosphere"),
                     &campaign::AirSettings::pressure);
    form->addRow(tr("Static pressure [Pa]"), pressure_);
    temperature_ =
        line("gasTemperature", tr("Static temperature of the free stream; empty: that of the standard atmosphere"),
             &campaign::AirSettings::temperature);
    form->addRow(tr("Static temperature [K]"), temperature_);
    stream_ = new QLabel;
    stream_->setObjectName("streamInTotal");
    stream_->setWordWrap(true);
    form->addRow(stream_);
    d.when(Change::Settings | Change::Selection | Change::Campaign, this, [this] { show(); });
    show();
}

QLineEdit* GasPanel::line(const char* name, const QString& tip, std::optional<double> campaign::AirSettings::*which) {
    auto* edit = new QLineEdit;
    edit->setObjectName(name);
    edit->setToolTip(tip);
    edit->setPlaceholderText(tr("standard atmosphere"));
    connect(edit, &QLineEdit::editingFinished, this, [this, edit, which] {
        if (!edit->isModified()) return;
        edit->setModified(false);
        std::optional<double> typed;
        if (const QString text = edit->text().trimmed(); !text.isEmpty()) {
            double v = 0.0;
            if (!readNumber(text, v)) {
                emit document_.problem(
                    tr("\u201c%1\u201d is no number. Type one, or nothing for the standard atmosphere.").arg(text));
                show();
                return;
            }
            typed = v;
        }
        take(tr("change the gas's state"), [which, typed](auto& air) { air.*which = typed; });
    });
    return edit;
}

void GasPanel::take(const QString& intent, const std::function<void(campaign::AirSettings&)>& how) {
    if (!document_.isOpen()) return;
    auto s = document_.settings();
    how(s.air);
    try {
        campaign::airOf(s.air);
        document_.change(intent, s);
    } catch (const base::InputError& e) {
        emit document_.problem(e.what());
    }
    show();
}

QString GasPanel::wordsOfStream() const {
    const auto* r = document_.selectedReport();
    if (!r) return {};
    const auto wind = campaign::windOf(document_.settings(), r->point.condition);
    const double total = air::totalPressure(wind.air, wind.speed);
    const QString state = tr("Free stream: %1 Pa, %2 K, %3 kg/m\u00b3; in total %4 Pa, %5 K.")
                              .arg(wind.air.pressure, 0, 'f', 0)
                              .arg(wind.air.temperature, 0, 'f', 2)
                              .arg(wind.air.density, 0, 'g', 5)
                              .arg(total, 0, 'f', 0)
                              .arg(air::totalTemperature(wind.air, wind.speed), 0, 'f', 2);
    return state + " " +
           (campaign::isCompressible(document_.settings(), wind)
                ? tr("Mach %1: computed as compressible.").arg(wind.mach(), 0, 'f', 3)
                : tr("Mach %1: computed as incompressible.").arg(wind.mach(), 0, 'f', 3));
}

void GasPanel::show() {
    setEnabled(document_.isOpen());
    if (!document_.isOpen()) return;
    const auto& air = document_.settings().air;
    gas_->clear();
    for (const auto& g : campaign::gasesOf(air)) gas_->addItem(QString::fromStdString(g.name));
    gas_->setCurrentText(QString::fromStdString(air.gas));
    // What is half typed is the user's until it is entered.
    if (!(pressure_->hasFocus() && pressure_->isModified())) pressure_->setText(numberText(air.pressure));
    if (!(temperature_->hasFocus() && temperature_->isModified())) temperature_->setText(numberText(air.temperature));
    try {
        stream_->setText(wordsOfStream());
    } catch (const base::InputError& e) {
        stream_->setText(e.what());
    }
}

}  // namespace cvane::desk
