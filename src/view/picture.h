#pragma once
#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "campaign/settings/settings.h"
#include "field/flow_field.h"
#include "view/surroundings.h"

namespace cvane::view {

struct PictureSettings {
    int width = 1600, height = 900;  ///< pixels, 64 to 16,384 each
    std::optional<Camera> camera;    ///< instead of the next three
    Look look = Look::Oblique;
    double zoom = 1.0;      ///< 1: the model fills most of it
    double turn_deg = 0.0;  ///< about the upright, on from there
    bool perspective = false, dark = false;
    bool surroundings = true;      ///< axes, wind, scale and, where there is one, the ground
    std::optional<double> ground;  ///< its height [m]
    std::string caption;           ///< at the lower edge; empty: none
};

inline constexpr int kLargestPicture = 16384;

/// Draws items of a flow without any window or display and writes a PNG; the same call gives the same bytes. Returns
/// what was amiss with items, a sentence each.
/// Throws InputError: a size that cannot be, no item that can be drawn, no OpenGL, a file that cannot be written.
std::vector<std::string> writePicture(const field::FlowField& flow, const std::vector<campaign::FlowItem>& items,
                                      const PictureSettings& settings, const std::filesystem::path& file);

}  // namespace cvane::view
