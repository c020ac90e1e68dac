#pragma once
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "campaign/store/section_store.h"
#include "section/coupled/point.h"

namespace cvane::campaign {

/// A section in the field solver: k-omega SST, turbulent from the nose on, on a C grid (grid/c_grid.h).
struct SectionField {
    double reynolds = 1e6;
    double mach = 0.0;          ///< above 0 the air is compressible
    int level = 1;              ///< of the grid: 0, 1, 2 with 5,000, 19,000, 77,000 cells
    double turbulence = 0.001;  ///< of the wind, rms over speed
    int mostIterations = 1500;
};

struct SectionFieldPoint {
    double alpha = 0.0;  ///< [rad]
    double cl = 0.0, cd = 0.0, cdFriction = 0.0, cm = 0.0;
    bool settled = false;
    bool blewUp = false;  ///< the solver gave up: coefficients are 0
    int cells = 0, iterations = 0;
    double seconds = 0.0, residual = 0.0, highestYPlus = 0.0;
    /// Along the wall, upper and lower side from nose to tail: x/c, Cp, cf (on the wind's pressure, against it
    /// negative).
    struct Wall {
        double x, Cp, cf;
    };
    std::vector<Wall> upper, lower;
};

/// What plots and tables of polars show of it; converged: settled.
section::PointFigures figuresOf(const SectionFieldPoint& point, double reynolds);

/// Fields in docs/files.md.
nlohmann::json jsonOf(const SectionFieldPoint& point);
/// Throws InputError: not what jsonOf writes.
SectionFieldPoint fieldPointFrom(const nlohmann::json& j);

/// Angles of one section at one Reynolds number in the field.
struct FieldAsked : ShownOutline {
    SectionField what;
    std::string key;  ///< of the outline's points, the case and the solver's version
};

/// What the settings ask for in the field: shown sections, one by one, at each Reynolds number and flap.
std::vector<FieldAsked> fieldsAsked(const Campaign& campaign);

/// Points under a key, in sections/fields, by angle; empty: none, or damaged.
std::vector<SectionFieldPoint> storedFields(const Campaign& campaign, const std::string& key);
/// Adds a point, in place of one at the same angle unless that one settled and this one did not.
/// Throws InputError: it cannot be written.
void storeField(const Campaign& campaign, const FieldAsked& asked, const SectionFieldPoint& point);

}  // namespace cvane::campaign
