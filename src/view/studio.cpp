#include "view/studio.h"

#include <EGL/egl.h>
#include <EGL/eglext.h>
#include <fmt/format.h>
#include <vtkImageData.h>
#include <vtkPNGWriter.h>
#include <vtkPointData.h>
#include <vtkUnsignedCharArray.h>

#include "base/errors.h"
#include "base/files.h"

namespace cvane::view {
namespace {
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
}  // namespace

/// OpenGL without a window; current as long as it lives.
class Studio::Context {
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

void drawInCurrentContext(vtkGenericOpenGLRenderWindow& window) {
    window.SetIsCurrent(true);
    window.InitializeFromCurrentContext();
    window.SetSupportsOpenGL(1);
    window.SetIsDirect(1);
    window.SetMapped(true);
    window.SetReadyForRendering(true);
}

Studio::Studio(int width, int height, int samples) : context_(std::make_unique<Context>()) {
    const Quiet quiet;
    window_->SetMultiSamples(samples);
    window_->SetSize(width, height);
    drawInCurrentContext(*window_.Get());
    window_->SetFrameBlitModeToNoBlit();
    window_->AddRenderer(renderer_);
}

Studio::~Studio() {
    const Quiet quiet;
    window_->RemoveRenderer(renderer_);
    window_->Finalize();
}

void Studio::draw() {
    const Quiet quiet;
    window_->Render();
}

void Studio::save(const std::filesystem::path& file) {
    const int width = window_->GetSize()[0], height = window_->GetSize()[1];
    vtkNew<vtkUnsignedCharArray> pixels;
    window_->GetPixelData(0, 0, width - 1, height - 1, 0, pixels.Get(), 0);
    vtkNew<vtkImageData> image;
    image->SetDimensions(width, height, 1);
    image->GetPointData()->SetScalars(pixels);
    // Into memory: of a disk that is full the library would tell the terminal before we can.
    vtkNew<vtkPNGWriter> writer;
    writer->WriteToMemoryOn();
    writer->SetInputData(image);
    writer->Write();
    auto* bytes = writer->GetResult();
    base::replaceFile(file, std::string_view(reinterpret_cast<const char*>(bytes->GetPointer(0)),
                                             static_cast<std::size_t>(bytes->GetNumberOfValues())));
}

}  // namespace cvane::view
