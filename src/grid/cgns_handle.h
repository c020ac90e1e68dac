#pragma once
#include <cgnslib.h>

#include <filesystem>
#include <mutex>
#include <vector>

#include "grid/grid.h"

namespace cvane::grid {

/// The CGNS library keeps one global state: whoever calls it holds this.
std::mutex& cgnsMutex();

/// What could not be written on a full disk stays in HDF5's cache, and its own tidying up when the program ends would
/// try again and crash. Files are closed one by one; nothing is left for it to do. To be called before HDF5 is used.
void keepHdf5FromTidyingUp();

/// An open CGNS file, closed with its owner.
class CgnsHandle {
  public:
    /// @param todo  what to do about it, should something fail. Throws InputError: it cannot be opened so.
    CgnsHandle(const std::filesystem::path& path, int mode, const char* todo);
    ~CgnsHandle();
    CgnsHandle(const CgnsHandle&) = delete;
    CgnsHandle& operator=(const CgnsHandle&) = delete;
    /// Throws InputError: what was written does not get to the disk.
    void close();
    int fn() const { return fn_; }
    /// Throws InputError with the library's words where a call has failed.
    void check(int status) const;
    const std::filesystem::path& path() const { return path_; }

  private:
    std::filesystem::path path_;
    const char* todo_;
    int fn_ = -1;
};

/// Throws InputError: the file is not a grid of this program.
void mustBeOurs(bool ours, const std::filesystem::path& file);

/// The patches of the grid in an open file.
std::vector<Patch> readPatches(const CgnsHandle& file);

inline constexpr const char* kRemakeGrid = "Make the grid again.";

}  // namespace cvane::grid
