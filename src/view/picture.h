#pragma once
#include <filesystem>
#include <string>
#include <vector>

#include "campaign/settings/settings.h"
#include "field/flow_field.h"

namespace cvane::view {

/// From where a picture looks: along the wind, from port with the air from left to right, from above, from below, from
/// behind, or obliquely from ahead.
enum class Look { Front, Side, Above, Below, Back, Oblique };

struct PictureSettings {
    int width = 1600, height = 900;  ///< pixels, 64 to 16,384 each
    Look look = Look::Oblique;
    double zoom = 1.0;  ///< 1: the model fills most of it
    bool perspective = false, dark = false;
    std::string caption;  ///< at the lower edge; empty: none
};

inline constexpr int kLargestPicture = 16384;

/// Draws items of a flow without any window or display and writes a PNG; the same call gives the same bytes. Returns
/// what was amiss with items, a sentence each.
/// Throws InputError: a size that cannot be, no item that can be drawn, no OpenGL, a file that cannot be written.
std::vector<std::string> writePicture(const field::FlowField& flow, const std::vector<campaign::FlowItem>& items,
                                      const PictureSettings& settings, const std::filesystem::path& file);

}  // namespace cvane::view
