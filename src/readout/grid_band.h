#pragma once
#include <optional>

namespace cvane::readout {

/// What the cells may still do to a quantity on the finest of two or three grids, of one family where nothing else is
/// said.
struct GridBand {
    double band = 0.0;            ///< as the quantity, not below 0
    std::optional<double> order;  ///< observed; nothing of two grids, or where the grids do not approach one value
    std::optional<double> limit;  ///< what they approach with that order; nothing where it is far from 1 .. 2
};

/// From two grids: 3 |fine - coarse| / (r^2 - 1), r the ratio of the cells' sizes, above 1 (P. J. Roache, J. Fluids
/// Eng. 116, 1994, for second order).
GridBand gridBand(double fine, double coarse, double ratio);

/// From two of unlike families, which show no order: 3 |fine - coarse| (L. Eca, M. Hoekstra, J. Comput. Phys. 262,
/// 2014, for data without one).
GridBand gridBand(double fine, double coarse);

/// From three: where they approach one value, 1.25 |fine - coarse| / (r^p - 1) with the order p that they show (I. B.
/// Celik et al., J. Fluids Eng. 130, 2008, for unequal ratios), held to 1 .. 2. Where they swing about it or leave it,
/// that of the two finer ones, and no less than what a second-order method leaves of |coarse - coarsest| on the fine
/// grid.
/// @param ratio    of the cells' sizes, coarse over fine, above 1
/// @param further  the same, coarsest over coarse
GridBand gridBand(double fine, double coarse, double coarsest, double ratio, double further);

}  // namespace cvane::readout
