#include "desk/variant_picker.h"

#include <QInputDialog>
#include <QLabel>
#include <QVBoxLayout>
#include <algorithm>

#include "base/errors.h"
#include "campaign/settings/variants.h"

namespace cvane::desk {

VariantPicker::VariantPicker(Document& d, QWidget* parent) : QWidget(parent), document_(d) {
    setObjectName("variantPicker");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 6, 4, 0);
    column->setSpacing(2);
    const auto row = [&](QComboBox*& box, const QString& label, const char* name, const QString& tip) {
        column->addWidget(new QLabel(label));
        box = new QComboBox;
        box->setObjectName(name);
        box->setToolTip(tip);
        box->setAccessibleName(label);
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        column->addWidget(box);
        connect(box, &QComboBox::activated, this, [this, box](int at) {
            if (at == box->count() - 1) {
                show();  // back to what is looked at, until there is a new one
                box == configuration_ ? makeConfiguration() : makeSetUp();
                return;
            }
            document_.lookAt(configuration_->currentData().toString().toStdString(),
                             setUp_->currentData().toString().toStdString());
        });
    };
    row(configuration_, tr("Configuration"), "configuration",
        tr("Model, reference values and devices are those of this one; changing them changes it alone."));
    row(setUp_, tr("Set-up"), "setUp",
        tr("Tunnel, grid, flow and air are those of this one; changing them changes it alone."));
    d.when(Change::Campaign | Change::Settings | Change::Selection, this, [this] { show(); });
    setVisible(false);
}

void VariantPicker::show() {
    const auto fill = [](QComboBox* box, const std::vector<campaign::Variant>& all, const std::string& now) {
        const QSignalBlocker quiet(box);
        box->clear();
        box->addItem(tr("base"), QString());
        for (const auto& v : all) box->addItem(QString::fromStdString(v.name), QString::fromStdString(v.name));
        box->setCurrentIndex(std::max(0, box->findData(QString::fromStdString(now))));
        box->addItem(tr("another one\u2026"), QVariant());
    };
    const auto& s = document_.base().settings;
    fill(configuration_, s.configurations, document_.configuration());
    fill(setUp_, s.setUps, document_.setUp());
    setVisible(document_.base().hasModel());
}

void askForVariant(QWidget* over, Document& document, std::vector<campaign::Variant> campaign::Settings::*list,
                   const QString& title, const QString& proposal, const nlohmann::json& patch) {
    if (!document.isOpen()) return;
    bool ok = false;
    const QString name =
        QInputDialog::getText(over, title, QObject::tr("Name"), QLineEdit::Normal, proposal, &ok).trimmed();
    if (!ok) return;
    auto next = document.base().settings;
    (next.*list).push_back({name.toStdString(), patch});
    try {
        campaign::checkVariantName(next.*list, "");
    } catch (const base::InputError& e) {
        emit document.problem(e.what());
        return;
    }
    document.changeBase(title.toLower(), next);
    const bool configuration = list == &campaign::Settings::configurations;
    document.lookAt(configuration ? name.toStdString() : document.configuration(),
                    configuration ? document.setUp() : name.toStdString());
}

void VariantPicker::makeConfiguration() {
    askForVariant(this, document_, &campaign::Settings::configurations, tr("New configuration"));
}
void VariantPicker::makeSetUp() {
    askForVariant(this, document_, &campaign::Settings::setUps, tr("New set-up"));
}

void VariantPicker::remove(List list, const std::string& name, const QString& intent) {
    if (!document_.isOpen()) return;
    if (name.empty()) {
        emit document_.problem(tr("The base stays. Choose the configuration or set-up to take out first."));
        return;
    }
    auto next = document_.base().settings;
    campaign::removeVariant(next,
                            list == &campaign::Settings::configurations ? campaign::VariantKind::Configuration
                                                                        : campaign::VariantKind::SetUp,
                            name, "");
    document_.changeBase(intent, next);
}

void VariantPicker::removeConfiguration() {
    remove(&campaign::Settings::configurations, document_.configuration(), tr("take out a configuration"));
}
void VariantPicker::removeSetUp() {
    remove(&campaign::Settings::setUps, document_.setUp(), tr("take out a set-up"));
}

}  // namespace cvane::desk
