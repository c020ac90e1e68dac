#include "view/actors.h"

#include <vtkActor.h>
#include <vtkBillboardTextActor3D.h>
#include <vtkCellArray.h>
#include <vtkCoordinate.h>
#include <vtkDiscretizableColorTransferFunction.h>
#include <vtkDoubleArray.h>
#include <vtkNew.h>
#include <vtkObjectFactory.h>
#include <vtkPointData.h>
#include <vtkPolyData.h>
#include <vtkPolyDataMapper.h>
#include <vtkPropAssembly.h>
#include <vtkPropCollection.h>
#include <vtkProperty.h>
#include <vtkTextProperty.h>

#include <algorithm>
#include <cmath>
#include <sstream>

namespace cvane::view {

namespace {
vtkSmartPointer<vtkColorTransferFunction> smoothMap(double low, double high, field::Sense sense) {
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

// Lines that lie in polygons are drawn before them.
void drawBefore(vtkMapper& mapper) {
    mapper.SetResolveCoincidentTopologyToPolygonOffset();
    mapper.SetRelativeCoincidentTopologyLineOffsetParameters(-4.0, -4.0);
}

vtkSmartPointer<vtkPolyData> linesOf(const std::vector<std::array<Vec3, 2>>& pieces) {
    vtkNew<vtkPoints> points;
    vtkNew<vtkCellArray> cells;
    for (const auto& [a, b] : pieces) {
        const vtkIdType ends[2] = {points->InsertNextPoint(a.data()), points->InsertNextPoint(b.data())};
        cells->InsertNextCell(2, ends);
    }
    auto data = vtkSmartPointer<vtkPolyData>::New();
    data->SetPoints(points);
    data->SetLines(cells);
    return data;
}
}  // namespace

const Paper& paperOf(bool dark) {
    static const Paper day{{0.969, 0.957, 0.925}, {0.15, 0.17, 0.20}, {0.85, 0.81, 0.73}},
        night{{0.11, 0.12, 0.14}, {0.92, 0.91, 0.88}, {0.62, 0.60, 0.55}};
    return dark ? night : day;
}

vtkSmartPointer<vtkColorTransferFunction> colourMap(double low, double high, field::Sense sense, int steps) {
    const auto smooth = smoothMap(low, high, sense);
    if (steps < 1) return smooth;
    auto f = vtkSmartPointer<vtkColorTransferFunction>::New();
    for (int i = 0; i < steps; ++i) {
        const double from = low + (high - low) * i / steps, to = low + (high - low) * (i + 1) / steps;
        double c[3];
        smooth->GetColor(0.5 * (from + to), c);
        // The same all the way; the step itself takes next to nothing.
        f->AddRGBPoint(i == 0 ? from : from + 1e-6 * (to - from), c[0], c[1], c[2]);
        f->AddRGBPoint(to, c[0], c[1], c[2]);
    }
    return f;
}

std::vector<double> roundNumbers(double low, double high, int about) {
    std::vector<double> out;
    const double raw = (high - low) / std::max(1, about);
    if (!(raw > 0.0) || !std::isfinite(raw)) return out;
    const double ten = std::pow(10.0, std::floor(std::log10(raw))), share = raw / ten;
    const double step = (share < 1.5 ? 1.0 : share < 3.5 ? 2.0 : share < 7.5 ? 5.0 : 10.0) * ten;
    const double first = std::ceil(low / step - 1e-9);
    // By number, since a step may be too small to be added to what it starts from.
    for (int k = 0; k < 100; ++k) {
        const double v = (first + k) * step;
        if (v > high + 1e-9 * step) break;
        out.push_back(std::abs(v) < 1e-9 * step ? 0.0 : v);
    }
    return out;
}

namespace {
constexpr std::size_t kTitleLine = 13;  ///< letters that the margin has room for

/// Words broken into lines of so many letters where they have blanks.
std::string inLines(const std::string& words, std::size_t most) {
    std::string out, line;
    std::istringstream all(words);
    for (std::string word; all >> word;) {
        if (!line.empty() && line.size() + 1 + word.size() > most) {
            out += line + '\n';
            line.clear();
        }
        line += (line.empty() ? "" : " ") + word;
    }
    return out + line;
}
}  // namespace

vtkSmartPointer<vtkScalarBarActor> legendOf(double low, double high, field::Sense sense, const std::string& title,
                                            const Colour& ink, double size, int steps) {
    auto bar = vtkSmartPointer<vtkScalarBarActor>::New();
    const auto map = colourMap(low, high, sense, steps);
    vtkNew<vtkDiscretizableColorTransferFunction> shown;
    constexpr int kRows = 256;
    for (int i = 0; i <= kRows; ++i) {
        const double v = low + (high - low) * i / kRows;
        double rgb[3];
        map->GetColor(v, rgb);
        shown->AddRGBPoint(v, rgb[0], rgb[1], rgb[2]);
    }
    shown->Build();
    bar->SetLookupTable(shown);
    bar->SetMaximumNumberOfColors(kRows);
    bar->SetTitle(inLines(title, kTitleLine).c_str());
    vtkNew<vtkDoubleArray> labels;
    for (const double v : roundNumbers(low, high, 5)) labels->InsertNextValue(v);
    if (labels->GetNumberOfTuples() > 1) {
        bar->SetCustomLabels(labels);
        bar->UseCustomLabelsOn();
    } else {
        bar->SetNumberOfLabels(5);
    }
    bar->SetLabelFormat("%.3g");
    // Within the margin of the picture: the title over the middle of the bar, the axes above.
    bar->SetMaximumWidthInPixels(static_cast<int>(64 * size));
    bar->SetHeight(0.6);
    bar->SetWidth(1.0);
    bar->SetMaximumHeightInPixels(static_cast<int>(300 * size));
    bar->GetPositionCoordinate()->SetCoordinateSystemToViewport();
    bar->GetPositionCoordinate()->SetValue(20.0 * size, 16.0 * size);
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

namespace {
vtkSmartPointer<vtkActor> actorOf(const ItemShape& s, const Colour& plain) {
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
    if (s.areLines) drawBefore(*mapper.Get());
    auto actor = vtkSmartPointer<vtkActor>::New();
    actor->SetMapper(mapper);
    actor->GetProperty()->SetColor(plain[0], plain[1], plain[2]);
    actor->GetProperty()->SetAmbient(0.25);
    actor->GetProperty()->SetDiffuse(0.8);
    actor->GetProperty()->SetOpacity(s.opacity);
    if (s.areLines) actor->GetProperty()->SetLineWidth(1.8F);
    if (s.areLines || s.isFlat) actor->GetProperty()->SetLighting(false);
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
    const auto map = colourMap(s.low, s.high, s.sense, s.steps);
    map->SetNanColor(0.6, 0.6, 0.6);
    mapper->SetLookupTable(map);
    mapper->UseLookupTableScalarRangeOff();
    mapper->SetScalarRange(s.low, s.high);
    mapper->SetScalarModeToUsePointData();
    mapper->InterpolateScalarsBeforeMappingOn();
    return actor;
}
}  // namespace

/// Parts that are drawn together, some of them only while the view rests or moves.
class ItemProp : public vtkPropAssembly {
  public:
    static ItemProp* New();
    vtkTypeMacro(ItemProp, vtkPropAssembly);
    void addPart(vtkProp* part, bool whileMoving, bool whileResting) {
        AddPart(part);
        parts_.push_back({part, whileMoving, whileResting});
        part->SetVisibility(whileResting);
    }
    void setMoving(bool moving) {
        for (auto& p : parts_) p.prop->SetVisibility(moving ? p.whileMoving : p.whileResting);
    }

  private:
    struct Part {
        vtkSmartPointer<vtkProp> prop;
        bool whileMoving, whileResting;
    };
    std::vector<Part> parts_;
};
vtkStandardNewMacro(ItemProp);

bool drawMoving(vtkRenderer& renderer, bool moving) {
    bool any = false;
    auto* all = renderer.GetViewProps();
    all->InitTraversal();
    while (auto* prop = all->GetNextProp())
        if (auto* item = ItemProp::SafeDownCast(prop)) {
            item->setMoving(moving);
            any = true;
        }
    return any;
}

vtkSmartPointer<vtkProp> propOf(const ItemShape& s, const Colour& plain, const Colour& ink, double size) {
    // Lines without values are drawn in ink: they would be lost on the model.
    const Colour& own = s.areLines ? ink : plain;
    const auto body = actorOf(s, own);
    if (s.contours.empty() && s.words.empty() && !s.coarse) return body;
    auto all = vtkSmartPointer<ItemProp>::New();
    all->addPart(body, !s.coarse, true);
    if (s.coarse) {
        const auto coarse = actorOf(*s.coarse, own);
        coarse->GetProperty()->SetLineWidth(1.0F);
        all->addPart(coarse, true, false);
    }
    if (!s.contours.empty()) {
        vtkNew<vtkPolyDataMapper> mapper;
        mapper->SetInputData(linesOf(s.contours));
        drawBefore(*mapper.Get());
        vtkNew<vtkActor> lines;
        lines->SetMapper(mapper);
        lines->GetProperty()->SetColor(ink[0], ink[1], ink[2]);
        lines->GetProperty()->SetOpacity(0.6);
        lines->GetProperty()->SetLighting(false);
        lines->GetProperty()->SetLineWidth(static_cast<float>(std::max(1.0, size)));
        all->addPart(lines, false, true);
    }
    for (const auto& [at, text] : s.words) {
        vtkNew<vtkBillboardTextActor3D> words;
        words->SetPosition(at.x(), at.y(), at.z());
        words->SetInput(text.c_str());
        words->SetDisplayOffset(static_cast<int>(8 * size), static_cast<int>(8 * size));
        words->GetTextProperty()->SetFontSize(std::max(8, static_cast<int>(15 * size)));
        words->GetTextProperty()->SetColor(ink[0], ink[1], ink[2]);
        all->addPart(words, true, true);
    }
    return all;
}

}  // namespace cvane::view
