#pragma once
#include "lifting/runs.h"

namespace cvane::lifting {

/// An aircraft with one of a row of masses and centres of gravity, and what is asked of it so.
struct Loading {
    wing::Aircraft aircraft;
    Asked asked;
    /// "8.5 kg, centre of gravity at x 0.12 m".
    std::string name() const;
};

/// Each mass [kg] with each centre of gravity, x [m]; of a list that is empty the aircraft's own. Where masses are
/// given each is held in level flight. Throws InputError: a mass that is not above 0, centres of an aircraft whose mass
/// is not known.
std::vector<Loading> loadingsOf(const wing::Aircraft& aircraft, const Asked& asked, std::vector<double> masses,
                                std::vector<double> centres);

/// A table with mass and centre of gravity before each of its lines. @param withHead  its first line names the columns,
/// and comes along
std::string withLoading(const std::string& csv, const wing::Aircraft& aircraft, bool withHead);

}  // namespace cvane::lifting
