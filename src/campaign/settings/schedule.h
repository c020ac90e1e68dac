#pragma once
#include <optional>
#include <string>
#include <vector>

#include "base/vec3.h"
#include "campaign/settings/method.h"

namespace cvane::campaign {

/// One wind or attitude of the schedule.
struct Condition {
    double speed = 0;  ///< [m/s]
    double alpha_deg = 0, beta_deg = 0;
    bool operator==(const Condition&) const = default;
    std::string name() const;  ///< "v12.00_a-2.00_b0.00"
};

/// Further conditions under a name, which can be left out together: every speed with every alpha and beta.
struct PointGroup {
    std::string name;
    bool on = true;
    std::vector<double> speeds{20.0}, alphas_deg{0.0}, betas_deg{0.0};
    std::string configuration, setUp;  ///< of which; empty: of every one, "base": of the base alone
    bool operator==(const PointGroup&) const = default;
};

/// A condition of one configuration in one set-up; empty names stand for the base.
struct SinglePoint {
    Condition condition;
    std::string configuration, setUp;
    bool operator==(const SinglePoint&) const = default;
};

/// A lift that a run shall have, and what follows until it has it.
struct HeldLift {
    enum class Of { Coefficient, Force };  ///< CL, or the lift [N]
    enum class Follows { Alpha, Speed };
    bool on = true;
    Of of = Of::Coefficient;
    double value = 0.5;
    Follows follows = Follows::Alpha;
    Condition from{20.0, 0.0, 0.0};    ///< the first try; what does not follow stays as it is here
    std::string configuration, setUp;  ///< empty: the base
    bool operator==(const HeldLift&) const = default;
};

/// By which methods each condition is run.
enum class Methods { Field, LiftingSurface, Both, Panels, PanelsAndField, All };
/// The quick one first.
std::vector<Method> listOf(Methods methods);

/// Which points are run: every speed with every alpha and beta in every configuration and set-up, without some of
/// these conditions, and with others; those of groups; single ones; those by which held lifts are reached.
struct Schedule {
    std::vector<double> speeds{20.0};  ///< [m/s]
    std::vector<double> alphas_deg{0.0};
    std::vector<double> betas_deg{0.0};
    std::vector<Condition> also, leftOut;
    std::vector<PointGroup> groups;
    std::vector<SinglePoint> single;
    std::vector<HeldLift> held;
    Methods methods = Methods::Field;
    /// Wind that first heights on the wall and the layer of a ground at rest are for, where it is not the fastest of
    /// the schedule: speed [m/s], altitude [m], degrees above standard [K].
    std::optional<Vec3> heightsWind;
    bool operator==(const Schedule&) const = default;
};

}  // namespace cvane::campaign
