#pragma once
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "air/free_stream.h"
#include "flow/forces.h"
#include "flow/settle.h"

namespace cvane::readout {

/// How far each coefficient still moves: half its range over the last part of the run. What a finer grid would change is
/// not in it.
struct IterationBand {
    double CL = 0, CD = 0, CY = 0, Cl = 0, Cm = 0, Cn = 0;
};

/// The balance of one part (or of the whole model): forces in the model frame, coefficients in wind axes on the whole
/// model's reference.
struct PartBalance {
    std::string name;
    Vec3 pressureForce = Vec3::Zero(), frictionForce = Vec3::Zero();  ///< [N]
    Vec3 moment = Vec3::Zero();                                       ///< about the moment centre [N m]
    air::Coefficients coefficients;
    Vec3 force() const { return pressureForce + frictionForce; }
};

/// What one finished point says.
struct Result {
    flow::Verdict verdict = flow::Verdict::Running;
    air::FreeStream wind;
    air::Reference reference;
    bool halfModel = false;  ///< forces and coefficients are those of the whole, mirrored model
    int iterations = 0, cells = 0, ranks = 1;
    double seconds = 0;
    air::Coefficients coefficients;  ///< mean over the last part of the run
    IterationBand band;
    PartBalance total;
    std::vector<PartBalance> parts;
    double pressureShareOfDrag = 0;
    double yPlusLow = 0, yPlusMedian = 0, yPlusHigh = 0;
    double massImbalance = 0;
    std::string remark;              ///< in words: why it is not settled, where it diverged
};

/// Balance from loads by patch; `names` are the patch names, entries that are not on the model are passed over.
PartBalance balanceOf(const std::string& name, const flow::Load& load, const air::FreeStream& wind, const air::Reference& reference);

/// result.json: every field with its unit in its name; documented in docs/files.md.
nlohmann::json toJson(const Result& result);
/// Throws InputError when fields are missing or of another version.
Result resultFromJson(const nlohmann::json& json, const std::string& where);

}  // namespace cvane::readout
