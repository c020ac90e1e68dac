#pragma once
#include <filesystem>
#include <nlohmann/json.hpp>

#include "shape/source.h"
#include "vehicle/outline.h"

namespace cvane::vehicle {

/// The file of an outline: schema 1, fields in docs/files.md. What is left out is as in a new Outline.
nlohmann::json toJson(const Outline& outline);
/// Checked as well. Throws InputError: a field that is unknown or of another kind, written by a newer version, or what
/// check() refuses. @param where  for the error: the file's name
Outline outlineFrom(const nlohmann::json& json, const std::string& where);
/// Throws InputError as above; it cannot be read.
Outline readOutline(const std::filesystem::path& file);

/// An outline as a source of its closed surface; its name makes no difference.
class OutlineSource : public shape::Source {
  public:
    explicit OutlineSource(Outline outline) : outline_(std::move(outline)) {}
    std::string sum() const override;
    shape::Surface surface() const override;

  private:
    Outline outline_;
};

}  // namespace cvane::vehicle
