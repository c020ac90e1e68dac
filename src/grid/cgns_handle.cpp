#include "grid/cgns_handle.h"

#include <fmt/format.h>
#include <hdf5.h>

#include <cstdio>

#include "base/errors.h"

namespace cvane::grid {

std::mutex& cgnsMutex() {
    static std::mutex m;
    return m;
}

void keepHdf5FromTidyingUp() {
    [[maybe_unused]] static const int once = H5dont_atexit();
}

CgnsHandle::CgnsHandle(const std::filesystem::path& path, int mode, const char* todo) : path_(path), todo_(todo) {
    check(cg_open(path.c_str(), mode, &fn_));
}

CgnsHandle::~CgnsHandle() {
    if (fn_ >= 0) cg_close(fn_);
}

void CgnsHandle::close() {
    const int fn = fn_;
    fn_ = -1;
    check(cg_close(fn));
}

void CgnsHandle::check(int status) const {
    if (status != CG_OK)
        throw base::InputError(fmt::format("the CGNS library says: {}.", cg_get_error()), path_.filename().string(),
                               todo_);
}

void mustBeOurs(bool ours, const std::filesystem::path& file) {
    if (!ours) throw base::InputError("is not a grid written by this program.", file.string(), kRemakeGrid);
}

std::vector<Patch> readPatches(const CgnsHandle& f) {
    const int base = 1, zone = 1;
    std::vector<Patch> out;
    int patches = 0;
    f.check(cg_nbocos(f.fn(), base, zone, &patches));
    for (int b = 1; b <= patches; ++b) {
        CGNS_ENUMT(BCType_t) bcType;
        CGNS_ENUMT(PointSetType_t) set;
        CGNS_ENUMT(DataType_t) normalType;
        cgsize_t count = 0, normals = 0, range[2] = {};
        int normalIndex[3], datasets = 0;
        char name[64];
        f.check(cg_boco_info(f.fn(), base, zone, b, name, &bcType, &set, &count, normalIndex, &normals, &normalType,
                             &datasets));
        f.check(cg_boco_read(f.fn(), base, zone, b, range, nullptr));
        f.check(cg_goto(f.fn(), base, "Zone_t", zone, "ZoneBC_t", 1, "BC_t", b, "end"));
        char* text = nullptr;
        f.check(cg_descriptor_read(1, name, &text));
        const std::string words = text;
        cg_free(text);
        Patch p;
        char kind[8];
        int used = 0;
        mustBeOurs(std::sscanf(words.c_str(), "%7s %d %d %n", kind, &p.part, &p.side, &used) == 3, f.path());
        p.kind = std::string(kind) == "wall" ? PatchKind::Wall : PatchKind::Side;
        p.name = words.substr(static_cast<std::size_t>(used));
        p.first = static_cast<FaceIndex>(range[0] - 1);
        p.count = static_cast<FaceIndex>(range[1] - range[0] + 1);
        out.push_back(p);
    }
    return out;
}

}  // namespace cvane::grid
