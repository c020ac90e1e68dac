#pragma once
#include <vector>

#include "campaign/steps/model_stage.h"

namespace cvane::campaign {

/// One thing that looks wrong before a run.
struct Remark {
    bool blocks;       ///< the run cannot work
    std::string text;  ///< what is wrong and what mends it
    /// Settings that mend it, each under a few words for a button: assignments as for setField.
    struct Mend {
        std::string words, assignment;
    };
    std::vector<Mend> mends = {};
    /// Where it is mended by hand.
    enum class Place { Model, Tunnel, Grid, Schedule } place = Place::Model;
};

/// Looks for the usual mistakes: size, blockage, reference values, compressibility, wind through the ground, settings
/// out of range. Throws nothing: what would throw becomes a remark.
std::vector<Remark> preflight(const Campaign& campaign, const ModelMeasures& measures);

}  // namespace cvane::campaign
