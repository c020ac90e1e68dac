#pragma once
#include <vtkActor.h>
#include <vtkColorTransferFunction.h>
#include <vtkSmartPointer.h>

#include "view/item_shape.h"

namespace cvane::view {

/// Colours of a scalar. Values about zero: teal - paper - rust, zero in the middle; from zero: paper to dark plum, so
/// that nothing looks like the ground; levels: from dark to light. All change in lightness one way on either side of
/// their middle, so that they are read without colour too.
vtkSmartPointer<vtkColorTransferFunction> colourMap(double low, double high, field::Sense sense);

/// An item as something to draw. @param plain  its colour without values, 0 to 1
vtkSmartPointer<vtkActor> actorOf(const ItemShape& shape, const double plain[3]);

}  // namespace cvane::view
