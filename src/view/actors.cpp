#include "view/actors.h"

#include <vtkCellArray.h>
#include <vtkDiscretizableColorTransferFunction.h>
#include <vtkDoubleArray.h>
#include <vtkNew.h>
#include <vtkPointData.h>
#include <vtkPolyData.h>
#include <vtkPolyDataMapper.h>
#include <vtkProperty.h>
#include <vtkTextProperty.h>

#include <algorithm>
#include <cmath>

namespace cvane::view {

vtkSmartPointer<vtkColorTransferFunction> colourMap(double low, double high, field::Sense sense) {
    auto f = vtkSmartPointer<vtkColorTransferFunction>::New();
    f->SetColorSpaceToLab();
    if (sense == field::Sense::AboutZero) {
        // Zero stays in the middle colour even where one side reaches further.
        const double m = std::max(std::abs(low), std::abs(high));
        const double at[7] = {-m, -0.6 * m, -0.25 * m, 0.0, 0.25 * m, 0.6 * m, m};
        const double rgb[7][3] = {{0.05, 0.19, 0.29}, {0.13, 0.42, 0.50}, {0.56, 0.74, 0.75}, {0.96, 0.94, 0.89},
                                  {0.93, 0.72, 0.53}, {0.78, 0.38, 0.16}, {0.45, 0.13, 0.05}};
        for (int i = 0; i < 7; ++i) f->AddRGBPoint(at[i], rgb[i][0], rgb[i][1], rgb[i][2]);
    } else {
        const double level[5][3] = {
            {0.16, 0.12, 0.25}, {0.17, 0.33, 0.45}, {0.29, 0.55, 0.50}, {0.70, 0.74, 0.45}, {0.98, 0.93, 0.72}};
        const double fromZero[5][3] = {
            {0.97, 0.955, 0.915}, {0.85, 0.78, 0.60}, {0.79, 0.52, 0.36}, {0.55, 0.27, 0.34}, {0.22, 0.10, 0.25}};
        const auto& rgb = sense == field::Sense::FromZero ? fromZero : level;
        for (int i = 0; i < 5; ++i) f->AddRGBPoint(low + (high - low) * i / 4.0, rgb[i][0], rgb[i][1], rgb[i][2]);
    }
    return f;
}

vtkSmartPointer<vtkScalarBarActor> legendOf(double low, double high, field::Sense sense, const std::string& title,
                                            const double ink[3], double size) {
    auto bar = vtkSmartPointer<vtkScalarBarActor>::New();
    const auto map = colourMap(low, high, sense);
    vtkNew<vtkDiscretizableColorTransferFunction> shown;
    for (int i = 0; i <= 64; ++i) {
        const double v = low + (high - low) * i / 64.0;
        double rgb[3];
        map->GetColor(v, rgb);
        shown->AddRGBPoint(v, rgb[0], rgb[1], rgb[2]);
    }
    shown->Build();
    bar->SetLookupTable(shown);
    // The title stands over the middle of the bar: long ones take two lines, and the bar a place where they fit.
    std::string words = title;
    if (const auto half = words.find(' ', words.size() / 2); words.size() > 18 && half != std::string::npos)
        words[half] = '\n';
    bar->SetTitle(words.c_str());
    bar->SetNumberOfLabels(5);
    bar->SetLabelFormat("%.3g");
    bar->SetMaximumWidthInPixels(static_cast<int>(64 * size));
    bar->SetMaximumHeightInPixels(static_cast<int>(260 * size));
    bar->SetPosition(0.07, 0.08);
    for (auto* t : {bar->GetTitleTextProperty(), bar->GetLabelTextProperty()}) {
        t->SetColor(ink[0], ink[1], ink[2]);
        t->ShadowOff();
        t->ItalicOff();
        t->BoldOff();
        t->SetFontSize(std::max(6, static_cast<int>(13 * size)));
    }
    bar->UnconstrainedFontSizeOn();
    bar->SetVerticalTitleSeparation(static_cast<int>(10 * size));
    return bar;
}

vtkSmartPointer<vtkActor> actorOf(const ItemShape& s, const double plain[3]) {
    vtkNew<vtkPoints> points;
    points->SetNumberOfPoints(static_cast<vtkIdType>(s.places.size()));
    for (std::size_t i = 0; i < s.places.size(); ++i) points->SetPoint(static_cast<vtkIdType>(i), s.places[i].data());
    vtkNew<vtkCellArray> pieces;
    std::vector<vtkIdType> ids;
    for (std::size_t k = 0; k < s.pieces(); ++k) {
        const auto first = s.corners.begin() + s.start[k], last = s.corners.begin() + s.start[k + 1];
        if (s.areLines) {
            ids.assign(first, last);
            pieces->InsertNextCell(static_cast<vtkIdType>(ids.size()), ids.data());
            continue;
        }
        // As fans: the library gives up on polygons with corners that coincide, as where a plane meets a grid's point.
        for (auto i = first + 1; i + 1 < last; ++i) {
            const vtkIdType triangle[3] = {*first, *i, *(i + 1)};
            pieces->InsertNextCell(3, triangle);
        }
    }
    vtkNew<vtkPolyData> data;
    data->SetPoints(points);
    if (s.areLines)
        data->SetLines(pieces);
    else
        data->SetPolys(pieces);
    vtkNew<vtkPolyDataMapper> mapper;
    mapper->SetInputData(data);
    auto actor = vtkSmartPointer<vtkActor>::New();
    actor->SetMapper(mapper);
    actor->GetProperty()->SetColor(plain[0], plain[1], plain[2]);
    actor->GetProperty()->SetAmbient(0.25);
    actor->GetProperty()->SetDiffuse(0.8);
    if (s.values.empty()) {
        mapper->ScalarVisibilityOff();
        return actor;
    }
    vtkNew<vtkDoubleArray> values;
    values->SetName("value");
    values->SetNumberOfTuples(static_cast<vtkIdType>(s.values.size()));
    std::copy(s.values.begin(), s.values.end(), values->GetPointer(0));
    data->GetPointData()->SetScalars(values);
    mapper->ScalarVisibilityOn();
    mapper->SetLookupTable(colourMap(s.low, s.high, s.sense));
    mapper->UseLookupTableScalarRangeOff();
    mapper->SetScalarRange(s.low, s.high);
    mapper->SetScalarModeToUsePointData();
    mapper->InterpolateScalarsBeforeMappingOn();
    if (s.areLines) actor->GetProperty()->SetLineWidth(1.8F);
    if (s.areLines || s.isFlat) actor->GetProperty()->SetLighting(false);
    return actor;
}

}  // namespace cvane::view
