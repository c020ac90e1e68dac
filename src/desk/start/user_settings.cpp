#include "desk/start/user_settings.h"

#include <QDir>
#include <QFileInfo>
#include <QSettings>

namespace cvane::desk {
namespace {
bool off = false;
constexpr int kMostRecent = 12;

QVariant valueOf(const char* key, const QVariant& otherwise = {}) {
    return off ? otherwise : QSettings("crisp-vane", "crisp-vane").value(key, otherwise);
}
void note(const char* key, const QVariant& value) {
    if (!off) QSettings("crisp-vane", "crisp-vane").setValue(key, value);
}
}  // namespace

void UserSettings::turnOff() {
    off = true;
}

QStringList UserSettings::recentCampaigns() {
    auto all = valueOf("recent").toStringList();
    all.removeIf([](const QString& folder) { return !QFileInfo::exists(folder + "/campaign.json"); });
    return all;
}

void UserSettings::noteCampaign(const QString& folder) {
    const QString path = QDir(folder).absolutePath();
    auto all = valueOf("recent").toStringList();
    all.removeAll(path);
    all.prepend(path);
    note("recent", all.mid(0, kMostRecent));
}

void UserSettings::forgetCampaign(const QString& folder) {
    auto all = valueOf("recent").toStringList();
    all.removeAll(folder);
    note("recent", all);
}

QByteArray UserSettings::windowGeometry() {
    return valueOf("window").toByteArray();
}
void UserSettings::noteWindowGeometry(const QByteArray& geometry) {
    note("window", geometry);
}

bool UserSettings::firstStepsWanted() {
    return !off && !valueOf("firstStepsDone", false).toBool();
}
void UserSettings::noteFirstSteps() {
    note("firstStepsDone", true);
}

Theme UserSettings::theme() {
    const auto word = valueOf("theme", "system").toString();
    return word == "dark" ? Theme::Dark : word == "light" ? Theme::Light : Theme::System;
}
void UserSettings::noteTheme(Theme theme) {
    note("theme", theme == Theme::Dark ? "dark" : theme == Theme::Light ? "light" : "system");
}

int UserSettings::ranks(int otherwise) {
    const int n = valueOf("ranks", otherwise).toInt();
    return n > 0 ? n : otherwise;
}
void UserSettings::noteRanks(int ranks) {
    note("ranks", ranks);
}

QString UserSettings::folder() {
    const auto last = valueOf("folder").toString();
    return QFileInfo(last).isDir() ? last : QDir::homePath();
}
void UserSettings::noteFolder(const QString& ofFile) {
    note("folder", QFileInfo(ofFile).absolutePath());
}

QString previewFile(const QString& campaign) {
    return campaign + "/preview.png";
}

}  // namespace cvane::desk
