#include "view/export.h"

#include <vtkCellArray.h>
#include <vtkCellData.h>
#include <vtkDoubleArray.h>
#include <vtkFloatArray.h>
#include <vtkIntArray.h>
#include <vtkNew.h>
#include <vtkPoints.h>
#include <vtkPolyData.h>
#include <vtkUnstructuredGrid.h>
#include <vtkXMLPolyDataWriter.h>
#include <vtkXMLUnstructuredGridWriter.h>

#include "base/errors.h"
#include "base/files.h"
#include "view/items_inside.h"

namespace cvane::view {
namespace {

vtkSmartPointer<vtkPoints> pointsOf(const grid::Grid& g) {
    auto points = vtkSmartPointer<vtkPoints>::New();
    points->SetDataTypeToDouble();
    points->SetNumberOfPoints(static_cast<vtkIdType>(g.points.size()));
    for (std::size_t i = 0; i < g.points.size(); ++i) points->SetPoint(static_cast<vtkIdType>(i), g.points[i].data());
    return points;
}

template <class Writer, class Data>
void write(Data* data, const std::filesystem::path& file) {
    base::replaceFile(file, [&](const std::filesystem::path& path) {
        const int told = vtkObject::GetGlobalWarningDisplay();
        vtkObject::GlobalWarningDisplayOff();  // what goes wrong is said below
        vtkNew<Writer> writer;
        writer->SetFileName(path.c_str());
        writer->SetInputData(data);
        writer->SetDataModeToAppended();
        writer->EncodeAppendedDataOff();
        const bool written = writer->Write() != 0 && writer->GetErrorCode() == 0;
        vtkObject::SetGlobalWarningDisplay(told);
        if (!written)
            throw base::InputError("cannot be written.", file.string(), "Check the folder and the free space.");
    });
}

void add(vtkCellData* to, const char* name, int components, std::size_t count, const auto& value) {
    vtkNew<vtkFloatArray> array;
    array->SetName(name);
    array->SetNumberOfComponents(components);
    array->SetNumberOfTuples(static_cast<vtkIdType>(count));
    for (std::size_t i = 0; i < count; ++i)
        for (int k = 0; k < components; ++k) array->SetComponent(static_cast<vtkIdType>(i), k, value(i, k));
    to->AddArray(array);
}
}  // namespace

bool writeAir(const field::FlowField& flow, const std::vector<std::string>& quantities,
              const std::filesystem::path& file, const std::function<bool(double)>& wanted) {
    const auto& mesh = flow.mesh();
    const auto& g = mesh.grid();
    const auto goesOn = [&](double done) { return !wanted || wanted(done); };
    vtkNew<vtkUnstructuredGrid> data;
    data->SetPoints(pointsOf(g));
    data->Allocate(mesh.cells());
    std::vector<vtkIdType> faces, corners;
    for (grid::CellIndex c = 0; c < mesh.cells(); ++c) {
        faces.clear();
        corners.clear();
        for (const auto f : mesh.facesOf(c)) {
            const auto polygon = g.polygon(f);
            faces.push_back(static_cast<vtkIdType>(polygon.size()));
            for (const auto p : polygon) {
                faces.push_back(p);
                corners.push_back(p);
            }
        }
        std::sort(corners.begin(), corners.end());
        corners.erase(std::unique(corners.begin(), corners.end()), corners.end());
        data->InsertNextCell(VTK_POLYHEDRON, static_cast<vtkIdType>(corners.size()), corners.data(),
                             static_cast<vtkIdType>(mesh.facesOf(c).size()), faces.data());
        if (c % 50000 == 0 && !goesOn(0.5 * c / std::max(1, mesh.cells()))) return false;
    }
    const auto cells = static_cast<std::size_t>(mesh.cells());
    add(data->GetCellData(), "velocity", 3, cells, [&](std::size_t i, int k) { return flow.velocity()[i][k]; });
    for (const auto& id : quantities) {
        const auto& values = flow.inCells(id);
        add(data->GetCellData(), id.c_str(), 1, cells, [&](std::size_t i, int) { return values[i]; });
        if (!goesOn(0.6)) return false;
    }
    write<vtkXMLUnstructuredGridWriter>(data.Get(), file);
    return goesOn(1.0);
}

void writeWalls(const field::FlowField& flow, const std::filesystem::path& file) {
    const auto& g = flow.mesh().grid();
    const auto& wall = flow.wall();
    if (wall.face.empty())
        throw base::InputError("nothing is known of the model's walls.", file.string(), "Run the point again.");
    vtkNew<vtkPolyData> data;
    vtkNew<vtkCellArray> polygons;
    vtkNew<vtkPoints> points;
    points->SetDataTypeToDouble();
    std::vector<vtkIdType> numberOf(g.points.size(), -1), ids;
    for (const auto f : wall.face) {
        ids.clear();
        for (const auto p : g.polygon(f)) {
            auto& number = numberOf[static_cast<std::size_t>(p)];
            if (number < 0) number = points->InsertNextPoint(g.points[static_cast<std::size_t>(p)].data());
            ids.push_back(number);
        }
        polygons->InsertNextCell(static_cast<vtkIdType>(ids.size()), ids.data());
    }
    data->SetPoints(points);
    data->SetPolys(polygons);
    const std::size_t n = wall.face.size();
    const Vec3 drag = flow.wind().dragAxis(), lift = flow.wind().liftAxis();
    auto* cells = data->GetCellData();
    add(cells, "Cp", 1, n, [&](std::size_t i, int) { return wall.Cp[i]; });
    add(cells, "Cf", 3, n, [&](std::size_t i, int k) { return wall.Cf[i][k]; });
    add(cells, "y_plus", 1, n, [&](std::size_t i, int) { return wall.yPlus[i]; });
    add(cells, "drag_per_area", 1, n, [&](std::size_t i, int) { return pushOf(flow, i).dot(drag); });
    add(cells, "lift_per_area", 1, n, [&](std::size_t i, int) { return pushOf(flow, i).dot(lift); });
    add(cells, "part", 1, n, [&](std::size_t i, int) {
        for (std::size_t p = 0; p < g.patches.size(); ++p)
            if (wall.face[i] >= g.patches[p].first && wall.face[i] < g.patches[p].first + g.patches[p].count)
                return static_cast<double>(p);
        return -1.0;
    });
    write<vtkXMLPolyDataWriter>(data.Get(), file);
}

}  // namespace cvane::view
