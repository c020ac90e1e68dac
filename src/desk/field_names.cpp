#include "desk/field_names.h"

#include <QAbstractButton>
#include <QFormLayout>
#include <QGroupBox>
#include <QLabel>

namespace cvane::desk {

void nameFields(QWidget& sheet) {
    for (auto* form : sheet.findChildren<QFormLayout*>())
        for (int row = 0; row < form->rowCount(); ++row) {
            const auto* labelItem = form->itemAt(row, QFormLayout::LabelRole);
            auto* fieldItem = form->itemAt(row, QFormLayout::FieldRole);
            auto* label = labelItem ? qobject_cast<QLabel*>(labelItem->widget()) : nullptr;
            if (!label || !fieldItem) continue;
            const auto name = [&](QWidget* field) {
                if (!field || qobject_cast<QAbstractButton*>(field)) return;
                if (field->accessibleName().isEmpty()) field->setAccessibleName(label->text());
                if (!label->buddy()) label->setBuddy(field);
            };
            name(fieldItem->widget());
            // Several fields in one row share its words.
            if (auto* inner = fieldItem->layout())
                for (int k = 0; k < inner->count(); ++k) name(inner->itemAt(k)->widget());
        }
}

}  // namespace cvane::desk
