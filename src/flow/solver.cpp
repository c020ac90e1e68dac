#include "flow/solver.h"

#include <algorithm>
#include <cmath>

#include "flow/checkpoint_together.h"
#include "flow/ground.h"

namespace cvane::flow {

namespace {
/// Faster than sound nothing but waves brings a flow to rest, and large steps let them run for ever: a corner of 10 deg
/// at Mach 2 leaves 3e-4 of the momentum after 300 iterations at 0.9, 1e-6 at 0.7; a dart at Mach 1.3 swings by 2 % for
/// ever at 0.9 and rests to four digits at 0.8. Below Mach 0.9 the lift of a section with a shock grows the faster the
/// larger they are.
double mostRelaxation(const Case& c) {
    if (!c.compressible) return c.settings.relaxation;
    constexpr double kFast = 0.75;
    const double fast = std::clamp((c.wind.mach() - 0.9) / 0.2, 0.0, 1.0);
    return std::min(c.settings.relaxation, 1.0 - (0.1 + fast * (0.9 - kFast)));
}
}  // namespace

Solver::Parted::Parted(Piece piece, const Case& c) : ahead(partGround(piece, c)) {
    const std::size_t nb = piece.faces() - piece.linked, stored = piece.stored();
    flow.nu = c.settings.model == Model::Inviscid ? 0.0 : c.wind.air.kinematicViscosity();
    flow.state.compressible = c.compressible;
    if (c.compressible) flow.gas = GasLaw(c.wind);
    for (const Variable& v : variablesOf(flow.state))
        v.visit(flow.state, [&](auto& field) { fillWithZero(field, stored); });
    if (c.compressible) {
        flow.state.density.assign(stored, 1.0);
        flow.pseudo.assign(stored, 0.0);
    }
    flow.state.flux.assign(piece.faces(), 0.0);
    flow.walls = {std::vector<double>(nb, flow.nu), std::vector<double>(nb, 0.0), std::vector<double>(nb, 0.0),
                  std::vector<double>(nb, 1.0)};
    flow.atBoundary.assign(nb, Vec3::Zero());
    flow.D.assign(stored, 0.0);
    flow.Dcorrect.assign(stored, 0.0);
    for (std::size_t i = 0; i < static_cast<std::size_t>(piece.cells); ++i)
        flow.section.push_back(std::pow(piece.V[i], 2.0 / 3.0));
    flow.piece = std::move(piece);
}

Solver::Solver(const grid::Grid& grid, const grid::Geometry& geometry, const Case& c, const Ranks& ranks)
    : Solver(cutPiece(grid, geometry, ranks.rank(), ranks.size()), c, ranks) {}

Solver::Solver(Piece piece, const Case& c, const Ranks& ranks) : Solver(Parted(std::move(piece), c), c, ranks) {}

Solver::Solver(Parted parted, const Case& c, const Ranks& ranks)
    : case_(c),
      ranks_(ranks),
      flow_(std::move(parted.flow)),
      groundBegins_(groundLayerBegin(flow_.piece, case_, ranks)),
      boundaries_(flow_.piece, case_, parted.ahead),
      devices_(flow_.piece, c.discs, c.blocks, c.wind.air.density, flow_.nu, c.tunnel.halfModel, ranks),
      matrix_(flow_.piece),
      gradients_(flow_, boundaries_, case_, groundBegins_),
      momentum_(case_, boundaries_, devices_, matrix_, ranks),
      continuity_(flow_, case_, boundaries_, matrix_, ranks),
      energy_(boundaries_, matrix_, gradients_.ofPressure(), devices_, ranks),
      relaxation_(mostRelaxation(c)) {
    if (isTurbulent(c.settings.model)) makeTurbulenceModel();
}

void Solver::makeTurbulenceModel() {
    const double length = modelLength(flow_.piece, boundaries_, case_, ranks_);
    turbulence_ = makeTurbulence(
        case_.settings.model, {flow_.piece, gradients_.ofPressure(), gradients_.ofVelocity(), flow_.atBoundary, matrix_,
                               distanceToWalls(flow_.piece, case_), flow_.nu, boundaries_,
                               freeTurbulenceOf(case_.settings, case_.wind.speed, length), time_, flow_.viscosity});
    const auto free = turbulence_->freeStream();
    const std::size_t stored = flow_.piece.stored();
    flow_.state.first.assign(stored, free[0]);
    flow_.state.second.assign(stored, free[1]);
    flow_.state.nuT.assign(stored, free[2]);
    gradients_.use(turbulence_.get());
    momentum_.use(turbulence_.get());
}

Starts Solver::start() {
    return {flow_, case_, boundaries_, gradients_, continuity_, turbulence_.get(), ranks_};
}

Readings Solver::read() const {
    return {flow_, case_, boundaries_, devices_, averages_, groundBegins_, ranks_};
}

Residuals Solver::iterate(double share, int most) {
    if (!time_.inTime()) return iterateOnce();
    std::vector<double> excess(flow_.piece.faces(), 0.0);
    for (std::size_t f = 0; f < flow_.piece.linked; ++f)
        excess[f] = continuity_.volumeFlux(flow_, f) - flow_.between(f).dot(flow_.piece.S[f]);
    time_.begin(flow_.state, excess);
    Residuals r = iterateOnce();
    const double enough = share * r.momentum;
    for (int i = 1; i < most && r.momentum > enough; ++i) r = iterateOnce();
    return r;
}

Residuals Solver::iterateOnce() {
    constexpr double kReduction = 0.03;
    constexpr int kMostCycles = 25;
    Residuals r;
    averages_.showState();
    momentum_.assemble(flow_);
    r.momentum = momentum_.advance(flow_, relaxation_, time_);
    flow_.boundSpeed();
    gradients_.updateBoundary(flow_);
    gradients_.updateVelocity(flow_);
    r.mass = continuity_.correct(flow_, time_, kReduction, kMostCycles);
    flow_.boundSpeed();
    if (flow_.gas) r.energy = energy_.advance(flow_, time_);
    // In steps of time the residual follows the wake and says nothing about caution.
    if (!time_.inTime()) relaxation_.take(r.momentum + r.mass);
    gradients_.updateAll(flow_);
    if (turbulence_) {
        const auto exchange = [&] {
            for (auto& [cell, mean] : flow_.meanAtWalls) std::swap(flow_.gradU[cell], mean);
        };
        exchange();
        const auto left = turbulence_->advance(flow_.state, flow_.walls, flow_.gradU, ranks_);
        exchange();
        r.first = left[0];
        r.second = left[1];
    }
    return r;
}

void Solver::complete() {
    continuity_.correct(flow_, time_, 1e-8, 200);
    if (flow_.gas) EnergyEquation::updateDensity(flow_);
    gradients_.updateAll(flow_);
}

std::vector<Vec3> Solver::momentumResidual() {
    momentum_.assemble(flow_);
    return momentum_.residual(flow_);
}

double Solver::goBackWithCaution() {
    restore(kept_);
    relaxation_.lowerTo(0.7 * relaxation_.now());
    return relaxation_.now();
}

void Solver::restore(const State& state) {
    flow_.state = state;
    time_.set(time_.step());  // earlier steps were not those of this state
    averages_.showState();
    gradients_.updateAll(flow_);
}

void Solver::addToMean() {
    averages_.add(flow_.state, static_cast<std::size_t>(flow_.piece.cells), read().loadsByPatch());
}

void Solver::takeMean() {
    if (!(averages_.count() > 0.0)) return;
    averages_.take(flow_.state);
    exchangeAll(flow_.piece, flow_.state);
    gradients_.updateAll(flow_);
}

Checkpoint Solver::checkpoint() const {
    const Piece& p = flow_.piece;
    auto c = gatherState(p, flow_.state, ranks_);
    c.relaxation = relaxation_.memory();
    c.timeStep = time_.step();
    if (time_.known() > 0) {
        c.lastStep = ranks_.gatherAtRoot(time_.kept(static_cast<std::size_t>(p.cells)));
        c.lastExcess = gatherFaces(time_.lastExcess(), p, ranks_);
    }
    if (averages_.count() > 0.0) {
        c.meanData = ranks_.gatherAtRoot(averages_.rows());
        c.meanLoads = averages_.loadSums();
    }
    return c;
}

void Solver::save(const Checkpoint& given, const std::filesystem::path& file) const {
    const auto cells = static_cast<std::size_t>(flow_.piece.cells);
    Checkpoint head = given;
    OwnFields own;
    own.cellData = rowsOf(flow_.state, cells);
    own.flux = flow_.state.flux;
    head.relaxation = relaxation_.memory();
    head.timeStep = time_.step();
    if (time_.known() > 0) {
        own.lastStep = time_.kept(cells);
        own.lastExcess = time_.lastExcess();
    }
    if (averages_.count() > 0.0) {
        own.meanData = averages_.rows();
        head.meanLoads = averages_.loadSums();
    }
    writeCheckpointTogether(head, own, flow_.piece, ranks_, file);
}

void Solver::resume(const Checkpoint& c) {
    const Piece& p = flow_.piece;
    scatterState(c, p, flow_.state, ranks_);
    relaxation_.remember(c.relaxation);
    auto means = handOutRows(c.meanData, p, ranks_);
    const double count = means.empty() ? 0.0 : static_cast<double>(c.history.size() - c.averagedFrom);
    averages_.resume(std::move(means), c.meanLoads, count);
    time_.set(c.timeStep);
    if (ranks_.any(!c.lastStep.empty()))
        time_.remember(handOutRows(c.lastStep, p, ranks_), p.stored(), handOutFaces(c.lastExcess, p, ranks_),
                       flow_.state.compressible);
    gradients_.updateAll(flow_);
}

}  // namespace cvane::flow
