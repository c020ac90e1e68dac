#pragma once
#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "field/flow_field.h"

namespace cvane::view {

/// Writes the air of a flow, its cells as polyhedra with these quantities, as a VTK unstructured grid (.vtu, XML).
/// @param wanted  asked between the parts of the work; false gives it up
/// @return false: given up.  Throws InputError: no such quantity, a file that cannot be written.
bool writeAir(const field::FlowField& flow, const std::vector<std::string>& quantities,
              const std::filesystem::path& file, const std::function<bool(double)>& wanted);

/// Writes the model's walls with what is known on them, one value a face, as VTK poly data (.vtp, XML): Cp, Cf
/// (a vector), y_plus, the wind's force an area over q along drag and lift, and the number of the part.
/// Throws InputError as writeAir().
void writeWalls(const field::FlowField& flow, const std::filesystem::path& file);

}  // namespace cvane::view
