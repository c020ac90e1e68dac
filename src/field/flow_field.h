#pragma once
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <string>
#include <vector>

#include "air/free_stream.h"
#include "field/mesh.h"

namespace cvane::field {

/// What the walls feel, one entry a wall face in the order of `face`.
struct WallValues {
    std::vector<FaceIndex> face;
    std::vector<double> Cp;     ///< pressure coefficient
    std::vector<Vec3> Cf;       ///< shear over q
    std::vector<double> yPlus;  ///< of the cell's middle
};

/// How the values of a quantity are to be read, which its colours follow.
enum class Sense {
    Level,      ///< any value may be common
    FromZero,   ///< zero is where nothing happens, as in air that has lost no total pressure
    AboutZero,  ///< zero is the middle
};

/// A quantity of the air that can be drawn, probed and put into formulas.
struct Quantity {
    std::string id, label, unit;
    Sense sense = Sense::Level;
};

/// A point's flow with its grid: stored arrays by name, and all that follows from them. What has been worked out is
/// kept. May be asked from several threads.
class FlowField {
  public:
    /// @param arrays  cell values by the names of the flow's file: VelocityX, VelocityY, VelocityZ [m/s],
    /// PressureKinematic [m2/s2], and with a turbulence model ViscosityEddyKinematic [m2/s] and its own variables
    /// (and of compressible flow Density [kg/m3] and Temperature [K]).
    /// Throws InputError: an array that is missing or does not have one value a cell.
    FlowField(std::shared_ptr<const Mesh> mesh, std::map<std::string, std::vector<double>> arrays,
              const air::FreeStream& wind, WallValues wall = {});

    const Mesh& mesh() const { return *mesh_; }
    const air::FreeStream& wind() const { return wind_; }
    const WallValues& wall() const { return wall_; }

    /// Those that this flow has, in the order in which they are offered.
    const std::vector<Quantity>& quantities() const { return quantities_; }
    /// Throws InputError: no such quantity, with those that there are.
    const Quantity& quantity(const std::string& id) const;
    /// One value a cell. A formula's name is its text (see formula.h). Throws InputError as quantity().
    const std::vector<double>& inCells(const std::string& id) const;
    /// One value a point of the grid, smooth through the cells.
    const std::vector<double>& atPoints(const std::string& id) const;
    const std::vector<Vec3>& velocity() const { return velocity_; }                          ///< [m/s], one a cell
    const std::vector<double>& pressure() const { return arrays_.at("PressureKinematic"); }  ///< [m2/s2], one a cell
    const std::vector<Vec3>& velocityAtPoints() const;
    const std::vector<Mat3>& velocityGradient() const;  ///< [1/s], one a cell

  private:
    std::vector<double> compute(const std::string& id) const;
    std::vector<double> computeOfGas(const std::string& id) const;
    bool isCompressible() const { return arrays_.contains("Temperature"); }
    std::vector<double> perCell(const std::function<double(std::size_t)>& value) const;
    void list();

    std::shared_ptr<const Mesh> mesh_;
    std::map<std::string, std::vector<double>> arrays_;
    air::FreeStream wind_;
    WallValues wall_;
    std::vector<Vec3> velocity_;
    std::vector<Quantity> quantities_;
    mutable std::recursive_mutex mutex_;
    mutable std::map<std::string, std::vector<double>> cells_, points_;
    mutable std::vector<Vec3> velocityAtPoints_;
    mutable std::vector<Mat3> gradient_;
};

}  // namespace cvane::field
