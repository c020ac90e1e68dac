#include "flow/multigrid.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <type_traits>

#include "flow/aggregation.h"

namespace cvane::flow {

namespace {

constexpr double kDirect = 150;  ///< rows of the level that is solved outright
/// Rows from which on every rank repeats the rest: a W-cycle visits these levels often, and their messages would take
/// longer than the work that they spare.
constexpr double kWhole = 1000;

/// Collective: out = A v in the own rows, behind an exchange of v's ghosts. @return this rank's part of v . A v
double product(const Sparse& A, const Halo& halo, std::vector<double>& v, std::vector<double>& out) {
    halo.exchange(v);
    double sum = 0.0;
    for (std::size_t i = 0; i < static_cast<std::size_t>(A.rows); ++i) {
        double s = A.diag[i] * v[i];
        for (auto k = A.rowStart[i]; k < A.rowStart[i + 1]; ++k) s += A.term(k, v);
        out[i] = s;
        sum += v[i] * s;
    }
    return sum;
}

}  // namespace

/// One cycle from zero, as a guess at the solution.
class Multigrid::Cycle {
  public:
    virtual ~Cycle() = default;
    virtual void update(const Sparse& A) = 0;
    /// z: own and ghost entries, of which the own ones are set
    virtual void apply(const std::vector<double>& b, std::vector<double>& z) = 0;
    virtual int levels() const = 0;
};

template <class Real>
class Multigrid::CycleIn : public Multigrid::Cycle {
  public:
    /// `whole`: the levels continue another hierarchy, they are not its finest
    CycleIn(const Sparse& sample, const Halo& halo, const Ranks& ranks, Symmetry symmetry, bool whole = false);
    void update(const Sparse& A) override;
    void apply(const std::vector<double>& b, std::vector<double>& z) override;
    int levels() const override { return static_cast<int>(levels_.size()) + (rest_ ? rest_->cycle->levels() - 1 : 0); }

  private:
    static constexpr bool kSame = std::is_same_v<Real, double>;
    struct Level {
        Sparse own;                   ///< coarse levels' matrix
        const Sparse* matrix = &own;  ///< on the finest level the caller's, while it is being solved
        SparseOf<Real> copy;          ///< of the matrix, where it has another precision
        Halo halo;
        std::vector<std::int32_t> aggregate;  ///< own and ghost entries -> entry of the next level
        std::vector<std::int32_t>
            target;  ///< per entry of A: entry of the next level's A, or -1 - row for its diagonal
        std::vector<Real> b, x;
        std::size_t stored = 0;  ///< own and ghosts

        const SparseOf<Real>& smoothed() const {
            if constexpr (kSame)
                return *matrix;
            else
                return copy;
        }
    };
    /// The coarsest level shared among the ranks, as every rank has it for itself, rows in the order of the ranks.
    struct Rest {
        Sparse matrix;
        Ranks::Shares rows, entries;
        std::vector<std::int32_t> place;     ///< of each gathered entry in the matrix
        std::vector<std::size_t> number;     ///< of my rows and ghosts
        std::vector<double> mine, gathered;  ///< right side: my rows, all rows
        Ranks alone = Ranks::alone();
        std::unique_ptr<CycleIn> cycle;
        std::vector<Real> b, x;
    };
    void makeRest();
    void gatherRest();
    void solveCoarsest(const std::vector<Real>& b, std::vector<Real>& x);
    void cycle(std::size_t level, const std::vector<Real>& b, std::vector<Real>& x);
    const Ranks& ranks_;
    Symmetry symmetry_;
    bool whole_;
    std::vector<std::unique_ptr<Level>> levels_;
    std::unique_ptr<Rest> rest_;             ///< with several ranks
    Eigen::LDLT<Eigen::MatrixXd> coarsest_;  ///< with one
    Eigen::PartialPivLU<Eigen::MatrixXd> coarsestGeneral_;
};

template <class Real>
Multigrid::CycleIn<Real>::CycleIn(const Sparse& sample, const Halo& halo, const Ranks& ranks, Symmetry symmetry,
                                  bool whole)
    : ranks_(ranks), symmetry_(symmetry), whole_(whole) {
    levels_.push_back(std::make_unique<Level>());
    levels_[0]->matrix = &sample;
    levels_[0]->halo = halo;
    for (;;) {
        Level& L = *levels_.back();
        const Sparse& A = *L.matrix;
        L.stored = storedIn(L.halo, A.rows);
        L.b.assign(L.stored, Real(0));
        L.x.assign(L.stored, Real(0));
        if constexpr (!kSame) {
            L.copy.rows = A.rows;
            L.copy.rowStart = A.rowStart;
            L.copy.col = A.col;
            L.copy.above = A.above;
        }
        const double all = ranks.sum(A.rows);
        if (all <= (ranks.size() > 1 ? kWhole : kDirect) || levels_.size() > 20) break;
        std::vector<std::int32_t> once, twice, target;
        const auto half = pairRows(A, once);
        // The second round pairs the pairs, by the couplings that they have among themselves on this rank.
        std::vector<std::int32_t> extended = once;
        extended.resize(L.stored);
        for (std::size_t g = once.size(); g < L.stored; ++g)
            extended[g] = half + static_cast<std::int32_t>(g - once.size());
        Sparse middle = coarsePattern(A, extended, half, target);
        galerkin(A, once, target, middle);
        const auto rows = pairRows(middle, twice);
        L.aggregate.resize(once.size());
        for (std::size_t i = 0; i < once.size(); ++i) L.aggregate[i] = twice[static_cast<std::size_t>(once[i])];
        if (ranks.sum(rows) > 0.8 * all) break;
        auto next = std::make_unique<Level>();
        next->halo = coarseHalo(L.halo, rows, L.aggregate, L.stored);
        next->own = coarsePattern(A, L.aggregate, rows, L.target);
        galerkin(A, L.aggregate, L.target, next->own);
        levels_.push_back(std::move(next));
    }
    if (ranks.size() > 1) makeRest();
}

template <class Real>
void Multigrid::CycleIn<Real>::makeRest() {
    const Level& C = *levels_.back();
    const Sparse& A = *C.matrix;
    const auto n = static_cast<std::size_t>(A.rows);
    rest_ = std::make_unique<Rest>();
    Rest& R = *rest_;
    R.rows = ranks_.sharesOf(n);
    R.entries = ranks_.sharesOf(A.val.size());
    const auto first = static_cast<std::size_t>(R.rows.starts[static_cast<std::size_t>(ranks_.rank())]);
    std::vector<double> number(C.stored, 0.0);
    for (std::size_t i = 0; i < n; ++i) number[i] = static_cast<double>(first + i);
    C.halo.exchange(number);
    R.number.assign(number.begin(), number.end());
    std::vector<double> row, column;
    for (std::size_t i = 0; i < n; ++i)
        for (auto k = A.rowStart[i]; k < A.rowStart[i + 1]; ++k) {
            row.push_back(number[i]);
            column.push_back(number[static_cast<std::size_t>(A.col[static_cast<std::size_t>(k)])]);
        }
    const auto rows = ranks_.gather(row), columns = ranks_.gather(column);
    std::vector<std::size_t> order(rows.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        return rows[a] != rows[b] ? rows[a] < rows[b] : columns[a] < columns[b];
    });
    R.matrix.rows = static_cast<std::int32_t>(R.rows.all);
    R.matrix.rowStart.assign(R.rows.all + 1, 0);
    R.place.resize(order.size());
    for (std::size_t k = 0; k < order.size(); ++k) {
        R.place[order[k]] = static_cast<std::int32_t>(k);
        R.matrix.col.push_back(static_cast<std::int32_t>(columns[order[k]]));
        ++R.matrix.rowStart[static_cast<std::size_t>(rows[order[k]]) + 1];
    }
    std::partial_sum(R.matrix.rowStart.begin(), R.matrix.rowStart.end(), R.matrix.rowStart.begin());
    R.matrix.diag.assign(R.rows.all, 0.0);
    R.matrix.val.assign(order.size(), 0.0);
    R.matrix.findAbove();
    R.b.assign(R.rows.all, Real(0));
    R.x.assign(R.rows.all, Real(0));
    R.mine.resize(n);
    R.gathered.resize(R.rows.all);
    gatherRest();
    R.cycle = std::make_unique<CycleIn>(R.matrix, Halo{}, R.alone, symmetry_, true);
}

template <class Real>
void Multigrid::CycleIn<Real>::gatherRest() {
    Rest& R = *rest_;
    const Sparse& A = *levels_.back()->matrix;
    ranks_.gather(A.diag, R.rows, R.matrix.diag);
    std::vector<double> values(R.entries.all);
    ranks_.gather(A.val, R.entries, values);
    for (std::size_t k = 0; k < R.place.size(); ++k) R.matrix.val[static_cast<std::size_t>(R.place[k])] = values[k];
}

template <class Real>
void Multigrid::CycleIn<Real>::update(const Sparse& A) {
    levels_[0]->matrix = &A;
    for (std::size_t l = 0; l + 1 < levels_.size(); ++l)
        galerkin(*levels_[l]->matrix, levels_[l]->aggregate, levels_[l]->target, levels_[l + 1]->own);
    if constexpr (!kSame)
        for (auto& L : levels_) {
            L->copy.diag.assign(L->matrix->diag.begin(), L->matrix->diag.end());
            L->copy.val.assign(L->matrix->val.begin(), L->matrix->val.end());
        }
    if (rest_) {
        gatherRest();
        rest_->cycle->update(rest_->matrix);
        return;
    }
    const Sparse& C = *levels_.back()->matrix;
    Eigen::MatrixXd M = Eigen::MatrixXd::Zero(C.rows, C.rows);
    for (std::int32_t i = 0; i < C.rows; ++i) {
        M(i, i) = C.diag[static_cast<std::size_t>(i)];
        for (auto k = C.rowStart[static_cast<std::size_t>(i)]; k < C.rowStart[static_cast<std::size_t>(i) + 1]; ++k)
            M(i, C.col[static_cast<std::size_t>(k)]) += C.val[static_cast<std::size_t>(k)];
    }
    // A touch more on the diagonal keeps a matrix without fixed values solvable.
    M.diagonal() *= 1.0 + 1e-10;
    if (symmetry_ == Symmetry::Full)
        coarsest_.compute(M);
    else
        coarsestGeneral_.compute(M);
}

template <class Real>
void Multigrid::CycleIn<Real>::apply(const std::vector<double>& b, std::vector<double>& z) {
    if constexpr (kSame) {
        cycle(0, b, z);
    } else {
        Level& L = *levels_[0];
        // The right side is scaled to one, far from what a float cannot hold.
        double most = 0.0;
        const auto n = static_cast<std::size_t>(L.matrix->rows);
        for (std::size_t i = 0; i < n; ++i) most = std::max(most, std::abs(b[i]));
        most = ranks_.max(most);
        if (!(most > 0.0)) most = 1.0;
        for (std::size_t i = 0; i < n; ++i) L.b[i] = static_cast<Real>(b[i] / most);
        cycle(0, L.b, L.x);
        for (std::size_t i = 0; i < n; ++i) z[i] = most * static_cast<double>(L.x[i]);
    }
}

// Sets the ghosts of x too.
template <class Real>
void Multigrid::CycleIn<Real>::solveCoarsest(const std::vector<Real>& b, std::vector<Real>& x) {
    if (!rest_) {
        const Eigen::VectorXd right =
            Eigen::Map<const Eigen::VectorX<Real>>(b.data(), levels_.back()->matrix->rows).template cast<double>();
        Eigen::VectorXd y;
        if (symmetry_ == Symmetry::Full)
            y = coarsest_.solve(right);
        else
            y = coarsestGeneral_.solve(right);
        for (std::size_t i = 0; i < static_cast<std::size_t>(y.size()); ++i)
            x[i] = static_cast<Real>(y[static_cast<Eigen::Index>(i)]);
        return;
    }
    Rest& R = *rest_;
    std::copy_n(b.begin(), R.mine.size(), R.mine.begin());
    ranks_.gather(R.mine, R.rows, R.gathered);
    std::transform(R.gathered.begin(), R.gathered.end(), R.b.begin(), [](double v) { return static_cast<Real>(v); });
    R.cycle->cycle(0, R.b, R.x);
    for (std::size_t i = 0; i < R.number.size(); ++i) x[i] = R.x[R.number[i]];
}

template <class Real>
void Multigrid::CycleIn<Real>::cycle(std::size_t l, const std::vector<Real>& b, std::vector<Real>& x) {
    if (l + 1 == levels_.size()) return solveCoarsest(b, x);
    Level& L = *levels_[l];
    const SparseOf<Real>& A = L.smoothed();
    const bool finest = l == 0 && !whole_, aboveCoarsest = l + 2 == levels_.size();
    Level& C = *levels_[l + 1];
    gaussSeidelFromZero(A, b, x);
    for (int pass = 0; pass < (finest ? 1 : 2); ++pass) {
        L.halo.exchange(x);
        std::fill(C.b.begin(), C.b.end(), Real(0));
        for (std::size_t i = 0; i < static_cast<std::size_t>(A.rows); ++i) {
            // What the sweep from zero has left of a row is that which it had not known yet.
            Real s = pass == 0 ? Real(0) : b[i] - A.diag[i] * x[i];
            for (auto k = pass == 0 ? A.above[i] : A.rowStart[i]; k < A.rowStart[i + 1]; ++k) s -= A.term(k, x);
            C.b[static_cast<std::size_t>(L.aggregate[i])] += s;
        }
        cycle(l + 1, C.b, C.x);
        // Piecewise constant corrections fall short of smooth errors, so they are stretched. The factor is a first
        // choice, not yet tuned.
        const auto known = aboveCoarsest ? L.stored : static_cast<std::size_t>(A.rows);
        for (std::size_t i = 0; i < known; ++i) x[i] += Real(1.4) * C.x[static_cast<std::size_t>(L.aggregate[i])];
        if (!aboveCoarsest) L.halo.exchange(x);
        gaussSeidel(A, b, x, pass == 1);
    }
    if (!finest) {
        L.halo.exchange(x);
        gaussSeidel(A, b, x, false);
    }
}

Multigrid::Multigrid(const Sparse& sample, const Halo& halo, const Ranks& ranks, const Kind& kind)
    : ranks_(ranks), halo_(halo), symmetry_(kind.symmetry) {
    if (kind.precision == Precision::Mixed)
        cycle_ = std::make_unique<CycleIn<float>>(sample, halo, ranks, kind.symmetry);
    else
        cycle_ = std::make_unique<CycleIn<double>>(sample, halo, ranks, kind.symmetry);
}

Multigrid::~Multigrid() = default;
int Multigrid::levels() const {
    return cycle_->levels();
}

Multigrid::Outcome Multigrid::solve(const Sparse& A, const std::vector<double>& rhs, std::vector<double>& x,
                                    double reduction, int most, bool singular) {
    cycle_->update(A);
    if (symmetry_ == Symmetry::None) return solveGeneral(A, rhs, x, reduction, most);
    const auto n = static_cast<std::size_t>(A.rows), stored = x.size();
    const double all = ranks_.sum(static_cast<double>(n));
    const auto dropMean = [&](std::vector<double>& v) {
        if (!singular) return;
        double s = 0.0;
        for (std::size_t i = 0; i < n; ++i) s += v[i];
        const double mean = ranks_.sum(s) / all;
        for (std::size_t i = 0; i < n; ++i) v[i] -= mean;
    };
    const auto times = [&](std::vector<double>& v, std::vector<double>& out) { return product(A, halo_, v, out); };
    std::vector<double> r(stored, 0.0), z(stored, 0.0), p(stored, 0.0), q(stored, 0.0);
    times(x, q);
    for (std::size_t i = 0; i < n; ++i) r[i] = rhs[i] - q[i];
    dropMean(r);
    double squares = 0.0;
    for (std::size_t i = 0; i < n; ++i) squares += r[i] * r[i];
    const double first = std::sqrt(ranks_.sum(squares));
    double norm = first, rz = 0.0, a = 0.0;
    int it = 0;
    while (it < most && norm > reduction * first && norm > 0.0) {
        cycle_->apply(r, z);
        dropMean(z);
        // Conjugate gradients for a cycle that is not the same every time: beta = (r - r_before) . z / (r . z)_before,
        // with r - r_before = -a q.
        double pair[2] = {0.0, 0.0};
        for (std::size_t i = 0; i < n; ++i) {
            pair[0] += r[i] * z[i];
            pair[1] -= a * q[i] * z[i];
        }
        ranks_.sum(std::span<double>(pair, 2));
        const double beta = it > 0 ? pair[1] / rz : 0.0;
        rz = pair[0];
        for (std::size_t i = 0; i < n; ++i) p[i] = z[i] + beta * p[i];
        const double pq = ranks_.sum(times(p, q));
        if (!(std::abs(pq) > 0.0)) break;
        a = rz / pq;
        squares = 0.0;
        for (std::size_t i = 0; i < n; ++i) {
            x[i] += a * p[i];
            r[i] -= a * q[i];
            squares += r[i] * r[i];
        }
        norm = std::sqrt(ranks_.sum(squares));
        ++it;
    }
    dropMean(x);
    halo_.exchange(x);
    return {it, first > 0.0 ? norm / first : 0.0};
}

Multigrid::Outcome Multigrid::solveGeneral(const Sparse& A, const std::vector<double>& rhs, std::vector<double>& x,
                                           double reduction, int most) {
    constexpr std::size_t kKept = 8;
    const auto n = static_cast<std::size_t>(A.rows), stored = x.size();
    const auto dot = [&](const std::vector<double>& a, const std::vector<double>& b) {
        double s = 0.0;
        for (std::size_t i = 0; i < n; ++i) s += a[i] * b[i];
        return s;
    };
    struct Direction {
        std::vector<double> p, q;  ///< q = A p, of length 1
    };
    std::vector<Direction> kept;
    std::vector<double> r(stored, 0.0);
    product(A, halo_, x, r);
    for (std::size_t i = 0; i < n; ++i) r[i] = rhs[i] - r[i];
    const double first = std::sqrt(ranks_.sum(dot(r, r)));
    double norm = first;
    int it = 0;
    for (; it < most && norm > reduction * first && norm > 0.0; ++it) {
        const auto place = static_cast<std::size_t>(it) % kKept;
        if (kept.size() <= place) kept.push_back({std::vector<double>(stored, 0.0), std::vector<double>(stored, 0.0)});
        // The oldest direction makes room: it is worked over.
        std::vector<double> p(stored, 0.0), q(stored, 0.0);
        cycle_->apply(r, p);
        product(A, halo_, p, q);
        std::vector<double> share(kept.size(), 0.0);
        for (std::size_t k = 0; k < kept.size(); ++k)
            if (k != place) share[k] = dot(q, kept[k].q);
        ranks_.sum(std::span<double>(share));
        for (std::size_t k = 0; k < kept.size(); ++k) {
            if (share[k] == 0.0) continue;
            for (std::size_t i = 0; i < n; ++i) {
                p[i] -= share[k] * kept[k].p[i];
                q[i] -= share[k] * kept[k].q[i];
            }
        }
        double pair[2] = {dot(q, q), dot(r, q)};
        ranks_.sum(std::span<double>(pair, 2));
        if (!(pair[0] > 0.0)) break;
        const double length = std::sqrt(pair[0]), a = pair[1] / length;
        double squares = 0.0;
        for (std::size_t i = 0; i < n; ++i) {
            p[i] /= length;
            q[i] /= length;
            x[i] += a * p[i];
            r[i] -= a * q[i];
            squares += r[i] * r[i];
        }
        norm = std::sqrt(ranks_.sum(squares));
        std::swap(kept[place].p, p);
        std::swap(kept[place].q, q);
    }
    halo_.exchange(x);
    return {it, first > 0.0 ? norm / first : 0.0};
}

}  // namespace cvane::flow
