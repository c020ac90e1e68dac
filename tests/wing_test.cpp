#include <gtest/gtest.h>

#include <functional>

#include "base/errors.h"
#include "base/files.h"
#include "bench/random_aircraft.h"
#include "bench/wings.h"
#include "section/outline/families.h"
#include "shape/health.h"
#include "tests/folder.h"
#include "wing/aircraft_json.h"
#include "wing/layout.h"
#include "wing/measures.h"
#include "wing/skin.h"

using namespace cvane;
using base::degree;

namespace {
/// Wing with a break, dihedral, twist and an aileron, a tail, a fin and a pod.
wing::Aircraft whole() {
    wing::Aircraft a = bench::flatWing(3.0, 10.0, 0.5, 8, 10);
    a.name = "Tansy";
    auto& w = a.surfaces[0];
    w.stations[0].section = "4412";
    w.stations[0].dihedral_deg = 5.0;
    w.stations[1].section = "0012";
    w.stations[1].twist_deg = -3.0;
    w.stations.insert(w.stations.begin() + 1, w.stations[0]);
    w.stations[1].along = 1.0;
    w.stations[1].leading = 0.1;
    w.stations[1].dihedral_deg = 8.0;
    w.controls.push_back({"aileron", 1.5, 2.8, 0.75, 0.0, true});
    wing::LiftingSurface tail;
    tail.name = "tail";
    tail.place = Vec3(4.0, 0.0, 0.3);
    tail.incidence_deg = -1.0;
    tail.stations.resize(2);
    tail.stations[0].chord = 0.6;
    tail.stations[1].chord = 0.4;
    tail.stations[1].along = 0.9;
    tail.stations[1].leading = 0.1;
    tail.controls.push_back({"elevator", 0.0, 0.9, 0.7, 0.0, false});
    a.surfaces.push_back(tail);
    wing::LiftingSurface fin = tail;
    fin.name = "fin";
    fin.controls.clear();
    fin.place = Vec3(4.0, 0.0, 0.4);
    fin.mirrored = false;
    fin.roll_deg = 90.0;
    fin.incidence_deg = 0.0;
    a.surfaces.push_back(fin);
    wing::Body pod;
    pod.name = "pod";
    pod.place = Vec3(-0.8, 0.0, -0.3);
    pod.stations = {
        {0.0, 0.0, 0.0, 0.0, 2.0}, {0.5, 0.0, 0.4, 0.5, 2.0}, {1.8, 0.0, 0.4, 0.5, 2.5}, {2.6, 0.1, 0.1, 0.1, 2.0}};
    a.bodies.push_back(pod);
    a.mass = 12.0;
    a.centreOfGravity = Vec3(0.3, 0.0, 0.0);
    return a;
}

std::string refusal(const std::function<void()>& what) {
    try {
        what();
    } catch (const base::InputError& e) {
        return e.what();
    }
    return {};
}
std::string refusalOf(const std::function<void(wing::Aircraft&)>& spoil) {
    auto a = whole();
    spoil(a);
    return refusal([&] { wing::check(a); });
}
bool says(const std::string& all, const char* part) {
    return all.find(part) != std::string::npos;
}
}  // namespace

TEST(Aircraft, ComesBackFromItsFileAsItWas) {
    const test::Folder folder;
    auto a = whole();
    a.sections["own"] = {"own", section::sectionFromCode("2412").points};
    a.surfaces[0].stations[0].section = "own";
    wing::writeAircraft(a, folder / "tansy.json");
    EXPECT_EQ(wing::readAircraft(folder / "tansy.json"), a);
}

TEST(Aircraft, NeedsNoMoreInItsFileThanWhatIsNotUsual) {
    const auto j = nlohmann::json::parse(R"({"surfaces": [{"name": "wing", "stations": [
        {"chord_m": 0.3}, {"along_span_m": 1.2, "chord_m": 0.2}]}]})");
    const auto a = wing::aircraftFrom(j, "here");
    EXPECT_EQ(a.surfaces[0].stations[0].section, "0012");
    EXPECT_TRUE(a.surfaces[0].mirrored);
}

TEST(Aircraft, ThatCannotBeIsRefusedWithItsPlace) {
    EXPECT_TRUE(says(refusalOf([](auto& a) { a.surfaces[0].stations[1].chord = 0.0; }), "wing, station 2"));
    EXPECT_TRUE(says(refusalOf([](auto& a) { a.surfaces[0].stations[2].along = 0.5; }), "in order"));
    EXPECT_TRUE(says(refusalOf([](auto& a) { a.surfaces[1].stations[0].section = "no such"; }), "neither a code"));
    EXPECT_TRUE(
        says(refusalOf([](auto& a) { a.surfaces[0].stations[0].strips = 400, a.surfaces[0].rows = 200; }), "GB"));
    EXPECT_TRUE(says(refusalOf([](auto& a) { a.surfaces[0].controls[0].to = 9.0; }), "aileron"));
    EXPECT_TRUE(says(refusalOf([](auto& a) { a.bodies[0].stations[1].x = -1.0; }), "pod, frame 2"));
    EXPECT_TRUE(says(refusalOf([](auto& a) { a.surfaces[2].name = "wing"; }), "name of its own"));
    EXPECT_TRUE(says(refusalOf([](auto& a) { a.surfaces[0].stations[0].chord = std::nan(""); }), "chord"));
    const auto read = [](const char* text) {
        return refusal([&] { wing::aircraftFrom(nlohmann::json::parse(text), "file.json"); });
    };
    EXPECT_TRUE(says(read(R"({"surfaces": [{"name": "wing", "chrod": 1}]})"), "\"chrod\" is not known"));
    EXPECT_TRUE(says(read(R"({"surfaces": [{"name": "wing", "rows": "many"}]})"), "no whole number"));
    EXPECT_TRUE(says(read(R"({"schema": 99})"), "newer version"));
    EXPECT_TRUE(says(read(R"([1, 2])"), "no object"));
    EXPECT_TRUE(says(read("{}"), "no lifting surface"));
}

TEST(Measures, OfATrapezoidAreThoseOfTheFormulas) {
    const auto a = bench::flatWing(3.0, 20.0, 0.4, 4, 4);
    const auto m = wing::measure(a, a.surfaces[0]);
    EXPECT_NEAR(m.area, 2.0 * 3.0 * 0.7, 1e-12);
    EXPECT_NEAR(m.span, 6.0, 1e-12);
    EXPECT_NEAR(m.meanChord, 2.0 / 3.0 * (1.0 + 0.4 + 0.16) / 1.4, 1e-12);
    EXPECT_NEAR(m.sweep_deg, 20.0, 1e-9);
    // Its place: (b / 6) (1 + 2 taper) / (1 + taper) out, on the swept quarter line.
    const double out = 3.0 / 3.0 * (1.0 + 0.8) / 1.4;
    EXPECT_NEAR(m.meanQuarter.x(), 0.25 + out * std::tan(20.0 * degree), 1e-9);
    EXPECT_EQ(wing::tailVolume(a, 0), std::nullopt);
}

TEST(Skin, IsClosedSoundAndHoldsWhatItsSectionsHold) {
    auto a = bench::flatWing(2.0, 0.0, 1.0, 4, 4);
    a.surfaces[0].stations[0].section = a.surfaces[0].stations[1].section = "0012";
    const auto s = wing::skinOf(a);
    EXPECT_EQ(shape::checkHealth(s).sentence(), "clean and closed");
    // Area of a four-digit section of unit chord: thickness times 0.6851.
    EXPECT_NEAR(s.volume(), 4.0 * 0.12 * 0.6851, 0.002 * s.volume());
    EXPECT_NEAR(s.bounds().size().y(), 4.0, 1e-12);
}

TEST(Skin, OfAWholeAircraftIsClosedPartForPartAlsoWithItsControlsTurned) {
    auto a = whole();
    for (const double angle : {0.0, 15.0}) {
        for (auto& s : a.surfaces) {
            s.roundTip = angle > 0.0;
            for (auto& c : s.controls) c.angle_deg = angle;
        }
        const auto skin = wing::skinOf(a);
        ASSERT_EQ(skin.parts.size(), 4u);
        const auto health = shape::checkHealth(skin);
        EXPECT_EQ(health.openEdges.count, 0u) << angle;
        EXPECT_EQ(health.flippedFacets.count, 0u) << angle;
        EXPECT_EQ(health.degenerateFacets.count, 0u) << angle;
        EXPECT_GT(skin.volume(), 0.0);
    }
}

TEST(Skin, LiesOnItsSections) {
    auto a = bench::flatWing(0.2, 0.0, 1.0, 4, 4);
    for (auto& t : a.surfaces[0].stations) t.section = "4412";
    const auto s = wing::skinOf(a);
    const wing::Profile profile(wing::outlineOf(a, "4412"));
    std::vector<section::Vec2> line;
    for (int k = 0; k <= 2000; ++k) line.push_back(profile.upper(std::pow(1.0 - k / 2000.0, 2)));
    for (int k = 1; k <= 2000; ++k) line.push_back(profile.lower(std::pow(k / 2000.0, 2)));
    double worst = 0.0;
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        if (std::abs(s.areaVector(f).normalized().y()) > 0.9) continue;  // its tips
        if (s.corner(f, 0).x() > 0.999 && s.corner(f, 1).x() > 0.999 && s.corner(f, 2).x() > 0.999)
            continue;  // its base
        const Vec3 corner[] = {s.corner(f, 0), s.corner(f, 1), s.corner(f, 2)};
        const Vec3 middle = (corner[0] + corner[1] + corner[2]) / 3.0;
        const section::Vec2 p(middle.x(), middle.z());
        double least = 1e300;
        for (std::size_t k = 0; k + 1 < line.size(); ++k) {
            const section::Vec2 d = line[k + 1] - line[k];
            const double t = std::clamp((p - line[k]).dot(d) / d.squaredNorm(), 0.0, 1.0);
            least = std::min(least, (line[k] + t * d - p).norm());
        }
        worst = std::max(worst, least);
    }
    EXPECT_LT(worst, 2e-4);
}

TEST(Skin, OfARingIsOneShellWithoutEnds) {
    auto a = bench::flatWing(1.0, 0.0, 1.0, 4, 4);
    auto& s = a.surfaces[0];
    const double side = 0.4;
    s.place = Vec3(0.0, 0.0, -side / 2.0 * (1.0 + std::sqrt(2.0)));
    s.stations.assign(6, s.stations[0]);
    for (std::size_t k = 0; k < 6; ++k) {
        s.stations[k].chord = 0.3;
        s.stations[k].dihedral_deg = k < 5 ? 45.0 * static_cast<double>(k) : 0.0;
        s.stations[k].along = k == 0 ? 0.0 : side * (static_cast<double>(k) - 0.5);
    }
    s.stations[5].along = side * 4.0;
    const auto skin = wing::skinOf(a);
    EXPECT_EQ(shape::checkHealth(skin).sentence(), "clean and closed");
    EXPECT_GT(wing::measure(a, s).area, 0.1);
}

TEST(Skin, OfRandomAircraftIsClosed) {
    for (unsigned seed = 1; seed <= 20; ++seed) {
        const auto skin = wing::skinOf(bench::randomAircraft(seed));
        const auto health = shape::checkHealth(skin);
        EXPECT_TRUE(health.closed()) << seed << ": " << health.sentence();
        EXPECT_EQ(health.flippedFacets.count, 0u) << seed;
        EXPECT_GT(skin.volume(), 0.0) << seed;
    }
}
