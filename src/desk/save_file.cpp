#include "desk/save_file.h"

#include <QFileDialog>

#include "base/errors.h"
#include "campaign/store/own_files.h"
#include "desk/message_line.h"

namespace cvane::desk {

QString askWhereToSave(QWidget* parent, const QString& title, const QString& proposal, const QString& kinds) {
    const QString file = QFileDialog::getSaveFileName(parent, title, proposal, kinds);
    if (file.isEmpty()) return {};
    try {
        campaign::refuseOwnFile(file.toStdString());
    } catch (const base::InputError& e) {
        if (auto* line = parent->window()->findChild<MessageLine*>()) line->warn(e.what());
        return {};
    }
    return file;
}

}  // namespace cvane::desk
