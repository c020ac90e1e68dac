#include "grid/cgns_file.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.h"
#include "base/files.h"
#include "grid/cgns_handle.h"

namespace cvane::grid {
namespace {

constexpr const char* kWriteTodo = "Check the folder and the free space; nothing was lost.";

std::vector<double> component(const std::vector<Vec3>& v, int k) {
    std::vector<double> out(v.size());
    for (std::size_t i = 0; i < v.size(); ++i) out[i] = v[i][k];
    return out;
}

int writeZone(const CgnsHandle& f, cgsize_t points, cgsize_t cells, int& base) {
    int zone = 0;
    f.check(cg_base_write(f.fn(), "Tunnel", 3, 3, &base));
    const cgsize_t size[3] = {points, cells, 0};
    f.check(cg_zone_write(f.fn(), base, "Air", size, CGNS_ENUMV(Unstructured), &zone));
    f.check(cg_goto(f.fn(), base, "end"));
    f.check(cg_dataclass_write(CGNS_ENUMV(Dimensional)));
    f.check(cg_units_write(CGNS_ENUMV(Kilogram), CGNS_ENUMV(Meter), CGNS_ENUMV(Second), CGNS_ENUMV(Kelvin),
                           CGNS_ENUMV(Degree)));
    return zone;
}

}  // namespace

void writeCgns(const Grid& g, const std::filesystem::path& file) {
    const std::lock_guard lock(cgnsMutex());
    base::replaceFile(file, [&](const std::filesystem::path& path) {
        keepHdf5FromTidyingUp();
        cg_set_file_type(CG_FILE_HDF5);
        CgnsHandle f(path, CG_MODE_WRITE, kWriteTodo);
        int base = 0;
        const int zone = writeZone(f, static_cast<cgsize_t>(g.points.size()), g.cells(), base);
        const char* axes[3] = {"CoordinateX", "CoordinateY", "CoordinateZ"};
        for (int k = 0; k < 3; ++k) {
            int coordinate = 0;
            f.check(cg_coord_write(f.fn(), base, zone, CGNS_ENUMV(RealDouble), axes[k], component(g.points, k).data(),
                                   &coordinate));
        }
        const cgsize_t nf = g.faces(), nc = g.cells();
        std::vector<cgsize_t> connect, offset{0};
        std::vector<std::vector<cgsize_t>> facesOf(static_cast<std::size_t>(nc));
        for (FaceIndex i = 0; i < g.faces(); ++i) {
            const auto poly = g.polygon(i);
            for (const auto p : poly) connect.push_back(p + 1);
            offset.push_back(static_cast<cgsize_t>(connect.size()));
            const auto P = g.owner[static_cast<std::size_t>(i)];
            facesOf[static_cast<std::size_t>(P)].push_back(i + 1);
            if (i < g.internalFaces()) {
                const auto N = g.neighbour[static_cast<std::size_t>(i)];
                facesOf[static_cast<std::size_t>(N)].push_back(-(i + 1));
            }
        }
        int section = 0;
        f.check(cg_poly_section_write(f.fn(), base, zone, "Faces", CGNS_ENUMV(NGON_n), 1, nf, 0, connect.data(),
                                      offset.data(), &section));
        connect.clear();
        offset.assign(1, 0);
        for (const auto& faces : facesOf) {
            connect.insert(connect.end(), faces.begin(), faces.end());
            offset.push_back(static_cast<cgsize_t>(connect.size()));
        }
        f.check(cg_poly_section_write(f.fn(), base, zone, "Cells", CGNS_ENUMV(NFACE_n), nf + 1, nf + nc, 0,
                                      connect.data(), offset.data(), &section));
        for (std::size_t i = 0; i < g.patches.size(); ++i) {
            const Patch& p = g.patches[i];
            const cgsize_t range[2] = {p.first + 1, p.first + p.count};
            int bc = 0;
            // Patch names can be longer than CGNS allows; the full one goes into a descriptor.
            const std::string name = fmt::format("Patch{}", i + 1);
            const auto type = p.kind == PatchKind::Wall ? CGNS_ENUMV(BCWall) : CGNS_ENUMV(BCFarfield);
            f.check(cg_boco_write(f.fn(), base, zone, name.c_str(), type, CGNS_ENUMV(PointRange), 2, range, &bc));
            f.check(cg_boco_gridlocation_write(f.fn(), base, zone, bc, CGNS_ENUMV(FaceCenter)));
            f.check(cg_goto(f.fn(), base, "Zone_t", zone, "ZoneBC_t", 1, "BC_t", bc, "end"));
            f.check(cg_descriptor_write(
                "Patch", fmt::format("{} {} {} {}", p.kind == PatchKind::Wall ? "wall" : "side", p.part, p.side, p.name)
                             .c_str()));
        }
        int solution = 0, field = 0;
        f.check(cg_sol_write(f.fn(), base, zone, "GridData", CGNS_ENUMV(CellCenter), &solution));
        f.check(cg_field_write(f.fn(), base, zone, solution, CGNS_ENUMV(RealDouble), "TurbulentDistance",
                               g.wallDistance.data(), &field));
        const std::vector<int> level(g.level.begin(), g.level.end()), layer(g.layer.begin(), g.layer.end());
        f.check(cg_field_write(f.fn(), base, zone, solution, CGNS_ENUMV(Integer), "Level", level.data(), &field));
        f.check(cg_field_write(f.fn(), base, zone, solution, CGNS_ENUMV(Integer), "Layer", layer.data(), &field));
        f.check(cg_goto(f.fn(), base, "Zone_t", zone, "end"));
        f.check(cg_descriptor_write("Builder",
                                    fmt::format("{:.17g} {:.17g} {}", g.surfaceCell, g.firstHeight, g.notes).c_str()));
        f.close();
    });
}

Grid readCgns(const std::filesystem::path& file) {
    if (!std::filesystem::exists(file)) throw base::InputError("no such grid.", file.string(), kRemakeGrid);
    const std::lock_guard lock(cgnsMutex());
    keepHdf5FromTidyingUp();
    const CgnsHandle f(file, CG_MODE_READ, kRemakeGrid);
    Grid g;
    const int base = 1, zone = 1;
    char name[64];
    cgsize_t size[9] = {};
    f.check(cg_zone_read(f.fn(), base, zone, name, size));
    g.points.resize(static_cast<std::size_t>(size[0]));
    g.cellCount = static_cast<CellIndex>(size[1]);
    const char* axes[3] = {"CoordinateX", "CoordinateY", "CoordinateZ"};
    for (int k = 0; k < 3; ++k) {
        std::vector<double> x(g.points.size());
        const cgsize_t from = 1, to = size[0];
        f.check(cg_coord_read(f.fn(), base, zone, axes[k], CGNS_ENUMV(RealDouble), &from, &to, x.data()));
        for (std::size_t i = 0; i < x.size(); ++i) g.points[i][k] = x[i];
    }
    CGNS_ENUMT(ElementType_t) type;
    cgsize_t first = 0, last = 0, length = 0;
    int boundary = 0, hasParents = 0;
    f.check(cg_section_read(f.fn(), base, zone, 1, name, &type, &first, &last, &boundary, &hasParents));
    f.check(cg_ElementDataSize(f.fn(), base, zone, 1, &length));
    mustBeOurs(type == CGNS_ENUMV(NGON_n), file);
    std::vector<cgsize_t> connect(static_cast<std::size_t>(length)), offset(static_cast<std::size_t>(last) + 1);
    f.check(cg_poly_elements_read(f.fn(), base, zone, 1, connect.data(), offset.data(), nullptr));
    g.faceStart.assign(offset.begin(), offset.end());
    g.facePoints.reserve(connect.size());
    for (const auto p : connect) g.facePoints.push_back(static_cast<PointIndex>(p - 1));
    // A cell lists the faces that it owns with a plus sign, those of its neighbours with a minus.
    const cgsize_t faces = last;
    f.check(cg_section_read(f.fn(), base, zone, 2, name, &type, &first, &last, &boundary, &hasParents));
    mustBeOurs(type == CGNS_ENUMV(NFACE_n) && last - first + 1 == size[1], file);
    f.check(cg_ElementDataSize(f.fn(), base, zone, 2, &length));
    connect.resize(static_cast<std::size_t>(length));
    offset.resize(static_cast<std::size_t>(size[1]) + 1);
    f.check(cg_poly_elements_read(f.fn(), base, zone, 2, connect.data(), offset.data(), nullptr));
    g.owner.assign(static_cast<std::size_t>(faces), -1);
    std::vector<CellIndex> neighbour(static_cast<std::size_t>(faces), -1);
    for (std::size_t c = 0; c + 1 < offset.size(); ++c)
        for (auto k = offset[c]; k < offset[c + 1]; ++k) {
            const auto i = connect[static_cast<std::size_t>(k)];
            mustBeOurs(i != 0 && std::abs(i) <= faces, file);
            (i > 0 ? g.owner : neighbour)[static_cast<std::size_t>(std::abs(i) - 1)] = static_cast<CellIndex>(c);
        }
    const auto boundaryFrom = std::find(neighbour.begin(), neighbour.end(), -1);
    mustBeOurs(std::all_of(boundaryFrom, neighbour.end(), [](auto n) { return n < 0; }) &&
                   std::all_of(g.owner.begin(), g.owner.end(), [](auto n) { return n >= 0; }),
               file);
    g.neighbour.assign(neighbour.begin(), boundaryFrom);
    g.patches = readPatches(f);
    const cgsize_t from = 1, to = size[1];
    g.wallDistance.resize(static_cast<std::size_t>(to));
    std::vector<int> whole(static_cast<std::size_t>(to));
    f.check(cg_field_read(f.fn(), base, zone, 1, "TurbulentDistance", CGNS_ENUMV(RealDouble), &from, &to,
                          g.wallDistance.data()));
    f.check(cg_field_read(f.fn(), base, zone, 1, "Level", CGNS_ENUMV(Integer), &from, &to, whole.data()));
    g.level.assign(whole.begin(), whole.end());
    f.check(cg_field_read(f.fn(), base, zone, 1, "Layer", CGNS_ENUMV(Integer), &from, &to, whole.data()));
    g.layer.assign(whole.begin(), whole.end());
    f.check(cg_goto(f.fn(), base, "Zone_t", zone, "end"));
    char* text = nullptr;
    f.check(cg_descriptor_read(1, name, &text));
    int used = 0;
    std::sscanf(text, "%lf %lf %n", &g.surfaceCell, &g.firstHeight, &used);
    g.notes = text + used;
    cg_free(text);
    return g;
}

void writeFlowCgns(const std::filesystem::path& file, const std::string& linkToGrid, CellIndex cells,
                   std::size_t points, const std::map<std::string, std::vector<double>>& fields) {
    const std::lock_guard lock(cgnsMutex());
    base::replaceFile(file, [&](const std::filesystem::path& path) {
        keepHdf5FromTidyingUp();
        cg_set_file_type(CG_FILE_HDF5);
        CgnsHandle f(path, CG_MODE_WRITE, kWriteTodo);
        int base = 0;
        const int zone = writeZone(f, static_cast<cgsize_t>(points), cells, base);
        f.check(cg_goto(f.fn(), base, "Zone_t", zone, "end"));
        for (const char* node : {"GridCoordinates", "Faces", "Cells", "ZoneBC"})
            f.check(cg_link_write(node, linkToGrid.c_str(), fmt::format("/Tunnel/Air/{}", node).c_str()));
        int solution = 0, field = 0;
        f.check(cg_sol_write(f.fn(), base, zone, "Flow", CGNS_ENUMV(CellCenter), &solution));
        for (const auto& [name, values] : fields)
            f.check(cg_field_write(f.fn(), base, zone, solution, CGNS_ENUMV(RealDouble), name.c_str(), values.data(),
                                   &field));
        f.close();
    });
}

std::map<std::string, std::vector<double>> readFlowCgns(const std::filesystem::path& file) {
    constexpr const char* todo = "Run the point again.";
    if (!std::filesystem::exists(file)) throw base::InputError("no such flow.", file.string(), todo);
    const std::lock_guard lock(cgnsMutex());
    keepHdf5FromTidyingUp();
    const CgnsHandle f(file, CG_MODE_READ, todo);
    const int base = 1, zone = 1, solution = 1;
    char name[64];
    cgsize_t size[9] = {};
    f.check(cg_zone_read(f.fn(), base, zone, name, size));
    int fields = 0;
    f.check(cg_nfields(f.fn(), base, zone, solution, &fields));
    std::map<std::string, std::vector<double>> out;
    for (int k = 1; k <= fields; ++k) {
        CGNS_ENUMT(DataType_t) type;
        f.check(cg_field_info(f.fn(), base, zone, solution, k, &type, name));
        auto& values = out[name];
        values.resize(static_cast<std::size_t>(size[1]));
        const cgsize_t from = 1, to = size[1];
        f.check(cg_field_read(f.fn(), base, zone, solution, name, CGNS_ENUMV(RealDouble), &from, &to, values.data()));
    }
    return out;
}

}  // namespace cvane::grid
