#pragma once
#include <array>
#include <span>
#include <string_view>
#include <vector>

#include "flow/state.h"

namespace cvane::flow {

/// Whether values at earlier steps of time count.
enum class Inertia {
    None,
    OfGas,  ///< of compressible flow
    Always
};

/// One of the quantities that every cell carries. What is kept, sent, averaged and written goes over kVariables, so
/// that another one is one line there and its field in State.
struct Variable {
    std::string_view id;
    std::vector<double> State::*scalar;  ///< its values in the state: of one number a cell,
    std::vector<Vec3> State::*vector;    ///< or of three; the other is null
    Inertia inertia;

    constexpr std::size_t width() const { return vector ? 3 : 1; }
    /// Calls use(values) with its field of the state.
    template <class S, class Use>
    void visit(S& state, Use&& use) const {
        if (vector)
            use(state.*vector);
        else
            use(state.*scalar);
    }
};

/// Those of compressible flow alone stand behind the others.
inline constexpr std::array<Variable, 7> kVariables{{{"velocity", nullptr, &State::U, Inertia::Always},
                                                     {"pressure", &State::p, nullptr, Inertia::OfGas},
                                                     {"turbulence 1", &State::first, nullptr, Inertia::Always},
                                                     {"turbulence 2", &State::second, nullptr, Inertia::Always},
                                                     {"eddy viscosity", &State::nuT, nullptr, Inertia::None},
                                                     {"total enthalpy", &State::enthalpy, nullptr, Inertia::Always},
                                                     {"density", &State::density, nullptr, Inertia::Always}}};

inline std::span<const Variable> variablesOf(const State& s) {
    return std::span(kVariables).first(s.compressible ? 7 : 5);
}

enum class Which { All, WithInertia };
inline bool hasInertia(const Variable& v, const State& s) {
    return v.inertia == Inertia::Always || (v.inertia == Inertia::OfGas && s.compressible);
}
inline bool counts(const Variable& v, const State& s, Which which) {
    return which == Which::All || hasInertia(v, s);
}
/// Numbers in a cell's row.
inline std::size_t rowWidth(const State& s, Which which = Which::All) {
    std::size_t width = 0;
    for (const Variable& v : variablesOf(s)) width += counts(v, s, which) ? v.width() : 0;
    return width;
}

inline void fillWithZero(std::vector<double>& field, std::size_t entries) {
    field.assign(entries, 0.0);
}
inline void fillWithZero(std::vector<Vec3>& field, std::size_t entries) {
    field.assign(entries, Vec3::Zero());
}

/// The values of cells 0 .. cells-1, one row behind the other in the order of variablesOf(state).
std::vector<double> rowsOf(const State& state, std::size_t cells, Which which = Which::All);
/// The way back.
void takeRows(std::span<const double> rows, State& state, Which which = Which::All);
/// Collective: fills the ghosts of every variable.
void exchangeAll(const Piece& piece, State& state);

}  // namespace cvane::flow
