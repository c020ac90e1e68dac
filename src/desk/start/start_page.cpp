#include "desk/start/start_page.h"

#include <QCoreApplication>
#include <QDateTime>
#include <QDir>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPixmap>
#include <QPushButton>
#include <QScrollArea>
#include <QStandardPaths>
#include <QVBoxLayout>
#include <filesystem>

#include "desk/start/user_settings.h"

namespace cvane::desk {
namespace {
constexpr QSize kPreview(144, 90);

QPushButton* way(const QString& text, const QString& says, const char* name) {
    auto* button = new QPushButton(text + "\n" + says);
    button->setObjectName(name);
    button->setMinimumHeight(56);
    button->setProperty("role", "way");
    return button;
}

QLabel* heading(const QString& text) {
    auto* label = new QLabel(text);
    auto font = label->font();
    font.setBold(true);
    label->setFont(font);
    label->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    return label;
}
}  // namespace

QString demoFolder() {
    const QDir program(QCoreApplication::applicationDirPath());
    for (const char* place : {"../share/crisp-vane/demo", "../../demo"})
        if (QDir(program.filePath(place)).exists("larkspur.cvane"))
            return QDir(program.filePath(place)).canonicalPath();
    return {};
}

StartPage::StartPage(QWidget* parent) : QWidget(parent) {
    setObjectName("startPage");
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(36, 28, 36, 28);
    row->setSpacing(36);
    auto* ways = new QVBoxLayout;
    ways->setSpacing(8);
    auto* title = new QLabel("Crisp Vane");
    auto font = title->font();
    font.setPointSizeF(2.2 * font.pointSizeF());
    title->setFont(font);
    ways->addWidget(title);
    auto* says =
        new QLabel(tr("A virtual wind tunnel. Bring a surface or a section, let the air blow, read what it does."));
    says->setWordWrap(true);
    ways->addWidget(says);
    ways->addSpacing(12);
    auto* model = way(tr("A vehicle or wing from a file"), tr("STL, OBJ, PLY, STEP or IGES; or drop one anywhere here"),
                      "startModel");
    auto* sections =
        way(tr("Sections and their polars"), tr("coordinates in any order, or a code such as 4412"), "startSections");
    auto* wing = way(tr("A wing or an aircraft from numbers"), tr("stations in a table; its polar within a second"),
                     "startWing");
    auto* outline = way(tr("A vehicle from its side view"),
                        tr("corners, radii, wheels and plates; a closed body at once"), "startOutline");
    auto* open = way(tr("Open a campaign"), tr("a folder that ends in .cvane"), "startOpen");
    connect(model, &QPushButton::clicked, this, &StartPage::wantsModel);
    connect(sections, &QPushButton::clicked, this, &StartPage::wantsSections);
    connect(wing, &QPushButton::clicked, this, &StartPage::wantsWing);
    connect(outline, &QPushButton::clicked, this, &StartPage::wantsOutline);
    connect(open, &QPushButton::clicked, this, &StartPage::wantsOpen);
    for (auto* button : {model, sections, wing, outline, open}) ways->addWidget(button);
    ways->addSpacing(12);
    fillDemos(ways);
    ways->addStretch(1);
    auto* holder = new QWidget;
    holder->setLayout(ways);
    holder->setMaximumWidth(440);
    // A low window scrolls.
    auto* area = new QScrollArea;
    area->setFrameShape(QFrame::NoFrame);
    area->setFocusPolicy(Qt::NoFocus);
    area->setWidgetResizable(true);
    area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    area->setMaximumWidth(440);
    area->setWidget(holder);
    row->addWidget(area, 2);

    auto* right = new QVBoxLayout;
    right->addWidget(heading(tr("Worked on lately")));
    recent_ = new QListWidget;
    recent_->setObjectName("recentCampaigns");
    recent_->setAccessibleName(tr("Worked on lately"));
    recent_->setIconSize(kPreview);
    recent_->setSpacing(4);
    recent_->setWordWrap(true);
    recent_->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(recent_, &QListWidget::itemActivated, this,
            [this](QListWidgetItem* item) { emit opens(item->data(Qt::UserRole).toString()); });
    connect(recent_, &QListWidget::itemClicked, this,
            [this](QListWidgetItem* item) { emit opens(item->data(Qt::UserRole).toString()); });
    connect(recent_, &QListWidget::customContextMenuRequested, this, [this](const QPoint& at) {
        auto* item = recent_->itemAt(at);
        if (!item) return;
        QMenu menu;
        menu.addAction(tr("Take off this list; the folder stays"), this, [this, item] {
            UserSettings::forgetCampaign(item->data(Qt::UserRole).toString());
            refresh();
        });
        menu.exec(recent_->viewport()->mapToGlobal(at));
    });
    right->addWidget(recent_, 1);
    auto* none =
        new QLabel(tr("Campaigns that you open or make are listed here, with a picture of each.\n\n"
                      "New here? Take a demo on the left: it is computed in a copy of yours, in some minutes. "
                      "F1 explains the work in its order."));
    none->setWordWrap(true);
    none->setAlignment(Qt::AlignTop);
    none_ = none;
    right->addWidget(none, 1);
    row->addLayout(right, 3);
    refresh();
}

void StartPage::fillDemos(QVBoxLayout* column) {
    const QString from = demoFolder();
    if (from.isEmpty()) return;
    column->addWidget(heading(tr("Demos, each in a copy of yours")));
    const std::tuple<const char*, QString, QString> demos[] = {
        {"larkspur", tr("Larkspur"), tr("a small car over a moving ground")},
        {"brindle", tr("Brindle"), tr("a glider\u2019s wing, half of it computed")},
        {"corbel", tr("Corbel"), tr("a towed bird with a ring tail, built from numbers")},
        {"linnet", tr("Linnet"), tr("a dart with four fins through Mach 1")},
        {"tansy", tr("Tansy"), tr("a section, polars at three Reynolds numbers")}};
    for (const auto& [name, title, says] : demos) {
        if (!QDir(from).exists(QString(name) + ".cvane")) continue;
        auto* button = new QPushButton(title + ": " + says);
        button->setObjectName(QString("demo-") + name);
        button->setProperty("role", "way");
        connect(button, &QPushButton::clicked, this, [this, from, name = QString(name)] {
            // What is computed must not land in the installed one; a copy that is there is gone on with.
            const QDir home(QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation) + "/Crisp Vane");
            const QString to = home.filePath(name + ".cvane");
            std::error_code ec;
            if (!QFileInfo::exists(to)) {
                QDir().mkpath(home.path());
                std::filesystem::copy((from + "/" + name + ".cvane").toStdString(), to.toStdString(),
                                      std::filesystem::copy_options::recursive, ec);
            }
            emit opens(to);
        });
        column->addWidget(button);
    }
}

void StartPage::refresh() {
    recent_->clear();
    for (const QString& folder : UserSettings::recentCampaigns()) {
        const QFileInfo info(folder);
        auto* item = new QListWidgetItem(
            tr("%1\n%2\nchanged %3")
                .arg(info.completeBaseName(), info.absolutePath(),
                     QFileInfo(folder + "/campaign.json").lastModified().toString("d MMM yyyy, hh:mm")),
            recent_);
        item->setData(Qt::UserRole, folder);
        QPixmap picture(previewFile(folder));
        if (picture.isNull()) {
            picture = QPixmap(kPreview);
            picture.fill(palette().color(QPalette::Midlight));
        }
        item->setIcon(picture.scaled(kPreview, Qt::KeepAspectRatioByExpanding, Qt::SmoothTransformation));
    }
    recent_->setVisible(recent_->count() > 0);
    none_->setVisible(recent_->count() == 0);
}

}  // namespace cvane::desk
