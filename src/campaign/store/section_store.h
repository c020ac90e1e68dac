#pragma once
#include <optional>
#include <string>
#include <vector>

#include "campaign/store/campaign.h"
#include "section/polar/polar.h"

namespace cvane::campaign {

/// The outline of a section of the campaign, with its changes and its flap. Throws InputError: its file or code cannot
/// be read, a change beyond its range.
section::Contour outlineOf(const Campaign& campaign, const SectionEntry& entry);

/// A polar of the campaign: which section, and what for.
struct PolarAsked {
    std::string section;
    section::PolarCase what;
    section::Panelling panelling;
    std::string key;  ///< of all that it depends on: the outline's points, the case, the method's version
};

/// The polars that the settings ask for, section by section; those of sections that cannot be read are left out.
std::vector<PolarAsked> polarsAsked(const Campaign& campaign);

/// What was stored under a key, in sections/polars; nothing: not computed yet, or damaged. Its points have no states.
std::optional<std::vector<section::PolarPoint>> storedPolar(const Campaign& campaign, const std::string& key);
/// Replaces the file in one step. Throws InputError: it cannot be written.
void storePolar(const Campaign& campaign, const PolarAsked& asked, const std::vector<section::PolarPoint>& points);

/// Brings a coordinate file into the campaign's folder, or a code as it is, as a section of a name that is not taken.
/// Throws InputError: neither a file that can be read nor a code.
SectionEntry sectionBrought(const Campaign& campaign, const std::string& fileOrCode);

}  // namespace cvane::campaign
