// What is drawn of a flow, without a window.
#include <gtest/gtest.h>

#include <cmath>

#include "base/errors.h"
#include "base/files.h"
#include "bench/models.h"
#include "folder.h"
#include "grid/build.h"
#include "view/actors.h"
#include "view/item_shape.h"
#include "view/picture.h"

using namespace cvane;
using campaign::FlowItem;

namespace {
std::shared_ptr<const field::FlowField> windPastABall() {
    static const auto made = [] {
        grid::GridSettings s;
        s.cellBudget = 8000;
        s.wakeLength = 0.0;
        auto g = std::make_shared<const grid::Grid>(
            grid::build(bench::sphere(0.5, 60), {2, 2, 2, 2, 2, grid::Floor::None, 0, false}, s, {}));
        auto geometry = std::make_shared<const grid::Geometry>(grid::geometryOf(*g));
        std::map<std::string, std::vector<double>> arrays;
        for (const Vec3& x : geometry->cellCentre) {
            arrays["VelocityX"].push_back(1.0 + 0.1 * x.z());
            arrays["VelocityY"].push_back(0.0);
            arrays["VelocityZ"].push_back(0.0);
            arrays["PressureKinematic"].push_back(0.1 * x.x());
        }
        field::WallValues wall;
        for (const auto& p : g->patches)
            if (p.kind == grid::PatchKind::Wall)
                for (auto f = p.first; f < p.first + p.count; ++f) {
                    wall.face.push_back(f);
                    wall.Cp.push_back(1.0);
                    wall.Cf.push_back(Vec3::Zero());
                    wall.yPlus.push_back(30.0);
                }
        air::FreeStream wind;
        wind.speed = 1.0;
        return std::make_shared<const field::FlowField>(std::make_shared<const field::Mesh>(g, geometry), arrays, wind,
                                                        wall);
    }();
    return made;
}

// L* of CIELAB of a colour in sRGB.
double lightness(const double rgb[3]) {
    const auto linear = [](double c) { return c <= 0.04045 ? c / 12.92 : std::pow((c + 0.055) / 1.055, 2.4); };
    const double Y = 0.2126 * linear(rgb[0]) + 0.7152 * linear(rgb[1]) + 0.0722 * linear(rgb[2]);
    return Y > 0.008856 ? 116.0 * std::cbrt(Y) - 16.0 : 903.3 * Y;
}
}  // namespace

TEST(Colours, GoOneWayInLightnessOnEitherSideOfTheirMiddle) {
    using enum field::Sense;
    for (const auto sense : {Level, FromZero, AboutZero}) {
        const auto map = view::colourMap(sense == AboutZero ? -2.0 : 0.0, 2.0, sense);
        double rgb[3], before = 0.0;
        map->GetColor(0.0, rgb);
        before = lightness(rgb);
        const double way = sense == Level ? 1.0 : -1.0;
        for (const double side : {1.0, -1.0}) {
            if (side < 0.0 && sense != AboutZero) continue;
            double last = before;
            for (int i = 1; i <= 40; ++i) {
                map->GetColor(side * 2.0 * i / 40.0, rgb);
                EXPECT_GT(way * (lightness(rgb) - last), 0.0) << static_cast<int>(sense) << " at " << i;
                last = lightness(rgb);
            }
            EXPECT_GT(std::abs(last - before), 55.0);
        }
    }
}

TEST(Items, AreMadeOfWhatTheyAskForAndSayWhatIsAmiss) {
    const auto flow = windPastABall();
    FlowItem slice;
    slice.quantity = "ux";
    slice.normal = Vec3(0, 1, 0);
    slice.through = Vec3(0, 0.21, 0);
    auto s = view::shapeOf(slice, *flow);
    EXPECT_TRUE(s.trouble.empty());
    ASSERT_EQ(s.values.size(), s.places.size());
    for (std::size_t i = 0; i < s.places.size(); i += 17) EXPECT_NEAR(s.values[i], 1.0 + 0.1 * s.places[i].z(), 1e-9);
    EXPECT_EQ(s.low, -s.high);  // about zero
    slice.low = 0.9, slice.high = 1.1;
    EXPECT_EQ(view::shapeOf(slice, *flow).high, 1.1);
    slice.through.y() = 50.0;
    EXPECT_NE(view::shapeOf(slice, *flow).trouble.find("misses"), std::string::npos);

    FlowItem surface;
    surface.kind = FlowItem::Kind::Surface;
    surface.quantity = "x";
    surface.value = 1.0;
    EXPECT_GT(view::shapeOf(surface, *flow).pieces(), 10u);
    surface.quantity = "ux";
    surface.value = 7.0;
    EXPECT_NE(view::shapeOf(surface, *flow).trouble.find("lies between"), std::string::npos);
    surface.quantity = "nothing of the kind";
    EXPECT_FALSE(view::shapeOf(surface, *flow).trouble.empty());

    FlowItem lines;
    lines.kind = FlowItem::Kind::Lines;
    lines.from = Vec3(-1, -1, 0.9);
    lines.to = Vec3(-1, 1, 0.9);
    lines.count = 5;
    s = view::shapeOf(lines, *flow);
    EXPECT_EQ(s.pieces(), 5u);
    lines.from = lines.to = Vec3::Zero();  // in the ball
    s = view::shapeOf(lines, *flow);
    EXPECT_EQ(s.pieces(), 0u);
    EXPECT_NE(s.trouble.find("5 of 5"), std::string::npos);
}

TEST(Items, OfAnEvenPressurePushAlikeOnBothSidesAndAddUpToNothing) {
    const auto flow = windPastABall();
    FlowItem wall;
    wall.kind = FlowItem::Kind::Wall;
    wall.quantity = "wall_lift";
    const auto s = view::shapeOf(wall, *flow);
    // Cp is 1 all round: pushed up from below, down from above.
    for (std::size_t i = 0; i < s.places.size(); i += 11)
        EXPECT_NEAR(s.values[i], -s.places[i].z() / s.places[i].norm(), 0.25) << s.places[i].transpose();
    for (const auto& item : view::firstItems(*flow))
        EXPECT_TRUE(view::shapeOf(item, *flow).trouble.empty()) << item.name;
}

TEST(Picture, NeedsNoDisplayAndIsTheSameEachTime) {
    const auto flow = windPastABall();
    const test::Folder folder;
    auto items = view::firstItems(*flow);
    view::PictureSettings s;
    s.width = 320, s.height = 200;
    s.caption = "ball";
    EXPECT_TRUE(view::writePicture(*flow, items, s, folder / "a.png").empty());
    view::writePicture(*flow, items, s, folder / "b.png");
    const auto first = base::readFile(folder / "a.png");
    EXPECT_TRUE(first.starts_with("\x89PNG"));
    EXPECT_GT(first.size(), 5000u);  // not an empty sheet
    EXPECT_EQ(first, base::readFile(folder / "b.png"));
    s.look = view::Look::Side;
    view::writePicture(*flow, items, s, folder / "b.png");
    EXPECT_NE(first, base::readFile(folder / "b.png"));
    s.width = 100000;
    EXPECT_THROW(view::writePicture(*flow, items, s, folder / "c.png"), base::InputError);
    s.width = 320;
    EXPECT_THROW(view::writePicture(*flow, items, s, folder / "no/such/c.png"), base::InputError);
    for (auto& i : items) i.shown = false;
    EXPECT_THROW(view::writePicture(*flow, items, s, folder / "c.png"), base::InputError);
}
