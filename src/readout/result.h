#pragma once
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "air/free_stream.h"
#include "flow/devices.h"
#include "flow/forces.h"
#include "flow/settle.h"

namespace cvane::readout {

/// The balance of one part (or of the whole model): forces in the model frame, coefficients in wind axes on the whole
/// model's reference.
struct PartBalance {
    std::string name;
    Vec3 pressureForce = Vec3::Zero(), frictionForce = Vec3::Zero();  ///< [N]
    Vec3 moment = Vec3::Zero();                                       ///< about the moment centre [N m]
    air::Coefficients coefficients;
    Vec3 force() const { return pressureForce + frictionForce; }
};

/// The same point on a grid with fewer cells.
struct CoarseResult {
    int cells = 0, iterations = 0;
    flow::Verdict verdict = flow::Verdict::Running;
    air::Coefficients coefficients;
    std::vector<CoarseResult> coarser;          ///< on a grid with still fewer cells: one or none
    std::optional<double> pressureShareOfDrag;  ///< nothing in results of before
};

/// Of CD, by what makes it.
struct DragParts {
    double pressure = 0.0, friction = 0.0;
};

/// Something in a result that cannot be, or that calls for a look.
struct Finding {
    std::string what;           ///< a sentence or two: what, how much, what to do
    std::optional<Vec3> place;  ///< [m]
};

/// What a verdict was asked by: it holds for these settings and for those that ask for less.
struct Asked {
    double toleranceCD = 0.0, toleranceCL = 0.0;
    int mostIterations = 0, leastIterations = 0;
    bool operator==(const Asked&) const = default;
};
Asked askedBy(const flow::FlowSettings& settings);

/// The forces of a point, whichever method found them.
struct Balance {
    air::FreeStream wind;
    air::Reference reference;
    bool halfModel = false;          ///< forces and coefficients are those of the whole, mirrored model
    air::Coefficients coefficients;  ///< at rest the last values, of a swinging flow the means
    PartBalance total;
    std::vector<PartBalance> parts;
    double pressureShareOfDrag = 0;
};

/// How it was come by, and how far it can be trusted.
struct Trust {
    /// Running: provisional, of a run that goes on, was stopped or failed.
    flow::Verdict verdict = flow::Verdict::Running;
    bool provisional() const { return verdict == flow::Verdict::Running; }
    std::optional<Asked> asked;                ///< nothing in results of before, and of methods that are not iterated
    int iterations = 0, cells = 0, ranks = 1;  ///< cells: panels or the like, of other methods than the field
    double seconds = 0;
    /// How far each coefficient may still be from what the iteration leads to: its range over the last part of the run
    /// and what is still to go, or the error of its mean. What a finer grid would change is not in it.
    air::Coefficients band;
    std::optional<CoarseResult> coarse;
    /// The cells are smaller where the flow asked for it, which those of the coarse grids are not: no order can be seen
    /// over the three.
    bool cellsFollowedFlow = false;
    air::Coefficients swing;  ///< half the range over the last part of the run
    int averagedOver = 0;     ///< iterations that coefficients and fields are means of; 0: none, the flow is at rest
    std::vector<Finding> findings;  ///< what looks wrong in it
    std::string remark;             ///< in words: where it diverged
};

/// What is read from a flow that fills the tunnel.
struct FieldReadings {
    /// Of a provisional one: the coarser grid that its values are of, "coarse" or "coarsest"; empty: the point's own.
    std::string onGrid;
    /// Kinematic static pressure of the free stream in the flow's file's place of zero [m2/s2]: already taken out of
    /// flow.cgns, not of a checkpoint.
    double freePressure = 0.0;
    bool compressible = false;
    double highestMach = 0;        ///< of compressible flow, anywhere in it
    double enthalpyImbalance = 0;  ///< of compressible flow: total enthalpy that leaves less what comes in, over that
    double yPlusLow = 0, yPlusMedian = 0, yPlusHigh = 0;
    double massImbalance = 0;
    /// The model's force found from outside: momentum through the tunnel's sides, ground and devices [N]; nothing in
    /// results of before.
    std::optional<Vec3> forceFromOutside;
    /// Of the boundary layer on a ground at rest where the model begins: displacement thickness [m]; nothing without
    /// such a ground.
    std::optional<double> groundDisplacement;
    std::vector<flow::DiscReading> discs;
    std::vector<flow::PorousReading> blocks;
};

/// What one point says: at its end, or provisionally on the way there.
struct Result : Balance, Trust {
    std::map<std::string, std::string> sums;  ///< checksums of the files that belong to it; empty in results of before
    std::optional<FieldReadings> field;       ///< nothing of a method that has no field
    /// The same, with nothing read where there is no field.
    const FieldReadings& readings() const;
    /// How far each coefficient may lie from that of a very fine grid, by the grids on which it has settled
    /// (readout/grid_band.h): of three or of two. Nothing where the coarse one did not settle. Drag of pressure and of
    /// friction may move against each other with the cells: CD is not held for better known than the root of the sum
    /// of their squares.
    std::optional<air::Coefficients> gridBand() const;
    /// The same of the two parts of CD, each by itself; nothing where a grid's parts are not known.
    std::optional<DragParts> gridBandOfDrag() const;
    /// On how many grids that rests: 0, 2 or 3.
    int gridsOfBand() const;
    /// The order that CD shows over three grids; nothing of two, or where they do not approach one value.
    std::optional<double> orderOfDrag() const;
    /// Both bands together.
    air::Coefficients trust() const;
    /// By how much drag and lift found from outside differ from the balance's, as coefficients; 0 where they were not.
    double outsideCD() const;
    double outsideCL() const;
};

/// In words: the remark, and of one that swings, is not settled or provisional how far it still moves, on the result's
/// reference.
std::string remarkOf(const Result& result);

/// How far the difference a - b of each coefficient may lie from that of very fine grids: errors that both points share
/// drop out of it, since what is compared over the grids is the difference itself. With what both iterations leave
/// open. Nothing where one of them has no coarse grid that settled.
std::optional<air::Coefficients> bandOfDifference(const Result& a, const Result& b);

/// Balance from loads by patch; `names` are the patch names, entries that are not on the model are passed over.
PartBalance balanceOf(const std::string& name, const flow::Load& load, const air::FreeStream& wind,
                      const air::Reference& reference);

/// result.json: every field with its unit in its name; documented in docs/files.md.
nlohmann::json toJson(const Result& result);
nlohmann::json toJson(const CoarseResult& result);
CoarseResult coarseFromJson(const nlohmann::json& json, const std::string& where);
/// Throws InputError when fields are missing or of another version.
Result resultFromJson(const nlohmann::json& json, const std::string& where);

}  // namespace cvane::readout
