// What is drawn of a flow, without a window.
#include <gtest/gtest.h>
#include <vtkCamera.h>
#include <vtkImageData.h>
#include <vtkNew.h>
#include <vtkPNGReader.h>
#include <vtkSmartPointer.h>

#include <cmath>

#include "base/errors.h"
#include "base/files.h"
#include "base/units.h"
#include "bench/models.h"
#include "bench/wings.h"
#include "folder.h"
#include "grid/build.h"
#include "view/actors.h"
#include "view/item_shape.h"
#include "view/loading_shape.h"
#include "view/picture.h"
#include "view/surroundings.h"

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

TEST(Items, OfEveryKindHaveSomethingToShowOrSayWhyNot) {
    const auto flow = windPastABall();
    FlowItem item;
    item.normal = Vec3(0, 1, 0);
    item.through = Vec3(0, 0.03, 0);
    item.kind = FlowItem::Kind::Arrows;
    item.count = 10;
    const auto arrows = view::shapeOf(item, *flow);
    ASSERT_GT(arrows.pieces(), 40u);
    EXPECT_EQ(arrows.values.size(), arrows.places.size());
    // In their plane, along the wind, as long as it is fast.
    for (std::size_t k = 0; k < arrows.pieces(); k += 2) {
        const Vec3 way = arrows.places[static_cast<std::size_t>(arrows.start[k]) + 1] -
                         arrows.places[static_cast<std::size_t>(arrows.start[k])];
        EXPECT_NEAR(way.y(), 0.0, 1e-9);
        EXPECT_NEAR(way.x() / way.norm(), 1.0, 1e-6);
    }
    item.kind = FlowItem::Kind::Cells;
    EXPECT_GT(view::shapeOf(item, *flow).pieces(), 100u);
    item.through.y() = 40.0;
    EXPECT_NE(view::shapeOf(item, *flow).trouble.find("misses"), std::string::npos);
    item.kind = FlowItem::Kind::Probe;
    item.quantity = "ux";
    item.through = Vec3(0, 0, 1.5);
    const auto probe = view::shapeOf(item, *flow);
    ASSERT_EQ(probe.words.size(), 1u);
    EXPECT_NE(probe.words[0].second.find("1.15"), std::string::npos) << probe.words[0].second;
    item.through = Vec3::Zero();  // in the ball
    EXPECT_NE(view::shapeOf(item, *flow).trouble.find("in the model"), std::string::npos);
    item.kind = FlowItem::Kind::WallLines;
    EXPECT_NE(view::shapeOf(item, *flow).trouble.find("no shear"), std::string::npos);
    item.kind = FlowItem::Kind::WallArrows;
    EXPECT_NE(view::shapeOf(item, *flow).trouble.find("no shear"), std::string::npos);
    item.kind = FlowItem::Kind::Tunnel;
    EXPECT_EQ(view::shapeOf(item, *flow).pieces(), 12u);
    for (const auto rake : {FlowItem::Rake::Ring, FlowItem::Rake::Lattice}) {
        FlowItem lines;
        lines.kind = FlowItem::Kind::Lines;
        lines.rake = rake;
        lines.normal = Vec3(1, 0, 0);
        lines.from = Vec3(-1.2, 0, 0);
        lines.to = Vec3(-1.2, 0.6, 0.8);
        lines.count = 16;
        EXPECT_EQ(view::shapeOf(lines, *flow).pieces(), 16u);
        lines.normal = Vec3::Zero();
        EXPECT_NE(view::shapeOf(lines, *flow).trouble.find("normal"), std::string::npos);
    }
}

TEST(Items, ArrowsOnTheWallsPointAlongTheirShear) {
    const auto plain = windPastABall();
    auto wall = plain->wall();
    for (std::size_t i = 0; i < wall.face.size(); ++i) {
        const Vec3& x = plain->mesh().geometry().faceCentre[static_cast<std::size_t>(wall.face[i])];
        wall.Cf[i] = 0.01 * Vec3(0, -x.z(), x.y());  // round the x axis
    }
    std::map<std::string, std::vector<double>> arrays;
    for (const Vec3& u : plain->velocity()) {
        arrays["VelocityX"].push_back(u.x());
        arrays["VelocityY"].push_back(u.y());
        arrays["VelocityZ"].push_back(u.z());
        arrays["PressureKinematic"].push_back(0.0);
    }
    const auto grid = std::make_shared<const grid::Grid>(plain->mesh().grid());
    const field::FlowField flow(
        std::make_shared<const field::Mesh>(grid, std::make_shared<const grid::Geometry>(grid::geometryOf(*grid))),
        arrays, plain->wind(), wall);
    FlowItem item;
    item.kind = FlowItem::Kind::WallArrows;
    item.quantity = "wall_Cf";
    item.count = 10;
    const auto s = view::shapeOf(item, flow);
    ASSERT_GT(s.pieces(), 100u);  // a shaft and a head for each of some pi 10^2 cubes
    EXPECT_LT(s.pieces(), 1200u);
    EXPECT_EQ(s.values.size(), s.places.size());
    for (std::size_t p = 0; p < s.pieces(); p += 2) {
        const auto at = [&](std::int32_t k) {
            return s.places[static_cast<std::size_t>(s.corners[static_cast<std::size_t>(k)])];
        };
        const Vec3 from = at(s.start[p]), way = at(s.start[p] + 1) - from;
        EXPECT_GT(from.norm(), 0.49);  // not in the model
        if (way.norm() < 1e-3) continue;
        EXPECT_GT(way.normalized().dot(Vec3(0, -from.z(), from.y()).normalized()), 0.9);
    }
}

TEST(Items, DrawLinesOfEqualValueWhereThatValueIs) {
    const auto flow = windPastABall();
    FlowItem slice;
    slice.quantity = "ux";
    slice.normal = Vec3(0, 1, 0);
    slice.through = Vec3(0, 0.21, 0);
    slice.low = 0.9, slice.high = 1.1;
    slice.steps = 4;
    slice.contours = true;
    const auto s = view::shapeOf(slice, *flow);
    ASSERT_GT(s.contours.size(), 20u);
    for (const auto& [a, b] : s.contours)
        for (const Vec3& x : {a, b}) {
            // ux = 1 + 0.1 z is 0.95, 1 and 1.05 there.
            const double z = x.z() / 0.5;
            EXPECT_NEAR(z, std::round(z), 1e-6);
        }
    slice.contours = false;
    slice.byCell = true;
    const auto cells = view::shapeOf(slice, *flow);
    for (std::size_t p = 0; p < cells.pieces(); p += 7)
        for (auto k = cells.start[p]; k < cells.start[p + 1]; ++k)
            EXPECT_EQ(cells.values[static_cast<std::size_t>(k)],
                      cells.values[static_cast<std::size_t>(cells.start[p])]);
}

TEST(Items, ADifferenceOfWallsIsNothingToItselfAndGreyWhereThereIsNoOther) {
    const auto flow = windPastABall();
    FlowItem wall;
    wall.kind = FlowItem::Kind::Wall;
    wall.quantity = "wall_lift";
    for (const double v : view::wallDifference(wall, *flow, *flow).values) EXPECT_EQ(v, 0.0);
    // The same ball a fifth of its diameter aside, on a grid of its own.
    const auto& mesh = flow->mesh();
    auto moved = mesh.grid();
    for (Vec3& x : moved.points) x.y() += 0.2;
    auto grid = std::make_shared<const grid::Grid>(moved);
    const field::FlowField aside(
        std::make_shared<const field::Mesh>(grid, std::make_shared<const grid::Geometry>(grid::geometryOf(*grid))),
        {{"VelocityX", flow->inCells("ux")},
         {"VelocityY", flow->inCells("uy")},
         {"VelocityZ", flow->inCells("uz")},
         {"PressureKinematic", std::vector<double>(static_cast<std::size_t>(mesh.cells()), 0.0)}},
        flow->wind(), flow->wall());
    const auto s = view::wallDifference(wall, *flow, aside);
    EXPECT_NE(s.trouble.find("grey"), std::string::npos);
    EXPECT_TRUE(std::any_of(s.values.begin(), s.values.end(), [](double v) { return std::isnan(v); }));
    EXPECT_TRUE(std::isfinite(s.low) && std::isfinite(s.high) && s.low < s.high);
}

TEST(Items, WhileTheViewMovesAreTheSameBodyInFewPieces) {
    view::ItemShape ball;
    constexpr int kRound = 200;
    for (int i = 0; i <= kRound; ++i)
        for (int j = 0; j < kRound; ++j) {
            const double a = M_PI * i / kRound, b = 2.0 * M_PI * j / kRound;
            ball.places.emplace_back(std::sin(a) * std::cos(b), std::sin(a) * std::sin(b), std::cos(a));
            ball.values.push_back(ball.places.back().z());
            if (i == kRound) continue;
            const int next = (j + 1) % kRound;
            for (const int corner : {i * kRound + j, (i + 1) * kRound + j, (i + 1) * kRound + next, i * kRound + next})
                ball.corners.push_back(corner);
            ball.start.push_back(static_cast<std::int32_t>(ball.corners.size()));
        }
    const auto coarse = view::coarseOf(ball);
    ASSERT_TRUE(coarse);
    EXPECT_LT(coarse->pieces(), ball.pieces() / 3);
    EXPECT_GT(coarse->pieces(), 3000u);
    double area = 0.0;
    for (std::size_t p = 0; p < coarse->pieces(); ++p) {
        const auto at = [&](int k) {
            return coarse
                ->places[static_cast<std::size_t>(coarse->corners[static_cast<std::size_t>(coarse->start[p] + k)])];
        };
        area += 0.5 * (at(1) - at(0)).cross(at(2) - at(0)).norm();
    }
    EXPECT_NEAR(area, 4.0 * M_PI, 0.1 * 4.0 * M_PI);
    for (std::size_t i = 0; i < coarse->places.size(); ++i) EXPECT_EQ(coarse->values[i], coarse->places[i].z());
    ball.start.resize(1000);
    ball.corners.resize(static_cast<std::size_t>(ball.start.back()));
    EXPECT_FALSE(view::coarseOf(ball));
}

TEST(Legend, HasRoundNumbers) {
    const auto fifths = view::roundNumbers(0.0, 1.0, 5);
    ASSERT_EQ(fifths.size(), 6u);
    for (int k = 0; k < 6; ++k) EXPECT_NEAR(fifths[static_cast<std::size_t>(k)], 0.2 * k, 1e-12);
    const auto about = view::roundNumbers(-0.73, 1.31, 5);
    EXPECT_NEAR(about.front(), -0.5, 1e-12);
    EXPECT_NEAR(about.back(), 1.0, 1e-12);
    EXPECT_TRUE(view::roundNumbers(1.0, 1.0, 5).empty());
    EXPECT_TRUE(view::roundNumbers(0.0, std::nan(""), 5).empty());
    EXPECT_LT(view::roundNumbers(1e9, 1e9 + 1e-7, 5).size(), 101u);
}

TEST(Colours, InStepsAreTheSameAllTheWayOfEach) {
    const auto map = view::colourMap(0.0, 1.0, field::Sense::Level, 5);
    for (int step = 0; step < 5; ++step) {
        double a[3], b[3];
        map->GetColor(0.2 * step + 0.01, a);
        map->GetColor(0.2 * step + 0.19, b);
        for (int k = 0; k < 3; ++k) EXPECT_NEAR(a[k], b[k], 1e-3);
    }
}

TEST(Camera, GoesThroughTheWindowsOwnAndBackInBothKinds) {
    for (const bool perspective : {false, true}) {
        Box box;
        box.add(Vec3(-1, -2, 0));
        box.add(Vec3(3, 2, 1));
        auto camera = view::lookingFrom(view::Look::Oblique, box, 1.5);
        camera.perspective = perspective;
        vtkNew<vtkCamera> of;
        view::place(*of.Get(), camera);
        const auto back = view::cameraOf(*of.Get());
        EXPECT_EQ(back.perspective, perspective);
        EXPECT_NEAR(back.height, camera.height, 1e-9);
        EXPECT_NEAR((back.focus - camera.focus).norm(), 0.0, 1e-9);
        EXPECT_NEAR((back.eye - back.focus).normalized().dot((camera.eye - camera.focus).normalized()), 1.0, 1e-9);
    }
}

TEST(Picture, HasItsColourBarBesideTheModelHoweverNearOneLooks) {
    const auto flow = windPastABall();
    const test::Folder folder;
    const auto items = view::firstItems(*flow);
    view::PictureSettings s;
    s.width = 480, s.height = 300;
    s.surroundings = false;
    const auto pictureAt = [&](double zoom) {
        s.zoom = zoom;
        view::writePicture(*flow, items, s, folder / "a.png");
        vtkNew<vtkPNGReader> reader;
        reader->SetFileName((folder / "a.png").c_str());
        reader->Update();
        return vtkSmartPointer<vtkImageData>(reader->GetOutput());
    };
    const auto far = pictureAt(1.0), near = pictureAt(30.0);
    const int margin = static_cast<int>(view::marginShare(s.width, s.height / 900.0) * s.width);
    ASSERT_GT(margin, 20);
    int inMargin = 0, beside = 0;
    for (int y = 0; y < s.height; ++y)
        for (int x = 0; x < s.width; ++x) {
            const auto *a = static_cast<unsigned char*>(far->GetScalarPointer(x, y, 0)),
                       *b = static_cast<unsigned char*>(near->GetScalarPointer(x, y, 0));
            if (!std::equal(a, a + 3, b)) ++(x < margin ? inMargin : beside);
        }
    EXPECT_EQ(inMargin, 0) << "the model reaches under the colour bar";
    EXPECT_GT(beside, 1000) << "the two pictures are of different nearness";
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

// What is drawn of a lifting surface: both halves though one was solved for, nose up by the angle, and as much lift in
// the drawn sheet as in the coefficient.
TEST(LoadingPicture, StandsInItsWindWithBothHalvesAndTheLiftOfItsPolar) {
    auto a = bench::flatWing(2.0, 10.0, 0.6, 4, 20);
    wing::LiftingSurface fin;
    fin.name = "fin";
    fin.place = Vec3(3.0, 0.0, 0.0);
    fin.mirrored = false;
    fin.roll_deg = 90.0;
    fin.stations.resize(2);
    fin.stations[1].along = 1.0;
    a.surfaces.push_back(fin);
    lifting::Asked asked;
    asked.alphas = {0.0, 5.0 * base::degree, 10.0 * base::degree};
    asked.sectionDrag = asked.derivatives = false;
    const auto outcome = lifting::run(a, asked);
    const auto scale = view::loadingScaleOf(outcome);
    const auto p = view::loadingPicture(a, asked, outcome, 2, scale);
    EXPECT_EQ(p.panels.pieces(), 2u * 80u + 8u * 8u);  // the fin too, which carries nothing in a flow that is its image
    EXPECT_EQ(p.panels.values.size(), p.panels.places.size());
    double left = 0.0, right = 0.0;
    for (std::size_t k = 0; k < p.panels.places.size(); ++k)
        (p.panels.places[k].y() < 0.0 ? left : right) += p.panels.values[k];
    EXPECT_GT(left, 1.0);
    EXPECT_NEAR(left, right, 0.1 * left);  // corners in the plane of symmetry count to one side
    const auto node = wing::latticeOf(a, false).patches[1].node(0, 20);
    EXPECT_NEAR((p.at(node) - p.centre).norm(), (node - p.centre).norm(), 1e-12);
    const Vec3 nose = p.at(p.centre - Vec3::UnitX());
    EXPECT_NEAR(nose.z() - p.centre.z(), std::sin(10.0 * base::degree), 1e-12);
    // Area of the sheet, seen along the wind, over its scale is the lift.
    double area = 0.0;
    for (std::size_t k = 0; k < p.loading.pieces(); ++k) {
        const auto at = [&](int c) {
            return p.loading
                .places[static_cast<std::size_t>(p.loading.corners[static_cast<std::size_t>(p.loading.start[k] + c)])];
        };
        const Vec3 one = at(2) - at(0), other = at(3) - at(1);
        area += 0.5 * std::abs(one.y() * other.z() - one.z() * other.y());
    }
    const double lift = area / scale.length * outcome.reference.length / outcome.reference.area;
    EXPECT_NEAR(lift, outcome.rows[2].coefficients.CL, 0.02 * lift);
    EXPECT_EQ(p.wakes.pieces(), 2u * 21u + 9u);
    EXPECT_EQ(p.stalled.pieces(), 0u);
    // Nothing pushes a flat wing without an angle.
    const auto none = view::loadingPicture(a, asked, outcome, 0, scale);
    for (const double v : none.panels.values) EXPECT_NEAR(v, 0.0, 1e-12);
}
