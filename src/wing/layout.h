#pragma once
#include <vector>

#include "wing/aircraft.h"

namespace cvane::wing {

/// A section ready to be asked for its sides and its mean line between its foremost point (0) and its tail (1). Unit
/// chord from (0, 0) to (1, 0).
class Profile {
  public:
    explicit Profile(const section::Contour& unitChord);
    using Vec2 = section::Vec2;
    Vec2 upper(double x) const { return at(upper_, x); }
    Vec2 lower(double x) const { return at(lower_, x); }
    Vec2 mean(double x) const { return 0.5 * (upper(x) + lower(x)); }

  private:
    static Vec2 at(const std::vector<Vec2>& side, double x);
    std::vector<Vec2> upper_, lower_;  ///< dense, from nose to tail
};

/// The outline that a station names, on the unit chord. Throws InputError: neither code nor own section.
section::Contour outlineOf(const Aircraft& aircraft, const std::string& section);

/// Where a lifting surface stands in the model frame: straight lines between the like places of neighbouring stations.
/// Twist turns a section about its quarter chord; at a break of dihedral it stands in the plane between both panels',
/// on the mirror plane in that plane. Of a mirrored surface it is the starboard half.
class Layout {
  public:
    /// @param port  controls turn as they do on the mirrored half; places are still those of the starboard one
    Layout(const Aircraft& aircraft, const LiftingSurface& surface, bool port);

    enum class Line { Upper, Lower, Mean };
    /// @param along  place along the surface [m];  @param x  [chords];  @param within  a place along the same panel and
    /// control that says which of them counts where two meet
    Vec3 at(Line line, double along, double x, double within) const;
    double chord(double along) const;
    Vec3 quarter(double along) const;  ///< quarter point of the chord line [m]

    /// Panel between stations that a place lies in.
    std::size_t panelAt(double along) const;
    /// Control that turns the surface there, or nothing.
    const Control* controlAt(double along) const;
    /// Ends of panels and controls from root to tip.
    const std::vector<double>& breaks() const { return breaks_; }
    /// Hinge line of a control from its inner to its outer end.
    std::pair<Vec3, Vec3> hinge(const Control& control) const;

  private:
    struct Rib {
        Vec3 leading, chordwise, normal;
        double chord;
        std::size_t profile;
    };
    Vec3 onRib(std::size_t station, Line line, double x, const Control* control) const;
    const LiftingSurface& surface_;
    bool port_;
    std::vector<Profile> profiles_;
    std::vector<Rib> ribs_;
    std::vector<double> breaks_;
};

/// n + 1 places from 0 to 1.
std::vector<double> spaced(int n, Spacing spacing);
/// Edges of the strips of a surface along it [m]; a panel that a control's end parts has its strips shared out.
std::vector<double> stripEdges(const LiftingSurface& surface, const std::vector<double>& breaks);
/// Edges of the rows along the chord; one lies on each hinge.
std::vector<double> rowEdges(const LiftingSurface& surface);

}  // namespace cvane::wing
