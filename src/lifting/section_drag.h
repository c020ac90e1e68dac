#pragma once
#include <filesystem>
#include <map>
#include <memory>
#include <mutex>
#include <string>

#include "base/progress.h"
#include "section/polar/polar.h"
#include "wing/lattice.h"

namespace cvane::lifting {

/// What a strip's section does of itself.
struct SectionSays {
    double cd = 0.0;
    bool stalled = false;  ///< the lift asked for is beyond what the section has
};

/// Where the sections' layers turn.
struct Transition {
    double nCritical = 9.0;                   ///< as section::SectionCase
    double tripUpper = 1.0, tripLower = 1.0;  ///< x/c; 1: not tripped
    auto operator<=>(const Transition&) const = default;
};

/// Polars that have been computed, for whoever needs them next; several may at once, programs too where it has a
/// folder.
class PolarShelf {
  public:
    /// @param folder  keeps them beyond the program; it is made when the first is put there. Empty: in memory alone
    explicit PolarShelf(std::filesystem::path folder = {}) : folder_(std::move(folder)) {}
    struct Polar {
        std::vector<double> alpha, cl, cd;  ///< points that have converged, by angle
        std::size_t low = 0, high = 0;      ///< of least and greatest lift
    };
    /// An outline by what makes it, its transition, the control that turns it (hinge and angle; 0: none), and the step
    /// of the Reynolds number.
    struct Key {
        std::string section;
        Transition transition;
        double hinge, angle_deg;
        int step;
        auto operator<=>(const Key&) const = default;
    };
    /// Nothing: not there, or what the folder has of it is damaged.
    std::shared_ptr<const Polar> of(const Key& key) const;
    /// Throws InputError: the folder cannot be written.
    void put(const Key& key, Polar polar);

  private:
    std::filesystem::path fileOf(const Key& key) const;
    std::filesystem::path folder_;
    mutable std::mutex mutex_;
    mutable std::map<Key, std::shared_ptr<const Polar>> known_;
};

/// Polars of the sections that an aircraft's strips have, at Reynolds numbers a factor of two apart, in between by the
/// logarithm; of turned controls every five degrees, in between by the angle; between two sections of a panel by the
/// strip's share. Without a Mach number.
class PolarBook {
  public:
    PolarBook(const wing::Aircraft& aircraft, const Transition& transition, std::shared_ptr<PolarShelf> shelf);
    /// Computes what these strips need at a speed [m/s] and is not there yet, on all cores.
    /// @param viscosity  kinematic [m2/s]. Throws InputError: a section or Reynolds number beyond its range; Cancelled.
    void prepare(const wing::Lattice& lattice, double speed, double viscosity, const base::Progress& progress = {});
    /// Of a strip at its lift and speed. Throws InputError: no polar there.
    SectionSays of(const wing::Strip& strip, double cl, double reynolds) const;
    /// Its lift at an angle between wind and chord line [rad]; beyond its polar that of the nearest point.
    double liftAt(const wing::Strip& strip, double alpha, double reynolds) const;
    /// Angle without lift of the strip's mean line in potential flow of thin sections, [rad].
    /// Source: H. Glauert, The Elements of Aerofoil and Airscrew Theory, 1926, ch. VII.
    double thinZeroLift(const wing::Strip& strip) const;

  private:
    using Key = PolarShelf::Key;
    using Polar = PolarShelf::Polar;
    /// The turns between which a strip's lies, and the share of the second.
    struct Turns {
        double hinge = 0.0, first_deg = 0.0, second_deg = 0.0, share = 0.0, angle_deg = 0.0;
    };
    Turns turnsOf(const wing::Strip& strip) const;
    const std::string& outlineKey(const std::string& section) const;
    template <class Value>
    double between(const wing::Strip& strip, double reynolds, Value&& value) const;
    const wing::Aircraft& aircraft_;
    std::map<std::string, std::string> ownOutlines_;  ///< by name, as keys have them
    Transition transition_;
    std::shared_ptr<PolarShelf> shelf_;
};

}  // namespace cvane::lifting
