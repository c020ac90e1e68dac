#include "lifting/loadings.h"

#include <fmt/format.h>

#include <sstream>

#include "base/errors.h"

namespace cvane::lifting {

std::string Loading::name() const {
    return fmt::format("{:.6g} kg, centre of gravity at x {:.6g} m", aircraft.mass, aircraft.centreOfGravity.x());
}

std::vector<Loading> loadingsOf(const wing::Aircraft& aircraft, const Asked& asked, std::vector<double> masses,
                                std::vector<double> centres) {
    const bool held = !masses.empty();
    if (!held) masses = {aircraft.mass};
    for (const double m : masses)
        if (!(m > 0.0) && (held || !centres.empty()))
            throw base::InputError(
                held ? fmt::format("a mass is {:g} kg.", m) : std::string("there is no mass that could have a centre."),
                held ? "masses" : "centres",
                held ? "Give masses above 0." : "Give masses too, or that of the aircraft.");
    if (centres.empty()) centres = {aircraft.centreOfGravity.x()};
    std::vector<Loading> out;
    for (const double mass : masses)
        for (const double centre : centres) {
            out.push_back({aircraft, asked});
            out.back().aircraft.mass = mass;
            out.back().aircraft.centreOfGravity.x() = centre;
            if (held || asked.holdMass) out.back().asked.holdMass = mass;
        }
    return out;
}

std::string withLoading(const std::string& csv, const wing::Aircraft& a, bool withHead) {
    std::istringstream in(csv);
    std::string out, line;
    for (bool head = true; std::getline(in, line); head = false) {
        if (head && !withHead) continue;
        out +=
            (head ? "mass_kg,centre_x_m," : fmt::format("{:.7g},{:.7g},", a.mass, a.centreOfGravity.x())) + line + "\n";
    }
    return out;
}

}  // namespace cvane::lifting
