#pragma once
#include <cstdint>
#include <filesystem>
#include <memory>
#include <vector>

#include "grid/grid.h"

namespace cvane::grid {

/// Lists of different lengths, one behind the other: list i is entries start[i] .. start[i + 1] - 1 of `all`.
struct Lists {
    std::vector<std::int64_t> start, all;
};

/// A grid's file that is read in slabs, by as many readers at a time as there are. All functions throw InputError: the
/// file is damaged, or not a grid of this program.
class GridFile {
  public:
    explicit GridFile(const std::filesystem::path& file);
    ~GridFile();
    GridFile(const GridFile&) = delete;
    GridFile& operator=(const GridFile&) = delete;
    std::int64_t points() const { return points_; }
    std::int64_t cells() const { return cells_; }
    std::int64_t faces() const { return faces_; }
    const std::vector<Patch>& patches() const { return patches_; }

    /// Faces of the cells first .. last-1, counted from 1: positive where the cell owns it, negative where it is the
    /// neighbour.
    Lists facesOfCells(std::int64_t first, std::int64_t last) const;
    /// Corners of the faces first .. last-1, counted from 0.
    Lists cornersOfFaces(std::int64_t first, std::int64_t last) const;
    /// Places of points [m]. @param wanted  their numbers, ascending
    std::vector<Vec3> places(const std::vector<std::int64_t>& wanted) const;
    /// Of the cells first .. last-1 [m].
    std::vector<double> wallDistance(std::int64_t first, std::int64_t last) const;

  private:
    struct Arrays;  ///< the file's arrays as HDF5 has them
    Lists partOf(const char* section, std::int64_t first, std::int64_t last) const;
    std::filesystem::path path_;
    std::unique_ptr<Arrays> arrays_;
    std::int64_t points_ = 0, cells_ = 0, faces_ = 0;
    std::vector<Patch> patches_;
};

}  // namespace cvane::grid
