// Propellers of an aircraft: their slipstreams against momentum theory, and the same discs in the field.
#include "lifting/slipstream.h"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "base/errors.h"
#include "bench/wings.h"
#include "campaign/plan/propellers.h"
#include "lifting/runs.h"
#include "wing/aircraft_json.h"
#include "wing/source.h"

using namespace cvane;
using std::numbers::pi;

namespace {
wing::Propeller propeller(double thrust) {
    wing::Propeller p;
    p.centre = Vec3(-0.5, 1.0, 0.0);
    p.diameter = 0.8;
    p.thrust = thrust;
    return p;
}
air::FreeStream windAt(double speed) {
    return {speed, 0.0, 0.0, air::standardAtmosphere(0.0, 0.0)};
}
wing::Aircraft twin(double thrust) {
    auto a = bench::flatWing(3.0, 0.0, 1.0, 4, 30);
    a.propellers.push_back(propeller(thrust));
    a.propellers[0].mirrored = true;
    return a;
}
lifting::Outcome flown(const wing::Aircraft& a) {
    lifting::Asked asked;
    asked.alphas = {4.0 * base::degree};
    asked.speed = 20.0;
    asked.sectionDrag = asked.derivatives = false;
    return lifting::run(a, asked);
}
}  // namespace

TEST(AddedSpeed, IsThatOfMomentumTheory) {
    const double T = 50.0, V = 20.0, A = 0.5, rho = 1.2, v = lifting::addedSpeed(T, V, A, rho);
    EXPECT_NEAR(2.0 * rho * A * (V + v) * v, T, 1e-9);
    EXPECT_NEAR(lifting::addedSpeed(T, 0.0, A, rho), std::sqrt(T / (2.0 * rho * A)), 1e-12);  // at rest
    EXPECT_GE(lifting::addedSpeed(-1e6, V, A, rho), -0.5 * V);  // a brake takes half of the speed at most
}

TEST(Slipstream, CarriesTheThrustAsMomentumWhereverItIsCut) {
    const double T = 40.0;
    const auto wind = windAt(20.0);
    const lifting::Slipstream s({propeller(T)}, wind);
    const double V = wind.speed, rho = wind.air.density;
    double first = 0.0;
    for (const double behind : {0.0, 0.3, 1.0, 20.0}) {
        double mass = 0.0, momentum = 0.0;
        const int n = 4000;
        for (int k = 0; k < n; ++k) {
            const double r = 0.5 * (k + 0.5) / n, u = s.at(Vec3(-0.5 + behind, 1.0 + r, 0.0)).x();
            if (u == 0.0) continue;  // beside the tube
            mass += rho * (V + u) * 2.0 * pi * r * 0.5 / n;
            momentum += rho * (V + u) * u * 2.0 * pi * r * 0.5 / n;
        }
        if (behind == 0.0) first = mass;
        EXPECT_NEAR(mass, first, 2e-3 * first) << behind;
        // In the disc half of the thrust is still pressure.
        if (behind == 0.0) {
            EXPECT_NEAR(momentum, 0.5 * T, 0.01 * T);
        }
        if (behind == 20.0) {
            EXPECT_NEAR(momentum, T, 0.01 * T);
        }
    }
    EXPECT_EQ(s.at(Vec3(0.0, 2.0, 0.0)), Vec3(Vec3::Zero()));
}

TEST(Slipstream, TurnsWithTheTorqueOfItsDisc) {
    auto p = propeller(40.0);
    p.rpm = 3000.0;
    const auto wind = windAt(20.0);
    const lifting::Slipstream s({p}, wind);
    EXPECT_EQ(s.at(Vec3(-0.6, 1.2, 0.0)).z(), 0.0);  // not ahead of it
    EXPECT_GT(s.at(Vec3(0.0, 1.2, 0.0)).z(), 0.0);   // right-handed about x: up on the starboard side of its axis
    EXPECT_LT(s.at(Vec3(0.0, 0.8, 0.0)).z(), 0.0);
}

TEST(Slipstream, LiftsTheWingMoreTheHarderItIsBlown) {
    const double still = flown(twin(0.0)).rows[0].coefficients.CL, some = flown(twin(30.0)).rows[0].coefficients.CL,
                 more = flown(twin(60.0)).rows[0].coefficients.CL;
    EXPECT_GT(some, 1.01 * still);
    EXPECT_GT(more - some, 0.3 * (some - still));
    // All of the span in faster air would lift by its speed's square and no more.
    const double V = 20.0, far = V + 2.0 * lifting::addedSpeed(60.0, V, pi * 0.16, windAt(V).air.density);
    EXPECT_LT(more, still * std::pow(far / V, 2));
}

TEST(Slipstream, OfATwinIsTheSameOnTheHalfAndOnTheWhole) {
    auto half = twin(40.0), whole = half;
    ASSERT_TRUE(wing::isSymmetric(half));
    whole.propellers = wing::propellersOf(half);
    for (auto& p : whole.propellers) p.mirrored = false;
    ASSERT_FALSE(wing::isSymmetric(whole));
    EXPECT_NEAR(flown(half).rows[0].coefficients.CL, flown(whole).rows[0].coefficients.CL, 1e-9);
}

TEST(Propellers, AreKeptInTheFileAndShapeNothing) {
    auto a = twin(40.0);
    const auto read = wing::aircraftFrom(wing::toJson(a), "file");
    EXPECT_EQ(read, a);
    const auto sum = wing::AircraftSource(a).sum();
    a.propellers.clear();
    EXPECT_EQ(wing::AircraftSource(a).sum(), sum);
    EXPECT_FALSE(wing::toJson(a).contains("propellers"));  // so that results of before keep their keys
}

TEST(Propellers, ThatMakeNoRingAreRefused) {
    const auto refused = [](const auto& change) {
        auto a = twin(40.0);
        change(a.propellers[0]);
        try {
            wing::check(a);
        } catch (const base::InputError& e) {
            return std::string(e.what()).find("propeller") != std::string::npos;
        }
        return false;
    };
    EXPECT_TRUE(refused([](auto& p) { p.diameter = 0.0; }));
    EXPECT_TRUE(refused([](auto& p) { p.hub = 1.0; }));
    EXPECT_TRUE(refused([](auto& p) { p.axis.setZero(); }));
    EXPECT_TRUE(refused([](auto& p) { p.thrust = std::nan(""); }));
    EXPECT_TRUE(refused([](auto& p) { p.centre.y() = 0.0; }));
}

TEST(Propellers, OfABuiltModelAreDiscsOfTheFieldWhereItIsPlaced) {
    campaign::Settings s;
    campaign::setAircraft(s, twin(40.0));
    s.model.placement.shift = Vec3(0.0, 0.0, 2.0);
    s.devices.discs.push_back({"fan", Vec3(3.0, 0.0, 0.0), Vec3::UnitX(), 0.0, 0.2, 5.0, 0.0, 0.0});
    const auto all = campaign::discsOf(s);
    ASSERT_EQ(all.size(), 3u);
    EXPECT_EQ(all[1].name, "propeller");
    EXPECT_EQ(all[2].name, "propeller, port");
    EXPECT_EQ(all[2].centre, Vec3(-0.5, -1.0, 2.0));
    EXPECT_EQ(all[1].outer, 0.4);
    s.tunnel.halfModel = true;
    const auto here = campaign::discsInTunnel(s);
    ASSERT_EQ(here.size(), 2u);
    EXPECT_EQ(here[1].name, "propeller");
    // One on the port side alone stays: that it finds no air there is said when it runs.
    s.model.aircraft->propellers[0].mirrored = false;
    s.model.aircraft->propellers[0].centre.y() = -1.0;
    EXPECT_EQ(campaign::discsInTunnel(s).size(), 2u);
}
