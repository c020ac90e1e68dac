#pragma once
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "campaign/store/campaign.h"
#include "section/polar/polar.h"

namespace cvane::campaign {

/// The outline of a section of the campaign, with its changes and its flap. Throws InputError: its file or code cannot
/// be read, a change beyond its range.
section::Contour outlineOf(const Campaign& campaign, const SectionEntry& entry);
/// The same with its flap turned further [deg].
section::Contour turnedOutline(const Campaign& campaign, const SectionEntry& entry, double flapTurn_deg);

/// What the settings' first polar is computed for, at a Reynolds number; its values are the settings' angles.
section::PolarCase polarCaseOf(const SectionSettings& settings, double reynolds);

/// A section that is shown, with one turn of its flap.
struct ShownOutline {
    std::string section;
    double flapTurn_deg = 0.0;  ///< on top of the section's own flap angle
    section::Contour outline;
};
/// All of the settings; those that cannot be made are left out: the one who shows the section says why.
std::vector<ShownOutline> shownOutlines(const Campaign& campaign);

/// An outline's points as keys hold them.
nlohmann::json pointsForKey(const section::Contour& outline);

/// A polar of the campaign: which section, and what for.
struct PolarAsked : ShownOutline {
    section::PolarCase what;
    section::Panelling panelling;
    std::string key;  ///< of all that it depends on: the outline's points, the case, the method's version
};

/// The polars that the settings ask for: each section with each turn of its flap, at each Reynolds number, Mach number
/// and n.
std::vector<PolarAsked> polarsAsked(const Campaign& campaign);

/// What was stored under a key, in sections/polars; nothing: not computed yet, or damaged; fewer points
/// than were asked for: it was stopped. Its points have no states.
std::optional<std::vector<section::PolarPoint>> storedPolar(const Campaign& campaign, const std::string& key);
/// Replaces the file in one step. Throws InputError: it cannot be written.
void storePolar(const Campaign& campaign, const PolarAsked& asked, const std::vector<section::PolarPoint>& points);

/// Where the polars are that strips of lifting surfaces have been read from (lifting::PolarShelf).
std::filesystem::path stripPolars(const std::filesystem::path& campaign);

/// Brings a coordinate file into the campaign's folder, or a code as it is, as a section of a name that is not taken.
/// Throws InputError: neither a file that can be read nor a code.
SectionEntry sectionBrought(const Campaign& campaign, const std::string& fileOrCode);

}  // namespace cvane::campaign
