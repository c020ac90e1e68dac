#pragma once
#include <algorithm>

#include "flow/checkpoint.h"

namespace cvane::flow {

/// What one iteration left over; each is scaled to be of order one at the start.
struct Residuals {
    double momentum = 0, mass = 0, first = 0, second = 0;  ///< first, second: of the turbulence model's variables
    double energy = 0;
    double worst() const { return std::max({momentum, mass, first, second, energy}); }
};

/// What a Course drives: a flow of some physics that is iterated to rest or moved in steps of time. All functions are
/// collective: every rank calls them in the same order.
class Iterated {
  public:
    virtual ~Iterated() = default;
    /// One iteration, or one step of time where one is set.
    virtual Residuals iterate() = 0;
    /// Solves what iterations leave open to rounding, as closed continuity.
    virtual void complete() = 0;

    /// Coefficients of the whole model.
    virtual air::Coefficients coefficients() const = 0;
    /// Of the force found from outside less the balance's: what the flow still has to go.
    virtual air::Coefficients outsideDifference() const = 0;

    /// Keeps the state as it is, as one to come back to.
    virtual void keepState() = 0;
    /// Goes back to the state kept last, with more caution from there on. @return the relaxation from now on
    virtual double goBackWithCaution() = 0;

    /// A step of time [s] that all cells share; 0: each takes its own, by relaxation.
    virtual void setTimeStep(double seconds) = 0;
    /// One with which a wake behind the model can be followed [s].
    virtual double wakeTimeStep() const = 0;

    /// Forgets the means; adds the state to them; takes them as the state, to read out what a swinging flow is like on
    /// average.
    virtual void startMean() = 0;
    virtual void addToMean() = 0;
    virtual void takeMean() = 0;

    /// Everything that it needs to go on; rank 0 has the fields.
    virtual Checkpoint checkpoint() const = 0;
    /// Writes the same with what the course knows, where no rank need hold the whole; of a flow on one rank by itself
    /// as here. @param head  everything but the fields. Throws InputError on every rank: it cannot be written.
    virtual void save(const Checkpoint& head, const std::filesystem::path& file) const;
    /// Goes on exactly where a checkpoint of this very case was taken. Throws InputError on every rank: it is of
    /// another grid.
    virtual void resume(const Checkpoint& saved) = 0;
};

}  // namespace cvane::flow
