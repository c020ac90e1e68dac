#include <gtest/gtest.h>

#include "air/free_stream.h"
#include "base/errors.h"
#include "base/units.h"

using namespace cvane;

// U.S. Standard Atmosphere 1976, tables I and II (geopotential altitude); five figures are printed there.
TEST(StandardAtmosphere, AgreesWithThePublishedTable) {
    struct Row {
        double h, T, p, rho;
    };
    for (const Row& r :
         {Row{0, 288.15, 101325, 1.2250}, Row{5000, 255.65, 54020, 0.73612}, Row{11000, 216.65, 22632, 0.36392},
          Row{15000, 216.65, 12045, 0.19367}, Row{25000, 221.65, 2511.0, 0.039466}}) {
        const auto a = air::standardAtmosphere(r.h, 0.0);
        EXPECT_NEAR(a.temperature, r.T, 1e-6 * r.T);
        EXPECT_NEAR(a.pressure, r.p, 1e-4 * r.p) << r.h;
        EXPECT_NEAR(a.density, r.rho, 1e-4 * r.rho) << r.h;
    }
    EXPECT_NEAR(air::standardAtmosphere(0, 0).viscosity, 1.7894e-5, 1e-9);
    EXPECT_NEAR(air::standardAtmosphere(0, 0).soundSpeed, 340.294, 1e-3);
}

TEST(StandardAtmosphere, HotAirIsThinnerAtTheSamePressure) {
    const auto cold = air::standardAtmosphere(1000, 0), hot = air::standardAtmosphere(1000, 20);
    EXPECT_DOUBLE_EQ(cold.pressure, hot.pressure);
    EXPECT_NEAR(hot.density / cold.density, cold.temperature / hot.temperature, 1e-12);
    EXPECT_THROW(air::standardAtmosphere(40000, 0), base::InputError);
    EXPECT_THROW(air::standardAtmosphere(0, -250), base::InputError);
    EXPECT_THROW(air::standardAtmosphere(std::nan(""), 0), base::InputError);
}

TEST(WindAxes, AreOrthonormalAndPositiveAlphaBlowsFromBelow) {
    air::FreeStream w{10.0, 7.0 * base::degree, 4.0 * base::degree, {}};
    Mat3 axes;
    axes << w.dragAxis(), w.sideAxis(), w.liftAxis();
    EXPECT_LT((axes.transpose() * axes - Mat3::Identity()).norm(), 1e-14);
    EXPECT_GT(w.velocity().z(), 0.0);
    EXPECT_LT(w.velocity().y(), 0.0);  // wind from starboard blows to port
}

TEST(Coefficients, HaveTheSignsOfTheTrade) {
    const air::FreeStream w{10.0, 0.0, 0.0, {}};
    const air::Reference r{2.0, 0.5, 3.0, Vec3::Zero()};
    const double q = w.dynamicPressure();
    const auto c = air::coefficients({2 * q, 0, 4 * q}, {-6 * q, q, -6 * q}, w, r);
    EXPECT_NEAR(c.CD, 1.0, 1e-12);
    EXPECT_NEAR(c.CL, 2.0, 1e-12);
    EXPECT_NEAR(c.Cm, 1.0, 1e-12);  // +My is nose up
    EXPECT_NEAR(c.Cl, 1.0, 1e-12);  // -Mx is starboard wing down
    EXPECT_NEAR(c.Cn, 1.0, 1e-12);  // -Mz is nose to starboard
}

TEST(Wind, SpeedMachAndReynoldsFollowFromOneAnother) {
    const auto a = air::standardAtmosphere(2000, 5);
    const double V = air::speedFromMach(0.1, a);
    const air::FreeStream w{V, 0, 0, a};
    EXPECT_NEAR(w.mach(), 0.1, 1e-14);
    EXPECT_NEAR(air::speedFromReynolds(w.reynolds(0.7), 0.7, a), V, 1e-12 * V);
}
