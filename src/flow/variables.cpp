#include "flow/variables.h"

#include <algorithm>

namespace cvane::flow {
namespace {
// The fields' numbers one behind the other: a vector's three lie together.
double* numbers(std::vector<double>& v) {
    return v.data();
}
double* numbers(std::vector<Vec3>& v) {
    return v.data()->data();
}
const double* numbers(const std::vector<double>& v) {
    return v.data();
}
const double* numbers(const std::vector<Vec3>& v) {
    return v.data()->data();
}
}  // namespace

std::vector<double> rowsOf(const State& s, std::size_t cells, Which which) {
    const std::size_t row = rowWidth(s, which);
    std::vector<double> rows(row * cells);
    std::size_t at = 0;
    for (const Variable& v : variablesOf(s)) {
        if (!counts(v, s, which)) continue;
        const std::size_t w = v.width();
        v.visit(s, [&](const auto& field) {
            for (std::size_t c = 0; c < cells; ++c) std::copy_n(numbers(field) + w * c, w, rows.data() + row * c + at);
        });
        at += w;
    }
    return rows;
}

void takeRows(std::span<const double> rows, State& s, Which which) {
    const std::size_t row = rowWidth(s, which), cells = rows.size() / row;
    std::size_t at = 0;
    for (const Variable& v : variablesOf(s)) {
        if (!counts(v, s, which)) continue;
        const std::size_t w = v.width();
        v.visit(s, [&](auto& field) {
            for (std::size_t c = 0; c < cells; ++c) std::copy_n(rows.data() + row * c + at, w, numbers(field) + w * c);
        });
        at += w;
    }
}

void exchangeAll(const Piece& p, State& s) {
    for (const Variable& v : variablesOf(s)) v.visit(s, [&](auto& field) { p.halo.exchange(field); });
}

}  // namespace cvane::flow
