#include "desk/scene.h"

#include <vtkCellArray.h>
#include <vtkCellData.h>
#include <vtkDoubleArray.h>
#include <vtkOutlineSource.h>
#include <vtkPointData.h>
#include <vtkPolyData.h>
#include <vtkPolyDataMapper.h>
#include <vtkProperty.h>

#include "desk/look.h"
#include "view/actors.h"

namespace cvane::desk::scene {
namespace {

vtkSmartPointer<vtkActor> actorOf(vtkPolyData* data, const QColor& c) {
    vtkNew<vtkPolyDataMapper> mapper;
    mapper->SetInputData(data);
    mapper->ScalarVisibilityOff();
    auto actor = vtkSmartPointer<vtkActor>::New();
    actor->SetMapper(mapper);
    actor->GetProperty()->SetColor(c.redF(), c.greenF(), c.blueF());
    actor->GetProperty()->SetAmbient(0.25);
    actor->GetProperty()->SetDiffuse(0.8);
    return actor;
}

void colourBy(vtkActor* actor, vtkPolyData* data, vtkDoubleArray* values, bool perCell, double low, double high,
              bool signedMap) {
    values->SetName("value");
    if (perCell)
        data->GetCellData()->SetScalars(values);
    else
        data->GetPointData()->SetScalars(values);
    auto* mapper = vtkPolyDataMapper::SafeDownCast(actor->GetMapper());
    mapper->ScalarVisibilityOn();
    mapper->SetLookupTable(view::colourMap(low, high, signedMap ? field::Sense::AboutZero : field::Sense::Level));
    mapper->UseLookupTableScalarRangeOff();
    mapper->SetScalarRange(low, high);
    perCell ? mapper->SetScalarModeToUseCellData() : mapper->SetScalarModeToUsePointData();
    mapper->InterpolateScalarsBeforeMappingOn();
}

void showEdges(vtkActor* a, const QColor& c, double width) {
    a->GetProperty()->EdgeVisibilityOn();
    a->GetProperty()->SetEdgeColor(c.redF(), c.greenF(), c.blueF());
    a->GetProperty()->SetLineWidth(static_cast<float>(width));
}

}  // namespace

vtkSmartPointer<vtkActor> surfaceActor(const shape::Surface& s, int part, const QColor& colour, double opacity) {
    vtkNew<vtkPoints> points;
    for (const Vec3& p : s.points) points->InsertNextPoint(p.data());
    vtkNew<vtkCellArray> cells;
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        if (s.partOf[f] != part) continue;
        const vtkIdType ids[3] = {s.facets[f][0], s.facets[f][1], s.facets[f][2]};
        cells->InsertNextCell(3, ids);
    }
    vtkNew<vtkPolyData> data;
    data->SetPoints(points);
    data->SetPolys(cells);
    auto actor = actorOf(data, colour);
    actor->GetProperty()->SetOpacity(opacity);
    return actor;
}

vtkSmartPointer<vtkActor> boxActor(const Box& b, const QColor& colour) {
    vtkNew<vtkOutlineSource> source;
    source->SetBounds(b.low.x(), b.high.x(), b.low.y(), b.high.y(), b.low.z(), b.high.z());
    source->Update();
    auto actor = actorOf(source->GetOutput(), colour);
    actor->GetProperty()->SetLighting(false);
    actor->GetProperty()->SetLineWidth(1.5F);
    return actor;
}

vtkSmartPointer<vtkActor> pointsActor(const std::vector<Vec3>& places, const QColor& colour) {
    vtkNew<vtkPoints> points;
    vtkNew<vtkCellArray> cells;
    for (const Vec3& p : places) {
        const vtkIdType id = points->InsertNextPoint(p.data());
        cells->InsertNextCell(1, &id);
    }
    vtkNew<vtkPolyData> data;
    data->SetPoints(points);
    data->SetVerts(cells);
    auto actor = actorOf(data, colour);
    actor->GetProperty()->SetPointSize(7);
    actor->GetProperty()->SetLighting(false);
    return actor;
}

vtkSmartPointer<vtkActor> handlesActor(const std::vector<Vec3>& places) {
    auto actor = pointsActor(places, look::accent);
    actor->GetProperty()->SetPointSize(13);
    actor->GetProperty()->RenderPointsAsSpheresOn();
    auto* mapper = actor->GetMapper();
    mapper->SetResolveCoincidentTopologyToPolygonOffset();
    mapper->SetRelativeCoincidentTopologyPointOffsetParameter(-20000);
    return actor;
}

vtkSmartPointer<vtkActor> pathActor(const std::vector<Vec3>& path, const QColor& colour) {
    vtkNew<vtkPoints> points;
    vtkNew<vtkCellArray> cells;
    cells->InsertNextCell(static_cast<vtkIdType>(path.size()));
    for (const Vec3& p : path) cells->InsertCellPoint(points->InsertNextPoint(p.data()));
    vtkNew<vtkPolyData> data;
    data->SetPoints(points);
    data->SetLines(cells);
    auto actor = actorOf(data, colour);
    actor->GetProperty()->SetLineWidth(3);
    actor->GetProperty()->SetLighting(false);
    return actor;
}

vtkSmartPointer<vtkActor> wallActor(const grid::Grid& g, const std::vector<double>& values, double low, double high,
                                    bool edges) {
    vtkNew<vtkPoints> points;
    vtkNew<vtkCellArray> cells;
    vtkNew<vtkDoubleArray> scalars;
    std::vector<vtkIdType> idOf(g.points.size(), -1);
    for (const auto& patch : g.patches) {
        if (patch.kind != grid::PatchKind::Wall) continue;
        for (auto f = patch.first; f < patch.first + patch.count; ++f) {
            std::vector<vtkIdType> ids;
            for (const auto p : g.polygon(f)) {
                auto& id = idOf[static_cast<std::size_t>(p)];
                if (id < 0) {
                    id = points->InsertNextPoint(g.points[static_cast<std::size_t>(p)].data());
                    if (!values.empty()) scalars->InsertNextValue(values[static_cast<std::size_t>(p)]);
                }
                ids.push_back(id);
            }
            cells->InsertNextCell(static_cast<vtkIdType>(ids.size()), ids.data());
        }
    }
    vtkNew<vtkPolyData> data;
    data->SetPoints(points);
    data->SetPolys(cells);
    auto actor = actorOf(data, QColor(0xd8, 0xcf, 0xba));
    if (!values.empty()) colourBy(actor, data, scalars, false, low, high, true);
    if (edges) showEdges(actor, QColor(0x9a, 0x91, 0x7e), 1.0);  // the surface is to be seen under them
    return actor;
}

vtkSmartPointer<vtkActor> cutActor(const grid::Cut& cut, const std::vector<double>& values, double low, double high,
                                   bool edges, bool signedMap) {
    vtkNew<vtkPoints> points;
    for (const Vec3& p : cut.points) points->InsertNextPoint(p.data());
    vtkNew<vtkCellArray> cells;
    vtkNew<vtkDoubleArray> scalars;
    for (std::size_t i = 0; i < cut.cell.size(); ++i) {
        std::vector<vtkIdType> ids;
        for (auto k = cut.start[i]; k < cut.start[i + 1]; ++k) ids.push_back(k);
        cells->InsertNextCell(static_cast<vtkIdType>(ids.size()), ids.data());
        if (!values.empty()) scalars->InsertNextValue(values[i]);
    }
    vtkNew<vtkPolyData> data;
    data->SetPoints(points);
    data->SetPolys(cells);
    auto actor = actorOf(data, look::sheet);
    actor->GetProperty()->SetLighting(false);
    if (!values.empty()) colourBy(actor, data, scalars, true, low, high, signedMap);
    if (edges) showEdges(actor, QColor(0x82, 0x86, 0x8e), 1.0);
    return actor;
}

vtkSmartPointer<vtkScalarBarActor> scaleFor(double low, double high, field::Sense sense, const std::string& title,
                                            double unit) {
    return view::legendOf(low, high, sense, title, view::paperOf(look::isDark()).ink, unit);
}

}  // namespace cvane::desk::scene
