#pragma once
#include <QByteArray>
#include <QString>
#include <QStringList>

#include "desk/look.h"

namespace cvane::desk {

/// What belongs to the user and not to a campaign: kept in the system's place for settings. Tests turn it off, so that
/// they neither read nor change it.
class UserSettings {
  public:
    static void turnOff();

    /// Campaigns that were open, the last one first; those whose folders are gone are left out.
    static QStringList recentCampaigns();
    static void noteCampaign(const QString& folder);
    static void forgetCampaign(const QString& folder);

    static QByteArray windowGeometry();
    static void noteWindowGeometry(const QByteArray& geometry);

    /// Whether the first steps are still offered by themselves: until they were gone or left once.
    static bool firstStepsWanted();
    static void noteFirstSteps();

    static Theme theme();
    static void noteTheme(Theme theme);

    static int ranks(int otherwise);
    static void noteRanks(int ranks);

    /// Where files were chosen last.
    static QString folder();
    static void noteFolder(const QString& ofFile);
};

/// The picture by which a campaign is known again, in its folder.
QString previewFile(const QString& campaign);

}  // namespace cvane::desk
