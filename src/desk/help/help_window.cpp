#include "desk/help/help_window.h"

#include <QCoreApplication>
#include <QDir>
#include <QFile>
#include <QImage>
#include <QScrollBar>
#include <QTextBlock>
#include <QTextDocument>
#include <QTimer>
#include <QUrl>

namespace cvane::desk {

HelpWindow::HelpWindow(QWidget* parent) : QTextBrowser(parent) {
    setObjectName("help");
    setWindowFlag(Qt::Window);
    setWindowTitle(tr("Guide"));
    resize(760, 720);
    setOpenExternalLinks(true);
    const QDir program(QCoreApplication::applicationDirPath());
    for (const char* place : {"../share/doc/crisp-vane", "../../docs"}) {
        QFile file(program.filePath(QString(place) + "/guide.md"));
        if (!file.open(QIODevice::ReadOnly)) continue;
        document()->setBaseUrl(QUrl::fromLocalFile(QFileInfo(file).absolutePath() + "/"));
        setSearchPaths({QFileInfo(file).absolutePath()});
        document()->setDocumentMargin(16);
        document()->setMarkdown(QString::fromUtf8(file.readAll()));
        found_ = true;
        break;
    }
    if (!found_)
        setPlainText(tr("The guide is not installed beside the program: docs/guide.md of its source holds it."));
}

QVariant HelpWindow::loadResource(int type, const QUrl& name) {
    constexpr int kWidest = 680;
    if (type != QTextDocument::ImageResource) return QTextBrowser::loadResource(type, name);
    const QImage picture(document()->baseUrl().resolved(name).toLocalFile());
    return picture.width() > kWidest ? picture.scaledToWidth(kWidest, Qt::SmoothTransformation) : picture;
}

void HelpWindow::openAt(const QString& heading) {
    show();
    raise();
    activateWindow();
    for (QTextBlock b = document()->begin(); b.isValid(); b = b.next())
        if (b.blockFormat().headingLevel() > 0 && b.text().compare(heading, Qt::CaseInsensitive) == 0) {
            // Once it has been laid out in its place.
            QTimer::singleShot(0, this, [this, position = b.position()] {
                QTextCursor at(document());
                at.setPosition(position);
                setTextCursor(at);
                verticalScrollBar()->setValue(verticalScrollBar()->value() + cursorRect(at).top() - 8);
            });
            return;
        }
    verticalScrollBar()->setValue(0);
}

}  // namespace cvane::desk
