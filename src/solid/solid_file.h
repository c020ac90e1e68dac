#pragma once
#include <array>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "shape/source.h"

namespace cvane::solid {

/// A body of a file of solids.
struct Body {
    std::string name;    ///< as the file has it, with a number where several have the same
    std::string within;  ///< assemblies that it is in, the outermost first, joined by " / "; empty: none
    std::optional<std::array<double, 3>> colour;  ///< red, green, blue, 0 to 1
    Box box;                                      ///< [m]
    double volume = 0.0;                          ///< [m3]; 0 of a sheet
    double area = 0.0;                            ///< [m2]
    bool isSheet = false;                         ///< it encloses nothing
    /// It is a box of six planes that holds all others: air that somebody else has put around the model.
    bool holdsTheOthers = false;
};

/// What a facet tolerance leads to.
struct Facets {
    double tolerance = 0.0;  ///< chords stand off curved faces by this at most [m]
    std::size_t count = 0;
};

/// Solids of a STEP or IGES file with the unit that the file says. Reading takes seconds for thousands of faces.
class SolidFile {
  public:
    /// Throws InputError: no such file, neither STEP nor IGES or damaged, nothing in it.
    explicit SolidFile(const std::filesystem::path& file);
    ~SolidFile();
    SolidFile(SolidFile&&) noexcept;

    const std::vector<Body>& bodies() const { return bodies_; }
    /// Longest side of what is not air around the others [m].
    double size() const;
    /// 3e-4 of the size.
    double usualTolerance() const { return 3e-4 * size(); }
    /// Throws InputError: a tolerance that is not above 0, or leads to more than ten million facets.
    Facets facetsAt(double tolerance) const;
    /// At four times the usual tolerance, at it and at a quarter of it: what one chooses from.
    std::vector<Facets> facetChoices() const;
    /// A part for each body; of a box around the others the part is not in the air. Throws InputError as above.
    shape::Surface surface(double tolerance) const;

  private:
    struct Inside;
    std::unique_ptr<Inside> inside_;
    std::vector<Body> bodies_;
    std::string where_;
};

/// Whether a file's name says that it holds solids: .step, .stp, .iges or .igs.
bool isSolidFile(const std::filesystem::path& file);

/// A file of solids as a source of a surface. Its sum is that of its bytes and of the tolerance.
class SolidSource : public shape::Source {
  public:
    /// @param tolerance  [m]; nothing: the usual one
    SolidSource(std::filesystem::path file, std::optional<double> tolerance)
        : file_(std::move(file)), tolerance_(tolerance) {}
    std::string sum() const override;
    shape::Surface surface() const override;

  private:
    std::filesystem::path file_;
    std::optional<double> tolerance_;
};

}  // namespace cvane::solid
