// body_writer NAME FILE.stl: one of the bodies of the benchmarks as a surface file in metres.
#include <fmt/format.h>

#include <functional>
#include <map>

#include "bench/models.h"
#include "shape/stl_export.h"

using namespace cvane;

int main(int argc, char** argv) {
    const std::map<std::string, std::function<shape::Surface()>> bodies{
        {"wing", [] { return bench::rectangularHalfWing(0.12, 3.0, 80, 60); }},
        {"box", [] { return bench::roundNosedBox(0.0); }},
        {"slanted", [] { return bench::roundNosedBox(12.5 * std::acos(-1.0) / 180.0); }},
        {"plate",
         [] {
             shape::Surface s;
             bench::addBox(s, "plate", {0.0, -0.5, -0.5}, {0.02, 0.5, 0.5});
             shape::orientFacets(s);
             return s;
         }},
        {"cylinder1", [] { return bench::cylinder(0.5, 1.0, 180); }},
        {"cylinder4", [] { return bench::cylinder(0.5, 4.0, 180); }},
        {"halfball", [] { return bench::hemisphere(0.5, 120); }},
        {"ball", [] { return bench::sphere(0.5, 120); }},
        {"ellipsoid",
         [] {
             return bench::ellipsoid({6.0, 1.0, 1.0}, 160);
         }},
        {"cube", [] { return bench::cube(1.0); }},
        {"plainbox", [] { return bench::plainBox(); }},
    };
    const auto found = argc == 3 ? bodies.find(argv[1]) : bodies.end();
    if (found == bodies.end()) {
        fmt::print(stderr, "body_writer NAME FILE.stl with one of:");
        for (const auto& [name, make] : bodies) fmt::print(stderr, " {}", name);
        fmt::print(stderr, "\n");
        return 2;
    }
    shape::writeBinaryStl(found->second(), argv[2], 1.0);
    return 0;
}
