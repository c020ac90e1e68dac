#include "base/text.h"

#include <cstddef>

namespace cvane::base {

namespace {
// Bytes of the UTF-8 sequence that begins here; 0: none does. Source: RFC 3629, section 4.
std::size_t sequenceAt(std::string_view t, std::size_t i) {
    const auto at = [&](std::size_t k) { return i + k < t.size() ? static_cast<unsigned char>(t[i + k]) : 0u; };
    const auto tail = [&](std::size_t k) { return at(k) >= 0x80 && at(k) <= 0xbf; };
    const unsigned c = at(0);
    if (c < 0x80) return 1;
    if (c >= 0xc2 && c <= 0xdf) return tail(1) ? 2 : 0;
    if (c >= 0xe0 && c <= 0xef) {
        const bool second = c == 0xe0   ? at(1) >= 0xa0 && at(1) <= 0xbf
                            : c == 0xed ? at(1) >= 0x80 && at(1) <= 0x9f
                                        : tail(1);
        return second && tail(2) ? 3 : 0;
    }
    if (c >= 0xf0 && c <= 0xf4) {
        const bool second = c == 0xf0   ? at(1) >= 0x90 && at(1) <= 0xbf
                            : c == 0xf4 ? at(1) >= 0x80 && at(1) <= 0x8f
                                        : tail(1);
        return second && tail(2) && tail(3) ? 4 : 0;
    }
    return 0;
}
}  // namespace

std::string printable(std::string_view text) {
    std::string out;
    for (std::size_t i = 0; i < text.size();) {
        const std::size_t n = sequenceAt(text, i);
        const auto c = static_cast<unsigned char>(text[i]);
        // The control characters beyond ASCII are U+0080 to U+009F.
        const bool control =
            n == 1 ? c < 0x20 || c == 0x7f : n == 2 && c == 0xc2 && static_cast<unsigned char>(text[i + 1]) < 0xa0;
        if (n == 0 || control)
            out += '?';
        else
            out.append(text.substr(i, n));
        i += n == 0 ? 1 : n;
    }
    return out;
}

std::string csvWord(const std::string& word) {
    if (word.find_first_of(",\"\n") == std::string::npos) return word;
    std::string out = "\"";
    for (const char c : word) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + "\"";
}

std::string wrapped(std::string_view words, std::size_t width, std::string_view indent) {
    std::string out, line;
    while (!words.empty()) {
        const auto blank = words.find(' ');
        const auto word = words.substr(0, blank);
        if (!line.empty() && line.size() + 1 + word.size() > width) {
            out += line + "\n";
            line = indent;
            line += word;
        } else {
            line += (line.empty() ? "" : " ");
            line += word;
        }
        words.remove_prefix(blank == std::string_view::npos ? words.size() : blank + 1);
    }
    return out + line;
}

bool isUtf8(std::string_view text) {
    for (std::size_t i = 0; i < text.size();) {
        const std::size_t n = sequenceAt(text, i);
        if (n == 0) return false;
        i += n;
    }
    return true;
}

}  // namespace cvane::base
