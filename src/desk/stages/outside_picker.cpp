#include "desk/stages/outside_picker.h"

#include <QFileDialog>

#include "base/errors.h"
#include "desk/start/user_settings.h"

namespace cvane::desk {

OutsidePicker::OutsidePicker(Document& document, const QString& says, QWidget* parent)
    : QComboBox(parent), document_(document), says_(says) {
    setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    setMinimumContentsLength(8);
    fill();
    connect(this, &QComboBox::activated, this, [this](int at) {
        if (itemData(at).toString() == "add")
            ask();
        else
            emit picked();
    });
}

void OutsidePicker::fill() {
    const QString chosen = currentData().toString();
    clear();
    addItem(tr("nothing"), "");
    if (document_.isOpen())
        for (const auto& f : campaign::outsideDataOf(document_.base().folder()))
            addItem(QString::fromStdString(f.stem().string()), QString::fromStdString(f.string()));
    addItem(tr("another table\u2026"), "add");
    setCurrentIndex(std::max(0, findData(chosen)));
}

void OutsidePicker::ask() {
    setCurrentIndex(0);
    const QString file = QFileDialog::getOpenFileName(this, says_, UserSettings::folder(),
                                                      tr("Tables (*.csv *.txt *.dat);;All files (*)"));
    if (!file.isEmpty()) {
        UserSettings::noteFolder(file);
        take(file);
    } else {
        emit picked();
    }
}

void OutsidePicker::take(const QString& file) {
    if (!document_.isOpen()) return;
    try {
        const auto kept = campaign::keepOutsideData(document_.base().folder(), file.toStdString());
        fill();
        setCurrentIndex(findData(QString::fromStdString(kept.string())));
    } catch (const base::InputError& e) {
        setCurrentIndex(0);
        emit document_.problem(e.what());
    }
    emit picked();
}

std::optional<campaign::OutsideData> OutsidePicker::data() const {
    const QString file = currentData().toString();
    if (file.isEmpty() || file == "add") return std::nullopt;
    try {
        return campaign::readOutsideData(file.toStdString());
    } catch (const base::InputError& e) {
        emit document_.problem(e.what());
        return std::nullopt;
    }
}

}  // namespace cvane::desk
