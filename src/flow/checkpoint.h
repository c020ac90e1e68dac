#pragma once
#include <filesystem>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "air/free_stream.h"
#include "flow/state.h"

namespace cvane::flow {

/// Everything that a run needs to go on as if it had not stopped, in the order of the whole grid, so that any number of
/// ranks can take it up.
struct Checkpoint {
    std::vector<double> cellData;  ///< rows of all cells, see kVariables
    std::vector<double> flux;      ///< one a face
    std::vector<air::Coefficients> history;
    double seconds = 0.0;            ///< computing time so far
    std::vector<double> relaxation;  ///< memory of the relaxation's control
    std::vector<double> meanData;    ///< like cellData: sums of the iterations that are averaged; empty before
    std::vector<double>
        meanLoads;  ///< sums of the loads by patch over the same iterations, 12 each as in Load [N], [N m]
    std::uint64_t averagedFrom = 0;  ///< entry of the history from which on they are
    double timeStep = 0.0;           ///< [s]; 0: relaxation instead of steps of time
    std::vector<double> lastStep;    ///< see TimeLevels::kept; empty before the first step of time
    std::vector<double> lastExcess;  ///< see TimeLevels::excess, one a face
    std::uint64_t rescues = 0;       ///< how often the flow has blown up
    std::string key;                 ///< of the settings that it belongs to
};

/// Collective: gathers the state at rank 0; the others get an empty one.
Checkpoint gatherState(const Piece& piece, const State& state, const Ranks& ranks);
/// Collective: hands out the state that rank 0 has. Throws InputError on every rank when the sizes do not fit the grid.
void scatterState(const Checkpoint& checkpoint, const Piece& piece, State& state, const Ranks& ranks);
/// Collective: values of all faces, counted from P to N, at rank 0 in the order of the whole grid; and back, for every
/// face of this rank.
std::vector<double> gatherFaces(std::span<const double> values, const Piece& piece, const Ranks& ranks);
std::vector<double> handOutFaces(std::span<const double> all, const Piece& piece, const Ranks& ranks);
/// Collective: the own cells' part of rows that rank 0 has for all cells, as many a cell on each.
std::vector<double> handOutRows(std::span<const double> rows, const Piece& piece, const Ranks& ranks);

/// Collective: everything but the fields, from rank 0 to all.
void shareHistory(Checkpoint& checkpoint, const Ranks& ranks);

/// Writes with a checksum, replacing the file in one step. Throws InputError.
void writeCheckpoint(const Checkpoint& checkpoint, const std::filesystem::path& file);
/// Throws InputError as readCheckpoint, without reading it into memory as a whole.
void checkCheckpoint(const std::filesystem::path& file);
/// Nothing when there is no file. Throws InputError when it is damaged (checksum) or from another version.
std::optional<Checkpoint> readCheckpoint(const std::filesystem::path& file);

}  // namespace cvane::flow
