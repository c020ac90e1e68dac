#include "view/surroundings.h"

#include <fmt/format.h>
#include <vtkActor.h>
#include <vtkActor2D.h>
#include <vtkCellArray.h>
#include <vtkCoordinate.h>
#include <vtkFollower.h>
#include <vtkPoints.h>
#include <vtkPolyData.h>
#include <vtkPolyDataMapper.h>
#include <vtkPolyDataMapper2D.h>
#include <vtkProperty.h>
#include <vtkProperty2D.h>
#include <vtkTextActor.h>
#include <vtkTextProperty.h>
#include <vtkVectorText.h>

#include <algorithm>
#include <cmath>

namespace cvane::view {
namespace {
constexpr Colour kWind{0.72, 0.29, 0.10};
constexpr double kMargin = 104.0;  ///< width of the margin [pixels of a window]
constexpr double kLetters = 0.34;  ///< height, over the axes' length

vtkSmartPointer<vtkPolyData> lines(const std::vector<std::vector<Vec3>>& all) {
    vtkNew<vtkPoints> points;
    vtkNew<vtkCellArray> cells;
    for (const auto& one : all) {
        cells->InsertNextCell(static_cast<vtkIdType>(one.size()));
        for (const Vec3& x : one) cells->InsertCellPoint(points->InsertNextPoint(x.data()));
    }
    auto data = vtkSmartPointer<vtkPolyData>::New();
    data->SetPoints(points);
    data->SetLines(cells);
    return data;
}

vtkSmartPointer<vtkActor> linesActor(const std::vector<std::vector<Vec3>>& all, const Colour& c, double width) {
    vtkNew<vtkPolyDataMapper> mapper;
    mapper->SetInputData(lines(all));
    auto actor = vtkSmartPointer<vtkActor>::New();
    actor->SetMapper(mapper);
    actor->GetProperty()->SetColor(c[0], c[1], c[2]);
    actor->GetProperty()->SetLighting(false);
    actor->GetProperty()->SetLineWidth(static_cast<float>(width));
    actor->PickableOff();
    return actor;
}

void style(vtkTextProperty* t, const Colour& c, double size) {
    t->SetColor(c[0], c[1], c[2]);
    t->SetFontSize(std::max(8, static_cast<int>(size)));
}

// Letters of polygons that face the camera: pictures of letters would take longer to make ready than all else.
vtkSmartPointer<vtkFollower> word(const Vec3& at, const char* text, const Colour& c, vtkCamera* camera) {
    vtkNew<vtkVectorText> letters;
    letters->SetText(text);
    letters->Update();
    double b[6];
    letters->GetOutput()->GetBounds(b);
    vtkNew<vtkPolyDataMapper> mapper;
    mapper->SetInputConnection(letters->GetOutputPort());
    auto w = vtkSmartPointer<vtkFollower>::New();
    w->SetMapper(mapper);
    w->SetScale(kLetters);
    // In the middle of the word, about which it turns.
    Vec3 middle(0.5 * (b[0] + b[1]), 0.5 * (b[2] + b[3]), 0.0);
    w->SetOrigin(middle.data());
    Vec3 corner = at - middle;
    w->SetPosition(corner.data());
    w->SetCamera(camera);
    w->GetProperty()->SetColor(c[0], c[1], c[2]);
    w->GetProperty()->SetLighting(false);
    return w;
}
}  // namespace

void place(vtkCamera& c, const Camera& at) {
    c.SetParallelProjection(!at.perspective);
    c.SetFocalPoint(at.focus.data());
    Vec3 towards = at.eye - at.focus;
    if (!(towards.norm() > 0.0)) towards = Vec3(0, -1, 0);
    Vec3 eye = at.focus + towards;
    // In perspective the distance makes the height.
    if (at.perspective)
        eye = at.focus + towards.normalized() * 0.5 * at.height / std::tan(0.5 * c.GetViewAngle() * M_PI / 180.0);
    c.SetPosition(eye.data());
    c.SetViewUp(at.up.data());
    c.SetParallelScale(0.5 * at.height);
}

Camera cameraOf(vtkCamera& c) {
    Camera out;
    out.perspective = !c.GetParallelProjection();
    c.GetFocalPoint(out.focus.data());
    c.GetPosition(out.eye.data());
    c.GetViewUp(out.up.data());
    out.height = out.perspective ? 2.0 * c.GetDistance() * std::tan(0.5 * c.GetViewAngle() * M_PI / 180.0)
                                 : 2.0 * c.GetParallelScale();
    return out;
}

Camera lookingFrom(Look look, const Box& at, double widthOverHeight) {
    Camera c;
    Vec3 towards = Vec3(-0.55, -1.0, 0.45).normalized();
    switch (look) {
        case Look::Front:
            towards = -Vec3::UnitX();
            break;
        case Look::Back:
            towards = Vec3::UnitX();
            break;
        case Look::Side:
            towards = -Vec3::UnitY();
            break;
        case Look::Starboard:
            towards = Vec3::UnitY();
            break;
        case Look::Above:
            towards = Vec3::UnitZ();
            c.up = Vec3::UnitY();
            break;
        case Look::Below:
            towards = -Vec3::UnitZ();
            c.up = -Vec3::UnitY();
            break;
        case Look::Oblique:
            break;
    }
    c.focus = at.centre();
    const Vec3 size = at.size(), right = c.up.cross(towards).normalized(), up = towards.cross(right);
    const double tall = up.cwiseAbs().dot(size), wide = right.cwiseAbs().dot(size);
    c.height = 1.25 * std::max({tall, wide / std::max(widthOverHeight, 0.1), 1e-6 * size.norm(), 1e-9});
    c.eye = c.focus + 2.0 * std::max(size.norm(), c.height) * towards;
    return c;
}

struct Surroundings::Parts {
    Parts(vtkRenderWindow& w, vtkRenderer& m, vtkRenderer& edge, double s, bool dark)
        : window(w), main(m), margin(edge), size(s), ink(paperOf(dark).ink) {}
    vtkRenderWindow& window;
    vtkRenderer& main;
    vtkRenderer& margin;
    double size;
    Colour ink;
    vtkNew<vtkRenderer> corner;
    vtkNew<vtkActor2D> bar;
    vtkNew<vtkPoints> barPoints;
    vtkNew<vtkTextActor> barText;
    std::optional<Vec3> along;
    std::vector<vtkSmartPointer<vtkProp>> wind;
    vtkSmartPointer<vtkProp> ground;
    std::optional<double> groundHeight;
    Box groundModel;
    bool isGround = false;
};

double marginShare(double width, double size) {
    return std::min(0.35, kMargin * size / std::max(1.0, width));
}

Surroundings::Surroundings(vtkRenderWindow& window, vtkRenderer& main, vtkRenderer& margin, double size, bool dark)
    : parts_(std::make_unique<Parts>(window, main, margin, size, dark)) {
    auto& p = *parts_;
    margin.InteractiveOff();
    window.AddRenderer(&margin);
    window.SetNumberOfLayers(2);
    p.corner->SetLayer(1);
    p.corner->InteractiveOff();
    p.corner->GetActiveCamera()->ParallelProjectionOn();
    window.AddRenderer(p.corner);
    const char* const names[] = {"x", "y", "z"};
    for (int k = 0; k < 3; ++k) {
        p.corner->AddActor(linesActor({{Vec3::Zero(), Vec3(Vec3::Unit(k))}}, p.ink, 1.5 * size));
        p.corner->AddActor(word(1.25 * Vec3::Unit(k), names[k], p.ink, p.corner->GetActiveCamera()));
    }
    vtkNew<vtkPolyData> data;
    vtkNew<vtkCellArray> cells;
    p.barPoints->SetNumberOfPoints(4);
    const vtkIdType ids[4] = {0, 1, 2, 3};
    cells->InsertNextCell(4, ids);
    data->SetPoints(p.barPoints);
    data->SetLines(cells);
    vtkNew<vtkPolyDataMapper2D> mapper;
    mapper->SetInputData(data);
    p.bar->SetMapper(mapper);
    p.bar->GetProperty()->SetColor(p.ink[0], p.ink[1], p.ink[2]);
    p.bar->GetProperty()->SetLineWidth(static_cast<float>(1.5 * size));
    style(p.barText->GetTextProperty(), p.ink, 13 * size);
    p.barText->GetTextProperty()->SetJustificationToCentered();
    main.AddActor2D(p.bar);
    main.AddActor2D(p.barText);
}

Surroundings::~Surroundings() {
    auto& p = *parts_;
    p.main.RemoveActor2D(p.bar);
    p.main.RemoveActor2D(p.barText);
    if (p.ground) p.main.RemoveViewProp(p.ground);
    p.window.RemoveRenderer(p.corner);
    p.window.RemoveRenderer(&p.margin);
}

void Surroundings::setWind(const std::optional<Vec3>& along) {
    auto& p = *parts_;
    if (p.along == along) return;
    p.along = along;
    for (const auto& w : p.wind) p.corner->RemoveViewProp(w);
    p.wind.clear();
    if (!along || !(along->norm() > 0.0)) return;
    // It comes to the middle of the axes.
    const Vec3 d = along->normalized(), side = d.unitOrthogonal(), other = d.cross(side), tip = -0.12 * d,
               tail = -1.25 * d;
    const Vec3 neck = tip - 0.3 * d;
    p.wind.push_back(linesActor({{tail, tip},
                                 {Vec3(neck + 0.12 * side), tip, Vec3(neck - 0.12 * side)},
                                 {Vec3(neck + 0.12 * other), tip, Vec3(neck - 0.12 * other)}},
                                kWind, 2.5 * p.size));
    p.wind.push_back(word(-1.5 * d, "wind", kWind, p.corner->GetActiveCamera()));
    for (const auto& w : p.wind) p.corner->AddViewProp(w);
}

void Surroundings::setGround(const std::optional<double>& height, const Box& model) {
    auto& p = *parts_;
    if (p.isGround && p.groundHeight == height && p.groundModel.low == model.low && p.groundModel.high == model.high)
        return;
    p.isGround = true;
    p.groundHeight = height;
    p.groundModel = model;
    if (p.ground) p.main.RemoveViewProp(p.ground);
    p.ground = nullptr;
    if (!height || model.empty()) return;
    const double reach = 0.6 * model.size().head<2>().maxCoeff(), length = model.size().head<2>().maxCoeff();
    const auto steps = roundNumbers(0.0, length, 8);
    if (steps.size() < 2) return;
    const double step = steps[1] - steps[0];
    const auto from = [&](int k) { return std::floor((model.low[k] - reach) / step) * step; };
    const auto to = [&](int k) { return std::ceil((model.high[k] + reach) / step) * step; };
    // A little below, so that a fixed wall on it stays clean.
    const double z = *height - 1e-4 * length;
    std::vector<std::vector<Vec3>> all;
    for (double x = from(0); x <= to(0) + 1e-9 * step; x += step) all.push_back({{x, from(1), z}, {x, to(1), z}});
    for (double y = from(1); y <= to(1) + 1e-9 * step; y += step) all.push_back({{from(0), y, z}, {to(0), y, z}});
    const auto net = linesActor(all, p.ink, p.size);
    net->GetProperty()->SetOpacity(0.22);
    p.ground = net;
    p.main.AddViewProp(net);
}

void Surroundings::follow() {
    auto& p = *parts_;
    const int* pixels = p.window.GetSize();
    const double width = std::max(1, pixels[0]), height = std::max(1, pixels[1]);
    // The axes at the upper end of the margin; the colour bar has the rest of it.
    const double share = p.main.GetViewport()[0], side = std::min(share * width, 0.35 * height);
    p.margin.SetViewport(0.0, 0.0, share, 1.0);
    p.corner->SetViewport(0.5 * (share - side / width), 1.0 - side / height, 0.5 * (share + side / width), 1.0);
    vtkCamera *from = p.main.GetActiveCamera(), *to = p.corner->GetActiveCamera();
    Vec3 towards, up;
    from->GetViewPlaneNormal(towards.data());
    from->GetViewUp(up.data());
    towards *= 10.0;
    to->SetFocalPoint(0, 0, 0);
    to->SetPosition(towards.data());
    to->SetViewUp(up.data());
    to->SetParallelScale(2.1);
    p.corner->ResetCameraClippingRange(-2, 2, -2, 2, -2, 2);
    // The bar measures what lies at the focus, in the pane of the main view.
    const double* pane = p.main.GetViewport();
    const double paneWidth = (pane[2] - pane[0]) * width, paneHeight = (pane[3] - pane[1]) * height;
    const double perPixel = cameraOf(*from).height / paneHeight;
    const double most = 160.0 * p.size * perPixel, ten = std::pow(10.0, std::floor(std::log10(most)));
    const double length = (most >= 5.0 * ten ? 5.0 : most >= 2.0 * ten ? 2.0 : 1.0) * ten, long_ = length / perPixel;
    const bool fits = std::isfinite(long_) && long_ < 0.6 * paneWidth;
    p.bar->SetVisibility(fits);
    p.barText->SetVisibility(fits);
    const double x = paneWidth - 24.0 * p.size - long_, y = 18.0 * p.size, tick = 5.0 * p.size;
    p.barPoints->SetPoint(0, x, y + tick, 0);
    p.barPoints->SetPoint(1, x, y, 0);
    p.barPoints->SetPoint(2, x + long_, y, 0);
    p.barPoints->SetPoint(3, x + long_, y + tick, 0);
    p.barPoints->Modified();
    p.barText->SetInput((length < 0.1 ? fmt::format("{:g} mm", 1e3 * length) : fmt::format("{:g} m", length)).c_str());
    p.barText->SetPosition(x + 0.5 * long_, y + 6.0 * p.size);
}

}  // namespace cvane::view
