#pragma once
#include <vector>

#include "field/mesh.h"

namespace cvane::field {

/// A place between two nodes of a mesh.
struct Between {
    Node a = 0, b = 0;
    double share = 0.0;  ///< of the way from a to b
};

/// Polygons in the air whose corners lie between nodes, so that any quantity can be read at them.
struct Sheet {
    std::vector<Between> corners;
    std::vector<Vec3> places;             ///< of the corners [m]
    std::vector<std::int32_t> ofPolygon;  ///< corners of the polygons, one after the other
    std::vector<std::int32_t> start{0};   ///< polygons + 1 entries into ofPolygon
    std::vector<CellIndex> cell;          ///< one a polygon
    std::size_t polygons() const { return cell.size(); }
};

/// The polygons in which a plane cuts the cells; corners are shared within a cell only.
/// @param normal  need not be of unit length. Throws InputError: it is zero.
Sheet slice(const Mesh& mesh, const Vec3& origin, const Vec3& normal);

/// Polygons on which a quantity has a value, not quite plane; closed inside the air, neighbours share corners.
/// @param atPoints  of the quantity, one value a grid point
Sheet isoSurface(const Mesh& mesh, const std::vector<double>& atPoints, double value);

/// A quantity at the corners of a sheet.
template <class T>
std::vector<T> atCorners(const Mesh& mesh, const Sheet& sheet, const std::vector<T>& atPoints) {
    std::vector<T> out;
    out.reserve(sheet.corners.size());
    for (const auto& k : sheet.corners) {
        const T a = mesh.at(atPoints, k.a), b = mesh.at(atPoints, k.b);
        out.push_back(a + k.share * (b - a));
    }
    return out;
}

/// Area of a sheet [m2], and the integral over it of what is given at its corners, exact where that is linear.
double areaOf(const Sheet& sheet);
double integralOver(const Sheet& sheet, const std::vector<double>& values);

}  // namespace cvane::field
