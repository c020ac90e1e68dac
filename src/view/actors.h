#pragma once
#include <vtkColorTransferFunction.h>
#include <vtkProp.h>
#include <vtkRenderer.h>
#include <vtkScalarBarActor.h>
#include <vtkSmartPointer.h>

#include "view/item_shape.h"

namespace cvane::view {

using Colour = std::array<double, 3>;  ///< red, green, blue, 0 to 1

/// What pictures are drawn on and with, by day and by night.
struct Paper {
    Colour ground, ink, plain;
};
const Paper& paperOf(bool dark);

/// Colours of a scalar. Values about zero: teal - paper - rust, zero in the middle; from zero: paper to dark plum, so
/// that nothing looks like the ground; levels: from dark to light. All change in lightness one way on either side of
/// their middle, so that they are read without colour too.
/// @param steps  as many even colours; 0: smooth
vtkSmartPointer<vtkColorTransferFunction> colourMap(double low, double high, field::Sense sense, int steps = 0);

/// Colours with round numbers beside them and their title above. @param size  1: for a window
vtkSmartPointer<vtkScalarBarActor> legendOf(double low, double high, field::Sense sense, const std::string& title,
                                            const Colour& ink, double size, int steps = 0);
inline vtkSmartPointer<vtkScalarBarActor> legendOf(const ItemShape& s, const Colour& ink, double size) {
    return legendOf(s.low, s.high, s.sense, s.title, ink, size, s.steps);
}

/// Round numbers from low to high, about so many.
std::vector<double> roundNumbers(double low, double high, int about);

/// While a view moves, what is drawn in it is drawn in few pieces. @return whether anything looks otherwise for it
bool drawMoving(vtkRenderer& renderer, bool moving);

/// An item as something to draw. @param plain  its colour without values;  @param ink  of words and contours
vtkSmartPointer<vtkProp> propOf(const ItemShape& shape, const Colour& plain, const Colour& ink, double size);

}  // namespace cvane::view
