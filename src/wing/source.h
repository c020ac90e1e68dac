#pragma once
#include "shape/source.h"
#include "wing/aircraft.h"

namespace cvane::wing {

/// An aircraft as a source of its closed surface. Its sum leaves out what does not shape it: names, mass, panels.
class AircraftSource : public shape::Source {
  public:
    explicit AircraftSource(Aircraft aircraft) : aircraft_(std::move(aircraft)) {}
    std::string sum() const override;
    shape::Surface surface() const override;

  private:
    Aircraft aircraft_;
};

}  // namespace cvane::wing
