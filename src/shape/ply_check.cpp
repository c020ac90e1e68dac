#include "shape/ply_check.h"

#include <fmt/format.h>

#include <bit>
#include <charconv>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <optional>
#include <sstream>
#include <vector>

#include "base/errors.h"
#include "base/text.h"

namespace cvane::shape {
namespace {

enum class Type { Int8, Uint8, Int16, Uint16, Int32, Uint32, Float32, Float64 };

struct Property {
    std::string name;
    Type type;
    std::optional<Type> count;  ///< of a list: the type of its length
};
struct Element {
    std::string name;
    std::uint64_t rows = 0;
    std::vector<Property> properties;
};

constexpr std::uint64_t kMostRows = 2'000'000'000;
constexpr double kMostCorners = 1024;  ///< of one face

[[noreturn]] void fail(const std::string& what, const std::string& where) {
    throw base::InputError(what, where, "It may be damaged: export it again.");
}

std::size_t sizeOf(Type t) {
    switch (t) {
        case Type::Int8:
        case Type::Uint8:
            return 1;
        case Type::Int16:
        case Type::Uint16:
            return 2;
        case Type::Int32:
        case Type::Uint32:
        case Type::Float32:
            return 4;
        case Type::Float64:
            return 8;
    }
    return 0;
}

Type typeNamed(const std::string& name, const std::string& where) {
    const std::pair<const char*, Type> known[] = {
        {"char", Type::Int8},     {"int8", Type::Int8},       {"uchar", Type::Uint8},    {"uint8", Type::Uint8},
        {"short", Type::Int16},   {"int16", Type::Int16},     {"ushort", Type::Uint16},  {"uint16", Type::Uint16},
        {"int", Type::Int32},     {"int32", Type::Int32},     {"uint", Type::Uint32},    {"uint32", Type::Uint32},
        {"float", Type::Float32}, {"float32", Type::Float32}, {"double", Type::Float64}, {"float64", Type::Float64}};
    for (const auto& [word, type] : known)
        if (name == word) return type;
    fail(fmt::format("its header names a type \"{}\" that PLY does not have.", base::printable(name)), where);
}

/// The values after the header, one behind the other, as text or bytes.
class Values {
  public:
    Values(const std::string& bytes, std::size_t at, bool text, bool bigEndian, const std::string& where)
        : c_(bytes.data() + at), end_(bytes.data() + bytes.size()), text_(text), swap_(bigEndian), where_(where) {}
    double next(Type t) { return text_ ? nextWord() : nextBytes(t); }
    bool atEnd() {
        if (text_) skipBlanks();
        return c_ == end_;
    }

  private:
    void skipBlanks() {
        while (c_ != end_ && (*c_ == ' ' || *c_ == '\t' || *c_ == '\r' || *c_ == '\n')) ++c_;
    }
    double nextWord() {
        skipBlanks();
        double v = 0.0;
        const auto [stop, error] = std::from_chars(c_, end_, v);
        if (c_ == end_) fail("ends before all that its header announces.", where_);
        if (error != std::errc() || (stop != end_ && *stop != ' ' && *stop != '\t' && *stop != '\r' && *stop != '\n'))
            fail("holds something that is not a number.", where_);
        c_ = stop;
        return v;
    }
    template <class T>
    double as(const unsigned char* raw) const {
        T v;
        std::memcpy(&v, raw, sizeof v);
        return static_cast<double>(v);
    }
    double nextBytes(Type t) {
        const std::size_t n = sizeOf(t);
        if (static_cast<std::size_t>(end_ - c_) < n) fail("ends before all that its header announces.", where_);
        unsigned char raw[8];
        for (std::size_t i = 0; i < n; ++i) raw[swap_ ? n - 1 - i : i] = static_cast<unsigned char>(c_[i]);
        c_ += n;
        switch (t) {
            case Type::Int8:
                return as<std::int8_t>(raw);
            case Type::Uint8:
                return as<std::uint8_t>(raw);
            case Type::Int16:
                return as<std::int16_t>(raw);
            case Type::Uint16:
                return as<std::uint16_t>(raw);
            case Type::Int32:
                return as<std::int32_t>(raw);
            case Type::Uint32:
                return as<std::uint32_t>(raw);
            case Type::Float32:
                return as<float>(raw);
            case Type::Float64:
                return as<double>(raw);
        }
        return 0.0;
    }
    const char *c_, *end_;
    bool text_, swap_;
    const std::string& where_;
};

struct Header {
    bool text = true, bigEndian = false;
    std::vector<Element> elements;
    std::size_t end = 0;  ///< where the values begin
};

Header readHeader(const std::string& bytes, const std::string& where) {
    Header h;
    std::size_t at = 0;
    bool formatKnown = false;
    for (int line = 1;; ++line) {
        const auto stop = bytes.find('\n', at);
        constexpr int kMostLines = 1000;
        if (stop == std::string::npos || line > kMostLines) fail("has a header without an end.", where);
        std::istringstream in(bytes.substr(at, stop - at));
        at = stop + 1;
        std::string word, a, b, c;
        in >> word >> a >> b >> c;
        if (word == "end_header") break;
        if (word == "format") {
            if (a != "ascii" && a != "binary_little_endian" && a != "binary_big_endian")
                fail(fmt::format("its header names a format \"{}\" that PLY does not have.", base::printable(a)),
                     where);
            h.text = a == "ascii";
            h.bigEndian = a == "binary_big_endian";
            formatKnown = true;
        } else if (word == "element") {
            Element e{a, 0, {}};
            const auto [end, error] = std::from_chars(b.data(), b.data() + b.size(), e.rows);
            if (error != std::errc() || end != b.data() + b.size() || e.rows > kMostRows)
                fail(fmt::format("its header announces \"{}\" of \"{}\".", base::printable(b), base::printable(a)),
                     where);
            h.elements.push_back(e);
        } else if (word == "property") {
            if (h.elements.empty()) fail("its header has a property before any element.", where);
            std::string name = b;
            Property p{b, Type::Float32, {}};
            if (a == "list") {
                in >> name;
                p = {name, typeNamed(c, where), typeNamed(b, where)};
            } else {
                p.type = typeNamed(a, where);
            }
            if (p.name.empty()) fail("its header has a property without a name.", where);
            h.elements.back().properties.push_back(p);
        } else if (word != "ply" && word != "comment" && word != "obj_info") {
            fail(fmt::format("its header has a line \"{}\" that PLY does not have.", base::printable(word)), where);
        }
    }
    if (!formatKnown) fail("its header names no format.", where);
    h.end = at;
    return h;
}

const Element& elementNamed(const Header& h, const char* name, const std::string& where) {
    const Element* found = nullptr;
    for (const auto& e : h.elements)
        if (e.name == name) {
            if (found) fail(fmt::format("its header has two elements \"{}\".", name), where);
            found = &e;
        }
    if (!found) fail(fmt::format("its header has no element \"{}\".", name), where);
    return *found;
}
}  // namespace

void checkPly(const std::string& bytes, const std::string& where) {
    const Header h = readHeader(bytes, where);
    const Element& points = elementNamed(h, "vertex", where);
    const Element& faces = elementNamed(h, "face", where);
    for (const char* axis : {"x", "y", "z"}) {
        int found = 0;
        for (const auto& p : points.properties) found += p.name == axis && !p.count ? 1 : 0;
        if (found != 1) fail(fmt::format("its points have no coordinate \"{}\", or two.", axis), where);
    }
    int corners = 0;
    for (const auto& p : faces.properties)
        corners += p.count && (p.name == "vertex_indices" || p.name == "vertex_index") ? 1 : 0;
    if (corners != 1) fail("its faces have no list of corners, or two.", where);
    Values values(bytes, h.end, h.text, h.bigEndian, where);
    for (const auto& e : h.elements)
        for (std::uint64_t row = 0; row < e.rows; ++row) {
            for (const auto& p : e.properties) {
                if (!p.count) {
                    const double v = values.next(p.type);
                    if (&e == &points && p.name.size() == 1 && p.name[0] >= 'x' && p.name[0] <= 'z' &&
                        !std::isfinite(v))
                        fail(fmt::format("point {} has a coordinate that is not a number.", row + 1), where);
                    continue;
                }
                const double n = values.next(*p.count);
                const bool ofFace = &e == &faces && (p.name == "vertex_indices" || p.name == "vertex_index");
                if (!(n >= (ofFace ? 3.0 : 0.0)) || n > kMostCorners || n != std::floor(n))
                    fail(fmt::format("row {} of \"{}\" has a list of {} values.", row + 1, e.name, n), where);
                for (int k = 0; k < static_cast<int>(n); ++k) {
                    const double v = values.next(p.type);
                    if (ofFace && (!(v >= 0.0) || v >= static_cast<double>(points.rows) || v != std::floor(v)))
                        fail(fmt::format("face {} has a corner {} of {} points.", row + 1, v, points.rows), where);
                }
            }
            if (e.properties.empty()) break;
        }
    if (!values.atEnd()) fail("goes on after all that its header announces.", where);
}

}  // namespace cvane::shape
