#pragma once
#include <filesystem>

#include "shape/source.h"

namespace cvane::wing {

/// An aircraft's file as a source of its closed surface. Its sum is of what the file says, not of how it is written.
class AircraftFile : public shape::Source {
  public:
    explicit AircraftFile(std::filesystem::path file) : file_(std::move(file)) {}
    std::string sum() const override;
    shape::Surface surface() const override;

  private:
    std::filesystem::path file_;
};

/// Raised whenever the same numbers give another surface.
inline constexpr int kSkinVersion = 1;

}  // namespace cvane::wing
