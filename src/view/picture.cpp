#include "view/picture.h"

#include <EGL/egl.h>
#include <EGL/eglext.h>
#include <fmt/format.h>
#include <vtkCamera.h>
#include <vtkGenericOpenGLRenderWindow.h>
#include <vtkImageData.h>
#include <vtkNew.h>
#include <vtkOpenGLState.h>
#include <vtkPNGWriter.h>
#include <vtkPointData.h>
#include <vtkRenderer.h>
#include <vtkTextActor.h>
#include <vtkTextProperty.h>
#include <vtkUnsignedCharArray.h>

#include "base/errors.h"
#include "base/files.h"
#include "view/actors.h"
#include "view/item_shape.h"

namespace cvane::view {
namespace {

/// OpenGL without a window; current as long as it lives.
class Context {
  public:
    Context() {
        const auto fail = [](const char* what) {
            throw base::InputError(fmt::format("{} (error {:#x}).", what, eglGetError()), "OpenGL",
                                   "Pictures need Mesa's software drawing (libegl1, libgl1-mesa-dri).");
        };
        const auto platform =
            reinterpret_cast<PFNEGLGETPLATFORMDISPLAYEXTPROC>(eglGetProcAddress("eglGetPlatformDisplayEXT"));
        display_ = platform ? platform(EGL_PLATFORM_SURFACELESS_MESA, EGL_DEFAULT_DISPLAY, nullptr)
                            : eglGetDisplay(EGL_DEFAULT_DISPLAY);
        if (display_ == EGL_NO_DISPLAY || !eglInitialize(display_, nullptr, nullptr)) fail("cannot be started");
        if (!eglBindAPI(EGL_OPENGL_API)) fail("is not to be had");
        const EGLint wanted[] = {EGL_SURFACE_TYPE, 0, EGL_RENDERABLE_TYPE, EGL_OPENGL_BIT, EGL_NONE};
        EGLConfig config = nullptr;
        EGLint count = 0;
        if (!eglChooseConfig(display_, wanted, &config, 1, &count) || count < 1) fail("has no fitting form");
        const EGLint version[] = {
            EGL_CONTEXT_MAJOR_VERSION,           3,       EGL_CONTEXT_MINOR_VERSION, 2, EGL_CONTEXT_OPENGL_PROFILE_MASK,
            EGL_CONTEXT_OPENGL_CORE_PROFILE_BIT, EGL_NONE};
        context_ = eglCreateContext(display_, config, EGL_NO_CONTEXT, version);
        if (context_ == EGL_NO_CONTEXT) fail("of version 3.2 is not to be had");
        if (!eglMakeCurrent(display_, EGL_NO_SURFACE, EGL_NO_SURFACE, context_)) fail("cannot draw without a window");
    }
    ~Context() {
        if (display_ == EGL_NO_DISPLAY) return;
        eglMakeCurrent(display_, EGL_NO_SURFACE, EGL_NO_SURFACE, EGL_NO_CONTEXT);
        if (context_ != EGL_NO_CONTEXT) eglDestroyContext(display_, context_);
        eglTerminate(display_);
    }
    Context(const Context&) = delete;
    Context& operator=(const Context&) = delete;

  private:
    EGLDisplay display_ = EGL_NO_DISPLAY;
    EGLContext context_ = EGL_NO_CONTEXT;
};

/// The loader of Debian's OpenGL looks for an X display as well, finds none and says so; all that is needed is there.
class Quiet {
  public:
    Quiet() { vtkObject::GlobalWarningDisplayOff(); }
    ~Quiet() { vtkObject::SetGlobalWarningDisplay(before_); }
    Quiet(const Quiet&) = delete;
    Quiet& operator=(const Quiet&) = delete;

  private:
    int before_ = vtkObject::GetGlobalWarningDisplay();
};

void aim(vtkCamera& camera, Look look) {
    camera.SetFocalPoint(0, 0, 0);
    camera.SetViewUp(0, 0, 1);
    switch (look) {
        case Look::Front:
            camera.SetPosition(-1, 0, 0);
            break;
        case Look::Side:
            camera.SetPosition(0, -1, 0);
            break;
        case Look::Above:
            camera.SetPosition(0, 0, 1);
            camera.SetViewUp(0, 1, 0);
            break;
        case Look::Below:
            camera.SetPosition(0, 0, -1);
            camera.SetViewUp(0, -1, 0);
            break;
        case Look::Back:
            camera.SetPosition(1, 0, 0);
            break;
        case Look::Oblique:
            camera.SetPosition(-0.55, -1.0, 0.45);
    }
}
}  // namespace

std::vector<std::string> writePicture(const field::FlowField& flow, const std::vector<campaign::FlowItem>& items,
                                      const PictureSettings& s, const std::filesystem::path& file) {
    if (s.width < 64 || s.height < 64 || s.width > kLargestPicture || s.height > kLargestPicture)
        throw base::InputError(fmt::format("a picture of {} x {} pixels cannot be drawn.", s.width, s.height), "size",
                               fmt::format("Give 64 to {} each way.", kLargestPicture));
    if (!(s.zoom > 0.01 && s.zoom < 1000.0))
        throw base::InputError(fmt::format("a zoom of {:g} shows nothing.", s.zoom), "zoom", "Give 0.01 to 1000.");
    std::vector<std::string> troubles;
    std::vector<ItemShape> shapes;
    for (const auto& item : items) {
        if (!item.shown) continue;
        auto shape = shapeOf(item, flow);
        if (!shape.trouble.empty()) troubles.push_back(item.name + ": " + shape.trouble);
        if (shape.pieces() > 0) shapes.push_back(std::move(shape));
    }
    if (shapes.empty())
        throw base::InputError(troubles.empty() ? "no item of the flow is shown." : troubles.front(), "picture",
                               "Tick items in the stage Flow.");
    const Context context;
    const Quiet quiet;
    vtkNew<vtkGenericOpenGLRenderWindow> window;
    vtkNew<vtkRenderer> renderer;
    const double paper[3] = {0.969, 0.957, 0.925}, night[3] = {0.11, 0.12, 0.14}, ink[3] = {0.15, 0.17, 0.20},
                 chalk[3] = {0.92, 0.91, 0.88}, plain[3] = {0.85, 0.81, 0.73};
    renderer->SetBackground(s.dark ? night : paper);
    window->SetMultiSamples(8);
    window->SetSize(s.width, s.height);
    window->SetIsCurrent(true);
    window->InitializeFromCurrentContext();
    window->SetSupportsOpenGL(1);
    window->SetIsDirect(1);
    window->SetMapped(true);
    window->SetReadyForRendering(true);
    window->SetFrameBlitModeToNoBlit();
    window->AddRenderer(renderer);
    const ItemShape* scale = nullptr;
    for (const auto& shape : shapes) {
        renderer->AddActor(actorOf(shape, plain));
        if (!shape.values.empty()) scale = &shape;
    }
    const double unit = s.height / 900.0;
    if (scale) renderer->AddActor(legendOf(*scale, s.dark ? chalk : ink, unit));
    if (!s.caption.empty()) {
        vtkNew<vtkTextActor> words;
        words->SetInput(s.caption.c_str());
        words->GetTextProperty()->SetFontSize(std::max(8, static_cast<int>(18 * unit)));
        words->GetTextProperty()->SetColor(s.dark ? chalk[0] : ink[0], s.dark ? chalk[1] : ink[1],
                                           s.dark ? chalk[2] : ink[2]);
        words->SetPosition(20 * unit, 14 * unit);
        renderer->AddActor(words);
    }
    auto* camera = renderer->GetActiveCamera();
    if (!s.perspective) camera->ParallelProjectionOn();
    aim(*camera, s.look);
    const Box walls = wallsOf(flow);
    const double bounds[6] = {walls.low.x(),  walls.high.x(), walls.low.y(),
                              walls.high.y(), walls.low.z(),  walls.high.z()};
    renderer->ResetCamera(bounds);
    camera->Zoom(1.3 * s.zoom);
    renderer->ResetCameraClippingRange();
    window->Render();
    vtkNew<vtkUnsignedCharArray> pixels;
    window->GetPixelData(0, 0, s.width - 1, s.height - 1, 0, pixels.Get(), 0);
    vtkNew<vtkImageData> image;
    image->SetDimensions(s.width, s.height, 1);
    image->GetPointData()->SetScalars(pixels);
    base::replaceFile(file, [&](const std::filesystem::path& path) {
        vtkNew<vtkPNGWriter> writer;
        writer->SetFileName(path.c_str());
        writer->SetInputData(image);
        writer->Write();
        if (writer->GetErrorCode() != 0)
            throw base::InputError("cannot be written.", file.string(), "Check the folder and the free space.");
    });
    window->RemoveRenderer(renderer);
    window->Finalize();
    return troubles;
}

}  // namespace cvane::view
