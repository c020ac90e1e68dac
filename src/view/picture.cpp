#include "view/picture.h"

#include <fmt/format.h>
#include <vtkCamera.h>
#include <vtkNew.h>
#include <vtkRenderer.h>
#include <vtkTextActor.h>
#include <vtkTextProperty.h>

#include "base/errors.h"
#include "view/actors.h"
#include "view/item_shape.h"
#include "view/studio.h"

namespace cvane::view {
namespace {

/// @param seen  share of the width that is not the margin
Camera cameraFor(const PictureSettings& s, const Box& walls, double seen) {
    Camera c = s.camera.value_or(lookingFrom(s.look, walls, seen * s.width / s.height));
    if (!s.camera) {
        c.height /= s.zoom;
        c.perspective = s.perspective;
    }
    const Mat3 turn = Eigen::AngleAxisd(s.turn_deg * M_PI / 180.0, Vec3::UnitZ()).toRotationMatrix();
    c.eye = c.focus + turn * (c.eye - c.focus);
    c.up = turn * c.up;
    return c;
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
    Studio studio(s.width, s.height);
    auto& renderer = studio.renderer();
    const Paper& paper = paperOf(s.dark);
    renderer.SetBackground(paper.ground.data());
    const ItemShape* scale = nullptr;
    const double unit = s.height / 900.0;
    for (const auto& shape : shapes) {
        renderer.AddViewProp(propOf(shape, paper.plain, paper.ink, unit));
        if (!shape.values.empty()) scale = &shape;
    }
    vtkNew<vtkRenderer> margin;
    margin->SetBackground(paper.ground.data());
    const bool hasMargin = scale || s.surroundings;
    const double share = hasMargin ? marginShare(s.width, unit) : 0.0;
    renderer.SetViewport(share, 0.0, 1.0, 1.0);
    if (scale) margin->AddActor2D(legendOf(*scale, paper.ink, unit));
    if (!s.caption.empty()) {
        vtkNew<vtkTextActor> words;
        words->SetInput(s.caption.c_str());
        words->GetTextProperty()->SetFontSize(std::max(8, static_cast<int>(18 * unit)));
        words->GetTextProperty()->SetColor(paper.ink[0], paper.ink[1], paper.ink[2]);
        words->SetPosition(20 * unit, 14 * unit);
        renderer.AddActor2D(words);
    }
    const Box walls = wallsOf(flow);
    place(*renderer.GetActiveCamera(), cameraFor(s, walls, 1.0 - share));
    std::optional<Surroundings> around;
    if (s.surroundings) {
        around.emplace(studio.window(), renderer, *margin.Get(), unit, s.dark);
        around->setWind(flow.wind().dragAxis());
        around->setGround(s.ground, walls);
        around->follow();
    } else if (hasMargin) {
        margin->SetViewport(0.0, 0.0, share, 1.0);
        studio.window().AddRenderer(margin);
    }
    renderer.ResetCameraClippingRange();
    studio.draw();
    studio.save(file);
    return troubles;
}

}  // namespace cvane::view
