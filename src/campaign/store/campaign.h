#pragma once
#include <filesystem>

#include "campaign/plan/points.h"
#include "campaign/settings/settings.h"

namespace cvane::campaign {

/// A folder `name.cvane` on disk.
class Campaign {
  public:
    /// New folder around a copy of a model file. @param facetTolerance  of solids [m]; nothing: the usual one
    /// Throws InputError (exists already, cannot be written, bad model).
    static Campaign create(const std::filesystem::path& folder, const std::filesystem::path& modelFile,
                           const std::string& unit, std::optional<double> facetTolerance = {});
    /// New folder with an aircraft from numbers. Throws InputError as above.
    static Campaign create(const std::filesystem::path& folder, const wing::Aircraft& aircraft);
    /// New folder with a vehicle from its outline. Throws InputError as above.
    static Campaign create(const std::filesystem::path& folder, const vehicle::Outline& outline);
    /// New folder without a model, for work on sections. Throws InputError as above.
    static Campaign createEmpty(const std::filesystem::path& folder);
    bool hasModel() const { return settings.model.any(); }
    /// Brings a folder of schema 1 to the present one, keeping its settings as campaign.schema1.json.
    /// Throws InputError: not a campaign, damaged, newer version.
    static Campaign open(const std::filesystem::path& folder);

    /// Replaces campaign.json in one step. Throws InputError: another program has changed it since it was read here; it
    /// cannot be written.
    void save();
    /// Whether campaign.json is no longer what was read or saved here last.
    bool changedOnDisk() const;
    const std::filesystem::path& folder() const { return folder_; }
    Settings settings;

    /// Throws InputError: there is no model, or it comes from no file.
    std::filesystem::path modelFile() const;

    /// The same with the settings of a point's configuration and set-up in place of the base's. Of one that is seen so
    /// already it is a copy.
    /// How much of the model is in the tunnel follows from the point's wind.
    Campaign of(const Point& point) const;
    /// The same for whatever points there are: as for those without sideslip, unless all have some.
    Campaign of(const std::string& configuration, const std::string& setUp) const;

    /// Whose settings these are; empty: the base's.
    const std::string& configuration() const { return configuration_; }
    const std::string& setUp() const { return setUp_; }

  private:
    Campaign with(const std::string& configuration, const std::string& setUp, bool yaws) const;
    explicit Campaign(std::filesystem::path folder) : folder_(std::move(folder)) {}
    std::filesystem::path folder_;
    std::string configuration_, setUp_;
    std::string onDisk_;  ///< campaign.json as read or saved last
};

}  // namespace cvane::campaign
