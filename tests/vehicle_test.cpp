// Vehicles from their outline, and bodies of files of solids.
#include <gtest/gtest.h>

#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <STEPCAFControl_Writer.hxx>
#include <TDataStd_Name.hxx>
#include <TDocStd_Document.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <XCAFApp_Application.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>
#include <cmath>
#include <numbers>

#include "bench/random_outline.h"
#include "campaign/store/model_source.h"
#include "grid/air_box.h"
#include "shape/health.h"
#include "solid/solid_file.h"
#include "tests/made_up_run.h"
#include "vehicle/body_skin.h"
#include "vehicle/outline_json.h"
#include "vehicle/sides.h"

using namespace cvane;

namespace {
double halfWidthOf(const vehicle::Outline& o) {
    double w = 0.0;
    for (const auto& p : o.plan) w = std::max(w, p.z);
    return w;
}
std::string refused(const std::function<void(vehicle::Outline&)>& change) {
    auto o = vehicle::startingOutline();
    change(o);
    return test::refusalOf([&] { vehicle::skinOf(o); });
}
}  // namespace

TEST(Outline, IsAClosedBodyOfNamedParts) {
    auto o = vehicle::startingOutline();
    o.plates = {{"splitter", Vec3(0.1, 0.0, 0.12), 0.4, 1.4, 0.02, 0.0, 0.006, false},
                {"end plate", Vec3(3.8, 0.7, 1.6), 0.4, 0.02, 0.3, 0.0, 0.005, true}};
    const auto s = vehicle::skinOf(o);
    std::vector<std::string> names;
    for (const auto& p : s.parts) names.push_back(p.name);
    EXPECT_EQ(names,
              (std::vector<std::string>{"body", "front wheel, starboard", "front wheel, port", "rear wheel, starboard",
                                        "rear wheel, port", "splitter", "end plate, starboard", "end plate, port"}));
    const auto health = shape::checkHealth(s);
    EXPECT_EQ(health.openEdges.count + health.nonManifoldEdges.count + health.flippedFacets.count, 0u)
        << health.sentence();
    EXPECT_NEAR(s.bounds().low.z(), 0.0, 1e-3);
    EXPECT_NEAR(s.bounds().size().y(), 2.0 * halfWidthOf(o), 1e-2);
    EXPECT_GT(s.volume(), 0.0);
}

TEST(Outline, HasTheVolumeOfABoxWithRoundEdges) {
    vehicle::Outline o;
    o.profile = {{0, 0, 0.1}, {0, 1, 0.1}, {2, 1, 0.1}, {2, 0, 0.1}};
    o.plan = {{0.0, 0.5, 0.0}};
    o.edge = 0.1;
    // All twelve edges and eight corners of one radius: a core, slabs, quarter cylinders and a ball.
    const double r = 0.1, a = 2 - 2 * r, b = 1 - 2 * r, c = 1 - 2 * r, pi = std::numbers::pi;
    const double volume =
        a * b * c + 2 * r * (a * b + b * c + c * a) + pi * r * r * (a + b + c) + 4.0 / 3.0 * pi * r * r * r;
    EXPECT_NEAR(vehicle::skinOf(o).volume(), volume, 1e-3 * volume);
}

TEST(Outline, DrawnAtRandomIsClosed) {
    for (unsigned seed = 1; seed <= 30; ++seed) {
        shape::Surface s;
        ASSERT_NO_THROW(s = vehicle::skinOf(bench::randomOutline(seed))) << seed;
        const auto health = shape::checkHealth(s);
        EXPECT_EQ(health.openEdges.count + health.nonManifoldEdges.count + health.flippedFacets.count, 0u)
            << seed << ": " << health.sentence();
    }
}

TEST(Outline, HasSidesThatAreTypedByLengthAndSlope) {
    std::vector<vehicle::Corner> line{{0, 0, 0}, {0, 1, 0}, {3, 1, 0}, {4, 0, 0}};
    EXPECT_DOUBLE_EQ(vehicle::sideOf(line, 0).slope_deg, 90.0);
    EXPECT_DOUBLE_EQ(vehicle::sideOf(line, 2).slope_deg, -45.0);
    EXPECT_DOUBLE_EQ(vehicle::sideOf(line, 3).length, 4.0);
    EXPECT_DOUBLE_EQ(vehicle::sideOf(line, 3).slope_deg, 0.0) << "back along the ground, but no slope";
    // A windscreen is laid back: its length stays, its top moves back and down.
    vehicle::setSlope(line, 0, 60.0);
    EXPECT_NEAR(line[1].x, 0.5, 1e-12);
    EXPECT_NEAR(line[1].z, std::sqrt(0.75), 1e-12);
    vehicle::setSlope(line, 2, -30.0);
    EXPECT_NEAR(line[3].z, 1.0 - std::sqrt(0.5), 1e-12);
    EXPECT_GT(line[3].x, 3.0) << "the tail's side still runs to the rear";
    vehicle::setLength(line, 2, 2.0);
    EXPECT_NEAR(vehicle::sideOf(line, 2).length, 2.0, 1e-12);
    EXPECT_NEAR(vehicle::sideOf(line, 2).slope_deg, -30.0, 1e-9);
    EXPECT_NE(test::refusalOf([&] { vehicle::setSlope(line, 0, 120.0); }).find("side 1"), std::string::npos);
    EXPECT_NE(test::refusalOf([&] { vehicle::setLength(line, 1, 0.0); }).find("side 2"), std::string::npos);
}

TEST(Outline, NamesWhatCannotBeDrawn) {
    EXPECT_NE(refused([](auto& o) { std::swap(o.profile[2], o.profile[4]); }).find("crosses itself"),
              std::string::npos);
    EXPECT_NE(refused([](auto& o) { o.profile[1].radius = 3.0; }).find("corner 2 has no room"), std::string::npos);
    EXPECT_NE(refused([](auto& o) { o.edge = 0.9; }).find("edge's radius"), std::string::npos);
    EXPECT_NE(refused([](auto& o) { o.clearance = 0.0; }).find("middle of the body"), std::string::npos);
    EXPECT_NE(refused([](auto& o) { o.wheels[0].x = 9.0; }).find("beside the body"), std::string::npos);
    EXPECT_NE(refused([](auto& o) {
                  o.plates = {{}};
                  o.plates[0].edge = 1.0;
              }).find("plate: "),
              std::string::npos);
    EXPECT_NE(refused([](auto& o) { o.plan[1].z = 0.0; }).find("half width 2"), std::string::npos);
    EXPECT_NE(test::refusalOf([] {
                  vehicle::outlineFrom({{"heigth", 1.0}}, "a.json");
              }).find("\"heigth\" is unknown"),
              std::string::npos);
}

TEST(Outline, IsKeptInTheCampaignAndComparedInNumbers) {
    const test::Folder folder;
    const auto o = vehicle::startingOutline();
    EXPECT_EQ(vehicle::outlineFrom(vehicle::toJson(o), "x"), o);
    auto c = campaign::Campaign::create(folder / "v.cvane", o);
    auto longer = o;
    longer.profile[5].x += 0.2;
    c.settings.configurations.push_back({"longer tail", {{"model", {{"outline", vehicle::toJson(longer)}}}}});
    c.save();
    const auto again = campaign::Campaign::open(c.folder());
    EXPECT_EQ(*again.settings.model.outline, o);
    EXPECT_EQ(*again.of("longer tail", "").settings.model.outline, longer);
    EXPECT_NE(campaign::sourceOf(again)->sum(), campaign::sourceOf(again.of("longer tail", ""))->sum());
    const auto lines = vehicle::differences(o, longer);
    ASSERT_EQ(lines.size(), 1u);
    EXPECT_EQ(lines[0], "side view, corner 6: x 3.75 \u2192 3.95 m (+0.2)");
}

TEST(Outline, SaysWhatIsDifferentByNameAndNumber) {
    const auto from = vehicle::startingOutline();
    auto to = from;
    to.profile.pop_back();
    to.plan[1].z = 0.7;
    to.wheels[1].radius += 0.01;
    to.wheels[0].name = "nose wheel";
    to.plates = {{}};
    to.clearance -= 0.03;
    to.diffuser_deg = 9.0;
    EXPECT_EQ(
        vehicle::differences(from, to),
        (std::vector<std::string>{"side view: 7 \u2192 6 corners", "plan, corner 2: half width 0.8 \u2192 0.7 m (-0.1)",
                                  "wheel front wheel is not there", "rear wheel: radius 0.29 \u2192 0.3 m (+0.01)",
                                  "wheel nose wheel is new", "plate plate is new",
                                  "clearance 0.18 \u2192 0.15 m (-0.03)", "diffuser 7 \u2192 9\u00b0 (+2)"}));
    EXPECT_TRUE(vehicle::differences(to, to).empty());
}

namespace {
/// Shapes with names into a STEP file.
void writeStep(const std::filesystem::path& file, const std::vector<std::pair<std::string, TopoDS_Shape>>& shapes) {
    Handle(TDocStd_Document) document;
    XCAFApp_Application::GetApplication()->NewDocument("MDTV-XCAF", document);
    const auto tool = XCAFDoc_DocumentTool::ShapeTool(document->Main());
    for (const auto& [name, shape] : shapes) TDataStd_Name::Set(tool->AddShape(shape, false), name.c_str());
    STEPCAFControl_Writer writer;
    writer.SetNameMode(true);
    ASSERT_TRUE(writer.Transfer(document));
    ASSERT_EQ(writer.Write(file.c_str()), IFSelect_RetDone);
}
}  // namespace

TEST(Solids, HaveTheVolumeAndAreaOfTheirBodies) {
    const test::Folder folder;
    // A box of 2 x 1 x 0.5 m with one edge rounded by 0.1 m, and a cylinder of 0.2 m on it: lengths in millimetres.
    BRepPrimAPI_MakeBox box(2000.0, 1000.0, 500.0);
    BRepFilletAPI_MakeFillet round(box.Shape());
    for (TopExp_Explorer e(box.Shape(), TopAbs_EDGE); e.More(); e.Next()) {
        round.Add(100.0, TopoDS::Edge(e.Current()));
        break;
    }
    const gp_Ax2 upright(gp_Pnt(1000.0, 500.0, 400.0), gp_Dir(0, 0, 1));
    const TopoDS_Shape one =
        BRepAlgoAPI_Fuse(round.Shape(), BRepPrimAPI_MakeCylinder(upright, 200.0, 600.0).Shape()).Shape();
    writeStep(folder / "one.step", {{"housing", one}});
    const solid::SolidFile file(folder / "one.step");
    ASSERT_EQ(file.bodies().size(), 1u);
    EXPECT_EQ(file.bodies()[0].name, "housing");
    const auto fine = file.surface(2e-4);
    EXPECT_TRUE(shape::checkHealth(fine).closed()) << shape::checkHealth(fine).sentence();
    EXPECT_NEAR(fine.volume(), file.bodies()[0].volume, 1e-3 * fine.volume());
    EXPECT_NEAR(fine.area(), file.bodies()[0].area, 1e-3 * fine.area());
    EXPECT_NEAR(file.bodies()[0].volume, 1.0 - 2 * 1e-4 * 0.0 + std::numbers::pi * 0.04 * 0.5, 0.02);
    EXPECT_LT(file.facetsAt(5e-3).count, fine.facets.size());
    EXPECT_NE(test::refusalOf([&] { file.facetsAt(0.0); }).find("above 0"), std::string::npos);
    EXPECT_NE(test::refusalOf([&] { file.facetsAt(1e-12); }).find("facets"), std::string::npos);
}

TEST(Solids, OfAnAssemblyInABoxAreTheBoxAndNamedParts) {
    const test::Folder folder;
    writeStep(folder / "three.stp",
              {{"nose", BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, 0), 300.0).Shape()},
               {"tank", BRepPrimAPI_MakeBox(gp_Pnt(500, -200, -200), 900.0, 400.0, 400.0).Shape()},
               {"mast", BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(2000, 0, 0), gp_Dir(0, 0, 1)), 50.0, 800.0).Shape()},
               {"air", BRepPrimAPI_MakeBox(gp_Pnt(-5000, -4000, -3000), 20000.0, 8000.0, 7000.0).Shape()}});
    const solid::SolidFile file(folder / "three.stp");
    ASSERT_EQ(file.bodies().size(), 4u);
    for (const auto& b : file.bodies()) EXPECT_EQ(b.holdsTheOthers, b.name == "air") << b.name;
    EXPECT_NEAR(file.size(), 2.35, 1e-3);
    auto c = campaign::Campaign::create(folder / "three.cvane", folder / "three.stp", "m");
    ASSERT_EQ(c.settings.model.parts.size(), 4u);
    for (const auto& p : c.settings.model.parts) EXPECT_EQ(p.inTheAir, p.name != "air");
    EXPECT_NEAR(campaign::sourceOf(c)->surface().bounds().size().x(), 20.0, 1e-3);
    const auto sum = campaign::sourceOf(c)->sum();
    c.settings.model.facetTolerance = 1e-3;
    EXPECT_NE(campaign::sourceOf(c)->sum(), sum);
}

TEST(Solids, AirBoxGivesTheTunnelItsSize) {
    Box air, model;
    for (const Vec3& p : {Vec3(-3, -2, 0), Vec3(6, 3, 4)}) air.add(p);
    for (const Vec3& p : {Vec3(0, -0.5, 0.2), Vec3(2, 0.5, 1.2)}) model.add(p);
    grid::Tunnel tunnel;
    grid::takeExtents(tunnel, air, model);
    const Box box = grid::tunnelBox(tunnel, model);
    EXPECT_LT((box.low - Vec3(-3, -3, 0)).norm(), 1e-12) << "as wide to both sides as the wider one";
    EXPECT_LT((box.high - Vec3(6, 3, 4)).norm(), 1e-12);
    EXPECT_NE(test::refusalOf([&] { grid::takeExtents(tunnel, model, air); }).find("does not hold"), std::string::npos);
}

TEST(Solids, AreRefusedWithAReason) {
    const test::Folder folder;
    base::replaceFile(folder / "a.step", "solid no\nendsolid no\n");
    EXPECT_NE(test::refusalOf([&] { solid::SolidFile(folder / "a.step"); }).find("a.step: is no STEP file"),
              std::string::npos);
    base::replaceFile(folder / "b.step", "ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n");
    EXPECT_NE(test::refusalOf([&] { solid::SolidFile(folder / "b.step"); }).find("b.step: "), std::string::npos);
    base::replaceFile(folder / "c.igs", "nothing");
    EXPECT_NE(test::refusalOf([&] { solid::SolidFile(folder / "c.igs"); }).find("c.igs: "), std::string::npos);
    EXPECT_NE(test::refusalOf([&] { solid::SolidFile(folder / "d.step"); }), "");
}
