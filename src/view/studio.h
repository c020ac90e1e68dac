#pragma once
#include <vtkGenericOpenGLRenderWindow.h>
#include <vtkNew.h>
#include <vtkRenderer.h>

#include <filesystem>
#include <memory>

namespace cvane::view {

/// Lets a window of the library draw in the OpenGL context that is current.
void drawInCurrentContext(vtkGenericOpenGLRenderWindow& window);

/// A place to draw without a window or a display.
class Studio {
  public:
    /// @param width, height  pixels;  @param samples  a pixel, for smooth edges.  Throws InputError: no OpenGL.
    Studio(int width, int height, int samples = 8);
    ~Studio();
    Studio(const Studio&) = delete;
    Studio& operator=(const Studio&) = delete;

    vtkRenderWindow& window() { return *window_.Get(); }
    vtkRenderer& renderer() { return *renderer_.Get(); }
    void draw();
    /// Writes what was drawn as a PNG. Throws InputError: it cannot be written.
    void save(const std::filesystem::path& file);

  private:
    class Context;
    std::unique_ptr<Context> context_;
    vtkNew<vtkGenericOpenGLRenderWindow> window_;
    vtkNew<vtkRenderer> renderer_;
};

}  // namespace cvane::view
