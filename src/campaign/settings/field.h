#pragma once
#include <algorithm>
#include <functional>
#include <limits>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <type_traits>
#include <vector>

#include "base/vec3.h"
#include "grid/limits.h"

namespace cvane::campaign {

/// What a setting changes, and so what is out of date when it changes.
enum class Affects {
    Grid,       ///< the cells, and all that follows
    Flow,       ///< the flow on the same cells
    Iteration,  ///< how far and how gently the same flow is iterated
    Reading,    ///< how a result is read: reference values
    Look        ///< what is shown
};

enum class Kind { Number, Whole, Flag, Text, Word, Vector, Numbers, Things };

/// From which values a number is taken; both ends are in it unless `aboveLow`.
struct Limits {
    double low = -1e15, high = 1e15;
    bool aboveLow = false;
    grid::Range::Zero zero = grid::Range::Zero::AsOthers;
    bool hold(double v) const { return grid::Range{low, high, zero, aboveLow}.holds(v); }
    double least() const { return zero == grid::Range::Zero::Also ? std::min(low, 0.0) : low; }
    constexpr Limits() = default;
    constexpr Limits(double from, double to, bool above = false) : low(from), high(to), aboveLow(above) {}
    constexpr Limits(const grid::Range& r) : low(r.low), high(r.high), aboveLow(r.aboveLow), zero(r.zero) {}
};

/// One setting as people and files see it.
struct Field {
    std::string name;  ///< in JSON, within its group; carries the unit
    Kind kind = Kind::Number;
    bool mayBeEmpty = false;         ///< null in JSON: computed
    Limits limits;                   ///< of a number, of each of a list or vector
    std::vector<std::string> words;  ///< those that may be chosen, where kind is Word
    std::string unit;                ///< "m", "deg", "of q"; empty: none
    Affects affects = Affects::Look;
    std::string label, help;  ///< for a sheet: a few words; a sentence

    /// Throws InputError naming `path`: not of this kind, not finite, out of its range, none of the words.
    void check(const nlohmann::json& value, const std::string& path, const std::string& where) const;
    std::string rangeText() const;  ///< "0 to 20000 m", "above 0 up to 1", "frontal, side, planform or typed"
};

/// A setting and where it is kept in its owner.
template <class Owner>
struct Row : Field {
    std::function<nlohmann::json(const Owner&)> get;
    std::function<void(Owner&, const nlohmann::json&)> put;  ///< of a value that was checked
};

namespace detail {
template <class T>
struct OptionalOf : std::false_type {
    using Value = T;
};
template <class T>
struct OptionalOf<std::optional<T>> : std::true_type {
    using Value = T;
};

template <class T>
constexpr Kind kindOf() {
    if constexpr (std::is_same_v<T, bool>)
        return Kind::Flag;
    else if constexpr (std::is_same_v<T, int>)
        return Kind::Whole;
    else if constexpr (std::is_floating_point_v<T>)
        return Kind::Number;
    else if constexpr (std::is_same_v<T, Vec3>)
        return Kind::Vector;
    else if constexpr (std::is_same_v<T, std::vector<double>>)
        return Kind::Numbers;
    else if constexpr (std::is_same_v<T, std::string>)
        return Kind::Text;
    else
        return Kind::Word;
}

template <class T>
nlohmann::json jsonOf(const T& v, const std::vector<std::string>& words) {
    if constexpr (OptionalOf<T>::value)
        return v ? jsonOf(*v, words) : nlohmann::json(nullptr);
    else if constexpr (std::is_same_v<T, Vec3>)
        return {v.x(), v.y(), v.z()};
    else if constexpr (std::is_enum_v<T>)
        return words[static_cast<std::size_t>(v)];
    else
        return v;
}

template <class T>
void take(T& v, const nlohmann::json& j, const std::vector<std::string>& words) {
    if constexpr (OptionalOf<T>::value) {
        if (j.is_null()) {
            v.reset();
            return;
        }
        typename OptionalOf<T>::Value inner{};
        take(inner, j, words);
        v = inner;
    } else if constexpr (std::is_same_v<T, Vec3>) {
        v = Vec3(j.at(0).get<double>(), j.at(1).get<double>(), j.at(2).get<double>());
    } else if constexpr (std::is_same_v<T, std::vector<double>>) {
        v = j.is_number() ? T{j.get<double>()} : j.get<T>();
    } else if constexpr (std::is_enum_v<T>) {
        for (std::size_t i = 0; i < words.size(); ++i)
            if (words[i] == j.get<std::string>()) v = static_cast<T>(i);
    } else {
        v = j.get<T>();
    }
}
}  // namespace detail

/// A row from a member: `at` returns a reference to it, its type says the kind. Words of an enumeration stand in its
/// order.
template <class Owner, class At>
Row<Owner> row(std::string name, At at, Affects affects, std::string label, std::string unit, Limits limits,
               std::string help, std::vector<std::string> words = {}) {
    using T = std::remove_cvref_t<decltype(at(std::declval<Owner&>()))>;
    using Value = typename detail::OptionalOf<T>::Value;
    Row<Owner> r;
    r.name = std::move(name);
    r.kind = words.empty() ? detail::kindOf<Value>() : Kind::Word;
    r.mayBeEmpty = detail::OptionalOf<T>::value;
    r.limits = limits;
    if constexpr (std::is_same_v<Value, int>) {
        r.limits.low = std::max(r.limits.low, static_cast<double>(std::numeric_limits<int>::min()));
        r.limits.high = std::min(r.limits.high, static_cast<double>(std::numeric_limits<int>::max()));
    }
    r.words = words;
    r.unit = std::move(unit);
    r.affects = affects;
    r.label = std::move(label);
    r.help = std::move(help);
    r.get = [at, words](const Owner& o) { return detail::jsonOf(at(const_cast<Owner&>(o)), words); };  // only read
    r.put = [at, words](Owner& o, const nlohmann::json& j) { detail::take(at(o), j, words); };
    return r;
}

/// The name among `known` that is nearest to a misspelt one; empty when none is near.
std::string nearestName(const std::string& name, const std::vector<std::string>& known);

}  // namespace cvane::campaign
