// view_bench RUN_FOLDER: seconds that the flow of a run takes to open, cut, surround and follow.
#include <fmt/format.h>

#include <chrono>

#include "campaign/store/stored_flow.h"
#include "field/sheet.h"
#include "field/streamline.h"

using namespace cvane;
using Clock = std::chrono::steady_clock;

namespace {
template <class Work>
void time(const char* what, const Work& work) {
    const auto t0 = Clock::now();
    const auto found = work();
    fmt::print("{:<58} {:8.1f} ms  {}\n", what, 1e3 * std::chrono::duration<double>(Clock::now() - t0).count(), found);
}
}  // namespace

int main(int argc, char** argv) {
    if (argc < 2) {
        fmt::print(stderr, "view_bench RUN_FOLDER\n");
        return 2;
    }
    std::shared_ptr<const field::FlowField> flow;
    time("opened: cells", [&] {
        flow = campaign::openFlow(argv[1]);
        return flow->mesh().cells();
    });
    Box walls;
    const auto& g = flow->mesh().grid();
    for (const auto& p : g.patches)
        if (p.kind == grid::PatchKind::Wall)
            for (auto f = p.first; f < p.first + p.count; ++f)
                for (const auto i : g.polygon(f)) walls.add(g.points[static_cast<std::size_t>(i)]);
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
    return 0;
}
