#pragma once
#include <array>
#include <span>
#include <string_view>
#include <vector>

#include "flow/state.h"

namespace cvane::flow {

/// One of the quantities that every cell carries. What is kept, sent, averaged and written goes over kVariables, so
/// that another one is one line there and its field in State.
struct Variable {
    std::string_view id;
    std::vector<double> State::*scalar;  ///< its values in the state: of one number a cell,
    std::vector<Vec3> State::*vector;    ///< or of three; the other is null
    bool hasInertia;                     ///< its values at earlier steps of time count

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

inline constexpr std::array<Variable, 5> kVariables{{{"velocity", nullptr, &State::U, true},
                                                     {"pressure", &State::p, nullptr, false},
                                                     {"turbulence 1", &State::first, nullptr, true},
                                                     {"turbulence 2", &State::second, nullptr, true},
                                                     {"eddy viscosity", &State::nuT, nullptr, false}}};

enum class Which { All, WithInertia };
constexpr bool counts(const Variable& v, Which which) {
    return which == Which::All || v.hasInertia;
}
/// Numbers in a cell's row.
constexpr std::size_t rowWidth(Which which = Which::All) {
    std::size_t width = 0;
    for (const Variable& v : kVariables) width += counts(v, which) ? v.width() : 0;
    return width;
}

inline void fillWithZero(std::vector<double>& field, std::size_t entries) {
    field.assign(entries, 0.0);
}
inline void fillWithZero(std::vector<Vec3>& field, std::size_t entries) {
    field.assign(entries, Vec3::Zero());
}

/// The values of cells 0 .. cells-1, one row behind the other in the order of kVariables.
std::vector<double> rowsOf(const State& state, std::size_t cells, Which which = Which::All);
/// The way back.
void takeRows(std::span<const double> rows, State& state, Which which = Which::All);
/// Collective: fills the ghosts of every variable.
void exchangeAll(const Piece& piece, State& state);

}  // namespace cvane::flow
