// view_bench RUN_FOLDER: seconds that the flow of a run takes to open, cut, surround and follow.
// view_bench ball CELLS: how well lines keep the stream function of potential flow around a ball, and the area of a
// surface of its distance.
#include <fmt/format.h>

#include <chrono>
#include <cmath>

#include "bench/models.h"
#include "campaign/store/stored_flow.h"
#include "field/sheet.h"
#include "field/streamline.h"
#include "grid/build.h"
#include "view/actors.h"
#include "view/item_shape.h"
#include "view/studio.h"
#include "view/surroundings.h"

using namespace cvane;
using Clock = std::chrono::steady_clock;

namespace {
template <class Work>
void time(const char* what, const Work& work) {
    const auto t0 = Clock::now();
    const auto found = work();
    fmt::print("{:<58} {:8.1f} ms  {}\n", what, 1e3 * std::chrono::duration<double>(Clock::now() - t0).count(), found);
}

void ball(int cells) {
    const double radius = 0.5;
    grid::GridSettings s;
    s.cellBudget = cells;
    s.wakeLength = 0.0;
    const auto g = std::make_shared<const grid::Grid>(
        grid::build(bench::sphere(radius, 120), {2, 2, 2, 2, 2, grid::Floor::None, 0, false}, s, {}));
    const auto mesh =
        std::make_shared<const field::Mesh>(g, std::make_shared<const grid::Geometry>(grid::geometryOf(*g)));
    std::map<std::string, std::vector<double>> arrays;
    for (const Vec3& x : mesh->geometry().cellCentre) {
        const double r = x.norm(), k = 0.5 * std::pow(radius / r, 3);
        const Vec3 u = Vec3(1.0 + k, 0.0, 0.0) - 3.0 * k * x.x() / (r * r) * x;
        arrays["VelocityX"].push_back(u.x());
        arrays["VelocityY"].push_back(u.y());
        arrays["VelocityZ"].push_back(u.z());
        arrays["PressureKinematic"].push_back(0.0);
    }
    air::FreeStream wind;
    wind.speed = 1.0;
    const field::FlowField flow(mesh, arrays, wind);
    const auto stream = [&](const Vec3& x) {
        return 0.5 * x.tail<2>().squaredNorm() * (1.0 - std::pow(radius / x.norm(), 3));
    };
    for (const double y : {0.1, 0.2, 0.3, 0.5, 0.9}) {
        const auto line = field::streamlines(flow, {{-1.8, y, 0.05}})[0];
        double worst = 0.0;
        for (const Vec3& x : line.places)
            worst = std::max(worst, std::abs(stream(x) / stream(line.places.front()) - 1.0));
        fmt::print("{} cells, line at y = {}: {} places, stream function within {:.2f} %\n", mesh->cells(), y,
                   line.places.size(), 100.0 * worst);
    }
    std::vector<double> distance;
    for (const Vec3& x : g->points) distance.push_back(x.norm());
    const double r = 0.9, exact = 4.0 * std::acos(-1.0) * r * r;
    fmt::print("area of the surface at {} m: {:+.3f} %\n", r,
               100.0 * (field::areaOf(field::isoSurface(*mesh, distance, r)) / exact - 1.0));
}
}  // namespace

int main(int argc, char** argv) {
    if (argc < 2) {
        fmt::print(stderr, "view_bench RUN_FOLDER, or view_bench ball CELLS\n");
        return 2;
    }
    if (std::string(argv[1]) == "ball") {
        ball(argc > 2 ? std::stoi(argv[2]) : 60000);
        return 0;
    }
    std::shared_ptr<const field::FlowField> flow;
    time("opened: cells", [&] {
        flow = campaign::openFlow(argv[1]);
        return flow->mesh().cells();
    });
    const Box walls = view::wallsOf(*flow);
    const Vec3 size = walls.size();
    time("loss at the grid's points", [&] { return flow->atPoints("loss").size(); });
    time("velocity at the grid's points", [&] { return flow->velocityAtPoints().size(); });
    time("Q in cells and at points", [&] { return flow->atPoints("Q").size(); });
    for (const auto& [name, normal] : {std::pair{"slice across x", Vec3(1, 0, 0)},
                                       {"slice across y", Vec3(0, 1, 0)},
                                       {"oblique slice", Vec3(1, 2, 3)}})
        time(name, [&, n = normal] {
            const auto s = field::slice(flow->mesh(), walls.centre() + 0.013 * size, n);
            return field::atCorners(flow->mesh(), s, flow->atPoints("loss")).size();
        });
    for (const double value : {0.05, 0.3})
        time("iso-surface of the loss", [&] {
            const auto s = field::isoSurface(flow->mesh(), flow->atPoints("loss"), value);
            field::atCorners(flow->mesh(), s, flow->atPoints("speed"));
            return s.polygons();
        });
    time("100 streamlines through the whole tunnel", [&] {
        const Vec3 nose(walls.low.x() - 0.5 * size.x(), walls.low.y(), walls.low.z());
        const auto lines = field::streamlines(*flow, field::rakeGrid(nose, {0, size.y(), 0}, {0, 0, size.z()}, 10));
        std::size_t places = 0;
        for (const auto& l : lines) places += l.places.size();
        return places;
    });
    campaign::FlowItem limiting;
    limiting.kind = campaign::FlowItem::Kind::WallLines;
    limiting.quantity.clear();
    limiting.count = 1000;
    time("lines over all walls along their shear", [&] { return view::shapeOf(limiting, *flow).pieces(); });
    // Turning the view: walls, a slice and lines, in a window of usual size.
    auto items = view::firstItems(*flow);
    items.push_back(limiting);
    view::Studio studio(1000, 600, 0);
    const auto& paper = view::paperOf(false);
    std::size_t pieces = 0;
    for (const auto& item : items) {
        const auto shape = view::shapeOf(item, *flow);
        pieces += shape.pieces();
        studio.renderer().AddViewProp(view::propOf(shape, paper.plain, paper.ink, 1.0));
    }
    auto camera = view::lookingFrom(view::Look::Oblique, walls, 1000.0 / 600.0);
    const auto frame = [&](int k) {
        const Mat3 turn = Eigen::AngleAxisd(0.05 * k, Vec3::UnitZ()).toRotationMatrix();
        auto c = camera;
        c.eye = c.focus + turn * (c.eye - c.focus);
        view::place(*studio.renderer().GetActiveCamera(), c);
        studio.renderer().ResetCameraClippingRange();
        studio.draw();
    };
    for (const bool moving : {true, false}) {
        view::drawMoving(studio.renderer(), moving);
        frame(0);
        const auto t0 = Clock::now();
        constexpr int kFrames = 40;
        for (int k = 1; k <= kFrames; ++k) frame(k);
        fmt::print("turned, {} polygons and lines, {}: {:.1f} frames a second\n", pieces,
                   moving ? "as while it moves" : "all of them",
                   kFrames / std::chrono::duration<double>(Clock::now() - t0).count());
    }
    return 0;
}
