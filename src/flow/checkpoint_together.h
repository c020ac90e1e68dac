#pragma once
#include "flow/checkpoint.h"

namespace cvane::flow {

/// A rank's own part of a checkpoint's fields: rows of its own cells, and values of all its faces counted from P to N.
struct OwnFields {
    std::vector<double> cellData, meanData, lastStep;
    std::vector<double> flux, lastExcess;
};

/// Writes what writeCheckpoint would write of the gathered fields, byte for byte, each rank its own part, so that none
/// holds the whole. Replaces the file in one step. Collective. Throws InputError on every rank.
/// @param head  everything but the fields, of the same lengths on every rank; rank 0's counts
void writeCheckpointTogether(const Checkpoint& head, const OwnFields& own, const Piece& piece, const Ranks& ranks,
                             const std::filesystem::path& file);

}  // namespace cvane::flow
