#pragma once
#include "readout/result.h"

namespace cvane::readout {

/// A result's coefficients, bands and moments on other reference values; forces stay. What is computed does not depend
/// on them, so that correcting an area or a moment centre costs no run.
Result onReference(Result result, const air::Reference& reference);

/// Coefficients of the same force and moment on another reference: M' = M + (c - c') x F with the moment centres c, c'.
air::Coefficients onReference(const air::Coefficients& coefficients, const air::FreeStream& wind,
                              const air::Reference& from, const air::Reference& to);

}  // namespace cvane::readout
