#pragma once
#include <vtkActor.h>
#include <vtkColorTransferFunction.h>
#include <vtkScalarBarActor.h>
#include <vtkSmartPointer.h>

#include "view/item_shape.h"

namespace cvane::view {

/// Colours of a scalar. Values about zero: teal - paper - rust, zero in the middle; from zero: paper to dark plum, so
/// that nothing looks like the ground; levels: from dark to light. All change in lightness one way on either side of
/// their middle, so that they are read without colour too.
vtkSmartPointer<vtkColorTransferFunction> colourMap(double low, double high, field::Sense sense);

/// Colours with numbers beside them and their title above. @param ink  0 to 1;  @param size  1: for a window
vtkSmartPointer<vtkScalarBarActor> legendOf(double low, double high, field::Sense sense, const std::string& title,
                                            const double ink[3], double size);
inline vtkSmartPointer<vtkScalarBarActor> legendOf(const ItemShape& s, const double ink[3], double size) {
    return legendOf(s.low, s.high, s.sense, s.title, ink, size);
}

/// An item as something to draw. @param plain  its colour without values, 0 to 1
vtkSmartPointer<vtkActor> actorOf(const ItemShape& shape, const double plain[3]);

}  // namespace cvane::view
