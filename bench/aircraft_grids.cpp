// Grids of random aircraft, or of random vehicles drawn by their outline, at their usual settings: what stands against
// each of them.
//
//   aircraft_grids [how many] [cells] [first seed] [outlines]
#include "bench/grid_findings.h"
#include "bench/random_aircraft.h"
#include "bench/random_outline.h"

using namespace cvane;

int main(int argc, char** argv) {
    const int count = argc > 1 ? std::stoi(argv[1]) : 20, budget = argc > 2 ? std::stoi(argv[2]) : 200000;
    const int first = argc > 3 ? std::stoi(argv[3]) : 1;
    const bool outlines = argc > 4 && std::string(argv[4]) == "outlines";
    return bench::gridMany(count, budget, first, [&](const std::filesystem::path& folder, unsigned seed) {
               return outlines ? campaign::Campaign::create(folder, bench::randomOutline(seed))
                               : campaign::Campaign::create(folder, bench::randomAircraft(seed));
           }) > 0;
}
