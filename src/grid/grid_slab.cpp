#include "grid/grid_slab.h"

#include <fmt/format.h>
#include <hdf5.h>

#include <algorithm>

#include "base/errors.h"
#include "grid/cgns_handle.h"

namespace cvane::grid {
namespace {
hid_t typeOf(const double*) {
    return H5T_NATIVE_DOUBLE;
}
hid_t typeOf(const std::int64_t*) {
    return H5T_NATIVE_INT64;
}
}  // namespace

// Arrays of a CGNS file in HDF5 are data sets under the names of their nodes (CGNS, SIDS-to-HDF5 mapping). Read here by
// their parts: the CGNS library's own partial reading of polygons gives up on inner ranges.
struct GridFile::Arrays {
    explicit Arrays(const std::filesystem::path& path) : file(H5Fopen(path.c_str(), H5F_ACC_RDONLY, H5P_DEFAULT)) {}
    ~Arrays() {
        if (file >= 0) H5Fclose(file);
    }
    Arrays(const Arrays&) = delete;
    Arrays& operator=(const Arrays&) = delete;

    /// Entries from .. from+out.size()-1. @return whether they are there
    template <class T>
    bool read(const char* node, std::int64_t from, std::vector<T>& out) const {
        if (out.empty()) return true;
        const hid_t set = H5Dopen2(file, fmt::format("/Tunnel/Air/{}/ data", node).c_str(), H5P_DEFAULT);
        if (set < 0) return false;
        const hid_t space = H5Dget_space(set);
        const hsize_t start = static_cast<hsize_t>(from), count = out.size();
        const hid_t memory = H5Screate_simple(1, &count, nullptr);
        const bool good = H5Sselect_hyperslab(space, H5S_SELECT_SET, &start, nullptr, &count, nullptr) >= 0 &&
                          H5Dread(set, typeOf(out.data()), memory, space, H5P_DEFAULT, out.data()) >= 0;
        H5Sclose(memory);
        H5Sclose(space);
        H5Dclose(set);
        return good;
    }
    hid_t file;
};

GridFile::GridFile(const std::filesystem::path& file) : path_(file) {
    if (!std::filesystem::exists(file)) throw base::InputError("no such grid.", file.string(), kRemakeGrid);
    const std::lock_guard lock(cgnsMutex());
    keepHdf5FromTidyingUp();
    {
        const CgnsHandle f(file, CG_MODE_READ, kRemakeGrid);
        constexpr int kBase = 1, kZone = 1, kFaces = 1, kCells = 2;
        char name[64];
        cgsize_t size[9] = {}, first = 0, last = 0;
        f.check(cg_zone_read(f.fn(), kBase, kZone, name, size));
        points_ = size[0];
        cells_ = size[1];
        CGNS_ENUMT(ElementType_t) type;
        int boundary = 0, hasParents = 0;
        f.check(cg_section_read(f.fn(), kBase, kZone, kFaces, name, &type, &first, &last, &boundary, &hasParents));
        mustBeOurs(type == CGNS_ENUMV(NGON_n) && first == 1, path_);
        faces_ = last;
        f.check(cg_section_read(f.fn(), kBase, kZone, kCells, name, &type, &first, &last, &boundary, &hasParents));
        mustBeOurs(type == CGNS_ENUMV(NFACE_n) && first == faces_ + 1 && last - first + 1 == cells_, path_);
        patches_ = readPatches(f);
    }
    arrays_ = std::make_unique<Arrays>(file);
    mustBeOurs(arrays_->file >= 0, path_);
}

GridFile::~GridFile() {
    const std::lock_guard lock(cgnsMutex());
    arrays_.reset();
}

Lists GridFile::partOf(const char* section, std::int64_t first, std::int64_t last) const {
    Lists out;
    const std::lock_guard lock(cgnsMutex());
    out.start.assign(static_cast<std::size_t>(last - first) + 1, 0);
    mustBeOurs(arrays_->read(fmt::format("{}/ElementStartOffset", section).c_str(), first, out.start), path_);
    const std::int64_t before = out.start.front();
    for (auto& at : out.start) at -= before;
    mustBeOurs(std::is_sorted(out.start.begin(), out.start.end()), path_);
    out.all.resize(static_cast<std::size_t>(out.start.back()));
    mustBeOurs(arrays_->read(fmt::format("{}/ElementConnectivity", section).c_str(), before, out.all), path_);
    return out;
}

Lists GridFile::facesOfCells(std::int64_t first, std::int64_t last) const {
    Lists out = partOf("Cells", first, last);
    for (const auto f : out.all) mustBeOurs(f != 0 && std::abs(f) <= faces_, path_);
    return out;
}

Lists GridFile::cornersOfFaces(std::int64_t first, std::int64_t last) const {
    Lists out = partOf("Faces", first, last);
    for (auto& p : out.all) {
        mustBeOurs(p > 0 && p <= points_, path_);
        --p;
    }
    return out;
}

std::vector<Vec3> GridFile::places(const std::vector<std::int64_t>& wanted) const {
    // In blocks, those that hold a wanted one: a slab's points lie together for the most part.
    constexpr std::int64_t kBlock = 1 << 14;
    const std::lock_guard lock(cgnsMutex());
    std::vector<Vec3> out(wanted.size());
    std::vector<double> x[3];
    for (std::size_t i = 0; i < wanted.size();) {
        const std::int64_t begin = wanted[i] / kBlock * kBlock;
        std::int64_t end = begin + kBlock;
        std::size_t last = i;
        for (;;) {
            while (last < wanted.size() && wanted[last] < end) ++last;
            // Blocks that follow each other are read at once.
            if (last == wanted.size() || wanted[last] >= end + kBlock || end - begin >= 64 * kBlock) break;
            end += kBlock;
        }
        end = std::min(end, points_);
        const char* axes[3] = {"GridCoordinates/CoordinateX", "GridCoordinates/CoordinateY",
                               "GridCoordinates/CoordinateZ"};
        for (int k = 0; k < 3; ++k) {
            x[k].resize(static_cast<std::size_t>(end - begin));
            mustBeOurs(arrays_->read(axes[k], begin, x[k]), path_);
        }
        for (; i < last; ++i) {
            const auto at = static_cast<std::size_t>(wanted[i] - begin);
            out[i] = Vec3(x[0][at], x[1][at], x[2][at]);
        }
    }
    return out;
}

std::vector<double> GridFile::wallDistance(std::int64_t first, std::int64_t last) const {
    const std::lock_guard lock(cgnsMutex());
    std::vector<double> out(static_cast<std::size_t>(last - first));
    mustBeOurs(arrays_->read("GridData/TurbulentDistance", first, out), path_);
    return out;
}

}  // namespace cvane::grid
