#pragma once
#include <vtkCamera.h>
#include <vtkNew.h>
#include <vtkProp.h>
#include <vtkRenderWindow.h>
#include <vtkRenderer.h>
#include <vtkSmartPointer.h>

#include <memory>
#include <optional>

#include "base/vec3.h"
#include "view/actors.h"

namespace cvane::view {

/// From where a picture looks: along the wind, from port with the air from left to right, from above, from below, from
/// behind, or obliquely from ahead.
enum class Look { Front, Side, Above, Below, Back, Oblique, Starboard };

/// A place to look from, as saved views keep it.
struct Camera {
    Vec3 eye = Vec3(-1, -2, 1), focus = Vec3::Zero(), up = Vec3::UnitZ();
    double height = 1.0;  ///< of what is seen, at the focus [m]
    bool perspective = false;
};
void place(vtkCamera& camera, const Camera& at);
Camera cameraOf(vtkCamera& camera);
/// Looks at a box so that it fills most of a picture of this width over height.
Camera lookingFrom(Look look, const Box& at, double widthOverHeight);

/// Share of a picture's width that its margin takes, where axes and colour bar stand clear of the model.
/// @param width  of the picture [pixels]   @param size  1: for a window
double marginShare(double width, double size);

/// What tells where one is: in the margin the axes and the way the wind blows, a bar of round length at the lower
/// edge, and on the ground a net of round squares.
class Surroundings {
  public:
    /// @param main  stands right of the margin, see marginShare
    /// @param margin  the strip along the left edge; colour bars belong into it
    /// @param size  1: for a window
    Surroundings(vtkRenderWindow& window, vtkRenderer& main, vtkRenderer& margin, double size, bool dark = false);
    ~Surroundings();
    Surroundings(const Surroundings&) = delete;
    Surroundings& operator=(const Surroundings&) = delete;

    void setWind(const std::optional<Vec3>& along);  ///< way that it blows; nothing: not known
    /// @param height  of the ground [m]; nothing: there is none
    void setGround(const std::optional<double>& height, const Box& model);
    /// Before each drawing: turns the axes as the main view is turned and sets the bar's length.
    void follow();

  private:
    struct Parts;
    std::unique_ptr<Parts> parts_;
};

}  // namespace cvane::view
