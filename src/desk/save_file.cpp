#include "desk/save_file.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QMessageBox>
#include <QRegularExpression>
#include <QStandardPaths>

#include "base/errors.h"
#include "campaign/store/own_files.h"
#include "desk/message_line.h"

namespace cvane::desk {

QString withEnding(const QString& file, const QString& kind, const QString& proposal) {
    if (!QFileInfo(file).suffix().isEmpty()) return file;
    const auto first = QRegularExpression("\\*\\.(\\w+)").match(kind);
    const QString ending = first.hasMatch() ? first.captured(1) : QFileInfo(proposal).suffix();
    return ending.isEmpty() ? file : file + "." + ending;
}

QString askWhereToSave(QWidget* parent, const QString& title, const QString& proposal, const QString& kinds) {
    QString kind;
    QString file = QFileDialog::getSaveFileName(parent, title, proposal, kinds, &kind);
    if (file.isEmpty()) return {};
    if (const QString whole = withEnding(file, kind, proposal); whole != file) {
        file = whole;
        // The dialog has asked for another name.
        if (QFileInfo::exists(file) &&
            QMessageBox::question(parent, title, QObject::tr("%1 is there already. Replace it?").arg(file)) !=
                QMessageBox::Yes)
            return {};
    }
    try {
        campaign::refuseOwnFile(file.toStdString());
    } catch (const base::InputError& e) {
        if (auto* line = parent->window()->findChild<MessageLine*>()) line->warn(e.what());
        return {};
    }
    return file;
}

QString askWhereToSaveFilm(QWidget* parent, const QString& title, const QString& stem) {
    const bool joins = !QStandardPaths::findExecutable("ffmpeg").isEmpty();
    return askWhereToSave(parent, title, stem + (joins ? ".mp4" : ".png"),
                          joins ? QObject::tr("Films (*.mp4 *.webm);;Numbered pictures (*.png)")
                                : QObject::tr("Numbered pictures: there is no ffmpeg here to join them (*.png)"));
}

}  // namespace cvane::desk
