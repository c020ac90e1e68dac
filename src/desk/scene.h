#pragma once
#include <vtkActor.h>
#include <vtkScalarBarActor.h>
#include <vtkSmartPointer.h>

#include <QColor>
#include <string>
#include <vector>

#include "field/flow_field.h"
#include "grid/cut.h"
#include "grid/grid.h"
#include "shape/surface.h"

namespace cvane::desk::scene {

/// Things for the canvas, made from the core's data.
vtkSmartPointer<vtkActor> surfaceActor(const shape::Surface& surface, int part, const QColor& colour, double opacity);
vtkSmartPointer<vtkActor> boxActor(const Box& box, const QColor& colour);
/// Round grips in front of all else.
vtkSmartPointer<vtkActor> handlesActor(const std::vector<Vec3>& places);
vtkSmartPointer<vtkActor> pathActor(const std::vector<Vec3>& path, const QColor& colour);
vtkSmartPointer<vtkActor> pointsActor(const std::vector<Vec3>& places, const QColor& colour);
/// Wall faces of the grid with their edges; `pointValues` (one a grid point) colours them when it is not empty.
vtkSmartPointer<vtkActor> wallActor(const grid::Grid& grid, const std::vector<double>& pointValues, double low,
                                    double high, bool edges);
/// Cut polygons with edges, coloured by one value a polygon when there are any.
vtkSmartPointer<vtkActor> cutActor(const grid::Cut& cut, const std::vector<double>& values, double low, double high,
                                   bool edges, bool signedMap);
/// Legend of colours in the window's ink.
/// @param unit  pixels of the screen to one of the window
vtkSmartPointer<vtkScalarBarActor> scaleFor(double low, double high, field::Sense sense, const std::string& title,
                                            double unit);

}  // namespace cvane::desk::scene
