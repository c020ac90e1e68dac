#include "desk/canvas.h"

#include <fmt/format.h>
#include <vtkCamera.h>
#include <vtkOpenGLState.h>

#include <QApplication>
#include <QOpenGLContext>
#include <QOpenGLFunctions>
#include <QSurfaceFormat>
#include <cmath>

#include "desk/look.h"
#include "desk/scene.h"
#include "view/actors.h"
#include "view/studio.h"

namespace cvane::desk {

void Canvas::chooseFormat() {
    QSurfaceFormat format;
    format.setVersion(3, 2);
    format.setProfile(QSurfaceFormat::CoreProfile);
    format.setDepthBufferSize(24);
    QSurfaceFormat::setDefaultFormat(format);
}

Canvas::Canvas(QWidget* parent) : QOpenGLWidget(parent) {
    setObjectName("canvas");
    setAccessibleName(tr("3D view"));
    setFocusPolicy(Qt::StrongFocus);
    setMinimumSize(320, 220);
    setMouseTracking(true);
    // Samples are five times slower without a graphics card: edges are smoothed by a filter, while nothing moves.
    window_->SetMultiSamples(0);
    window_->AddRenderer(renderer_);
    dress();
    renderer_->GetActiveCamera()->ParallelProjectionOn();
    rest_.setSingleShot(true);
    rest_.setInterval(250);
    connect(&rest_, &QTimer::timeout, this, [this] { setMoving(false); });
    lookFrom(view::Look::Oblique);
}

Canvas::~Canvas() = default;

void Canvas::dress() {
    for (int i = 0; i < panes(); ++i) {
        pane(i)->SetBackground(look::paper.redF(), look::paper.greenF(), look::paper.blueF());
        pane(i)->SetUseFXAA(true);
    }
    margin_->SetBackground(renderer_->GetBackground());
    around_.reset();
    around_ =
        std::make_unique<view::Surroundings>(*window_.Get(), *renderer_.Get(), *margin_.Get(), unit(), look::isDark());
    update();
}

void Canvas::pointAt(const Vec3& place) {
    own_.remove("place");
    own_.keep("place", {}, [&] { return scene::handlesActor({place}); });
    pointing_ = true;
    auto c = camera();
    c.eye += place - c.focus;
    c.focus = place;
    setCamera(c);
}

void Canvas::initializeGL() {
    view::drawInCurrentContext(*window_.Get());
}

void Canvas::resizeGL(int w, int h) {
    window_->SetSize(static_cast<int>(w * unit()), static_cast<int>(h * unit()));
    layOut();
}

double Canvas::unit() const {
    // Before it has a window the view knows no screen.
    return windowHandle() || isVisible() ? devicePixelRatioF() : qApp->devicePixelRatio();
}

void Canvas::layOut() {
    // Two beside each other; four in two rows, the first at the upper left.
    const double left = view::marginShare(width(), 1.0), low = panes() > 2 ? 0.5 : 0.0;
    const double half = 0.5 * (1.0 - left);
    renderer_->SetViewport(left, low, panes() > 1 ? left + half : 1.0, 1.0);
    for (int i = 1; i < panes(); ++i) {
        const double x = i % 2 ? left + half : left, y = i < 2 ? low : 0.0;
        pane(i)->SetViewport(x, y, x + half, y + (panes() > 2 ? 0.5 : 1.0));
    }
}

void Canvas::paintGL() {
    window_->GetState()->Reset();
    window_->SetFrameBlitModeToNoBlit();
    around_->follow();
    renderer_->ResetCameraClippingRange();
    window_->Render();
    window_->Frame();
    context()->functions()->glBindFramebuffer(GL_DRAW_FRAMEBUFFER, defaultFramebufferObject());
    window_->BlitDisplayFramebuffer();
}

void Canvas::lookFrom(view::Look look, const std::optional<Box>& at) {
    Box box;
    if (at) {
        box = *at;
    } else {
        double b[6];
        renderer_->ComputeVisiblePropBounds(b);
        if (b[0] <= b[1]) {
            box.add(Vec3(b[0], b[2], b[4]));
            box.add(Vec3(b[1], b[3], b[5]));
        }
    }
    const bool perspective = !renderer_->GetActiveCamera()->GetParallelProjection();
    if (box.empty()) box.add(Vec3::Zero());
    const QRect pane = paneRect();
    auto camera = view::lookingFrom(look, box, static_cast<double>(pane.width()) / std::max(1, pane.height()));
    camera.perspective = perspective;
    if (!(camera.height > 1e-8)) camera.height = 1.0;
    setCamera(camera);
}

view::Camera Canvas::camera() const {
    return view::cameraOf(*renderer_->GetActiveCamera());
}

void Canvas::setCamera(const view::Camera& camera) {
    view::place(*renderer_->GetActiveCamera(), camera);
    update();
}

void Canvas::setPerspective(bool on) {
    auto c = camera();
    c.perspective = on;
    setCamera(c);
}

void Canvas::fit(const std::optional<Box>& at) {
    double b[6];
    renderer_->ComputeVisiblePropBounds(b);
    for (int k = 0; at && k < 3; ++k) b[2 * k] = at->low[k], b[2 * k + 1] = at->high[k];
    if (b[0] > b[1]) return;
    renderer_->ResetCamera(b);
    renderer_->GetActiveCamera()->Zoom(1.2);
    update();
}

bool Canvas::savePicture(const QString& file) {
    return picture().save(file);
}

void Canvas::setPanes(int count) {
    if (count == panes()) return;
    const auto shape = [this] { return static_cast<double>(paneRect().width()) / std::max(1, paneRect().height()); };
    const double before = shape();
    for (const auto& p : panes_) window_->RemoveRenderer(p);
    panes_.clear();
    for (int i = 1; i < count; ++i) {
        auto r = vtkSmartPointer<vtkRenderer>::New();
        r->SetBackground(look::paper.redF(), look::paper.greenF(), look::paper.blueF());
        r->SetActiveCamera(renderer_->GetActiveCamera());
        r->SetUseFXAA(true);
        window_->AddRenderer(r);
        panes_.push_back(r);
    }
    layOut();
    // What was seen from side to side is seen in the narrower pane too.
    auto c = camera();
    c.height *= before / std::max(0.01, shape());
    setCamera(c);
}

QRect Canvas::paneRect() const {
    const double* v = renderer_->GetViewport();
    const int left = static_cast<int>(std::lround(width() * v[0]));
    return QRect(left, 0, static_cast<int>(std::lround(width() * v[2])) - left,
                 static_cast<int>(height() * (v[3] - v[1])));
}

Canvas::Frame Canvas::frame() const {
    vtkCamera* c = renderer_->GetActiveCamera();
    c->OrthogonalizeViewUp();
    Frame f;
    c->GetFocalPoint(f.focus.data());
    c->GetViewUp(f.up.data());
    c->GetViewPlaneNormal(f.towards.data());
    f.right = f.up.cross(f.towards);
    f.scale = camera().height / std::max(1, paneRect().height());
    f.distance = c->GetDistance();
    f.perspective = !c->GetParallelProjection();
    return f;
}

Vec3 Canvas::placeOf(const QPointF& pixel) const {
    const Frame f = frame();
    const QRect pane = paneRect();
    return f.focus +
           f.scale * ((pixel.x() - pane.x() - 0.5 * pane.width()) * f.right + (0.5 * pane.height() - pixel.y()) * f.up);
}

QPointF Canvas::pixelOf(const Vec3& place) const {
    const Frame f = frame();
    const Vec3 d = place - f.focus;
    const double nearer = f.perspective ? f.distance / std::max(1e-12, f.distance - d.dot(f.towards)) : 1.0;
    const QRect pane = paneRect();
    return {pane.x() + 0.5 * pane.width() + nearer * d.dot(f.right) / f.scale,
            0.5 * pane.height() - nearer * d.dot(f.up) / f.scale};
}

std::optional<QPointF> Canvas::pixelOf(const std::string& handle) const {
    for (const auto& h : handles_)
        if (h.name == handle) return pixelOf(h.at);
    return std::nullopt;
}

std::optional<Vec3> Canvas::placeUnder(const QPoint& pixel) {
    if (!isValid() || !paneRect().contains(pixel)) return std::nullopt;
    makeCurrent();
    const double ratio = unit();
    const int x = static_cast<int>(pixel.x() * ratio), y = static_cast<int>((height() - 1 - pixel.y()) * ratio);
    const double depth = renderer_->GetZ(x, y);
    std::optional<Vec3> out;
    if (depth < 1.0) {
        renderer_->SetDisplayPoint(x, y, depth);
        renderer_->DisplayToWorld();
        const double* w = renderer_->GetWorldPoint();
        if (w[3] != 0.0) out = Vec3(w[0] / w[3], w[1] / w[3], w[2] / w[3]);
    }
    doneCurrent();
    return out;
}

void Canvas::setMoving(bool moving) {
    for (int i = 0; i < panes(); ++i) {
        pane(i)->SetUseFXAA(!moving);
        view::drawMoving(*pane(i), moving);
    }
    moving ? rest_.start() : update();
}

void Canvas::setHandles(std::vector<Handle> handles) {
    handles_ = std::move(handles);
    std::vector<Vec3> places;
    for (const auto& h : handles_) places.push_back(h.at);
    own_.remove("handles");
    if (!places.empty()) own_.keep("handles", {}, [&] { return scene::handlesActor(places); });
    update();
}

void Canvas::takeMeasure(const Vec3& place) {
    measured_.push_back(place);
    own_.remove("measure");
    own_.keep("measure", {}, [&] {
        return measured_.size() < 2 ? scene::pointsActor(measured_, look::accent)
                                    : scene::pathActor(measured_, look::accent);
    });
    if (measured_.size() == 2) {
        measuring_ = false;
        unsetCursor();
        emit measured(measured_[0], measured_[1]);
    }
    update();
}

}  // namespace cvane::desk
