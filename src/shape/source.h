#pragma once
#include <filesystem>
#include <nlohmann/json_fwd.hpp>
#include <string>

#include "shape/surface.h"

namespace cvane::shape {

/// Where a shape comes from: a file today; numbers, outlines and solids are others.
class Source {
  public:
    virtual ~Source() = default;
    /// The canonical sum of what makes the surface, eight hexadecimal digits: the same sum gives the same surface,
    /// wherever and whenever it is asked for. Cheap where nothing has changed. Throws InputError: it is not there.
    virtual std::string sum() const = 0;
    /// In SI, as it comes, not placed. Throws InputError: it cannot be made.
    virtual Surface surface() const = 0;
};

/// A surface file; its sum is that of its bytes, and the unit is no part of it.
class SurfaceFile : public Source {
  public:
    SurfaceFile(std::filesystem::path file, double unit) : file_(std::move(file)), unit_(unit) {}
    std::string sum() const override;
    Surface surface() const override;

  private:
    std::filesystem::path file_;
    double unit_;  ///< [m]
};

/// The canonical sum of numbers: of their JSON with names in order and no sign of zero, so that what is written
/// otherwise but says the same has the same one.
std::string sumOf(const nlohmann::json& numbers);

}  // namespace cvane::shape
