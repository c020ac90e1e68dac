#include <fmt/format.h>

#include "command/groups.h"

namespace cvane::command {
using nlohmann::json;

namespace {
// A dash in running text would be drawn as a hyphen.
std::string roff(const std::string& text) {
    std::string out;
    for (const char c : text) {
        if (c == '-' || c == '\\') out += '\\';
        out += c;
    }
    return out.starts_with('.') || out.starts_with('\'') ? fmt::format("\\&{}", out) : out;
}

// The page in section 1 of the system's manual, from the table of actions.
Outcome manual(const json&, const Talk&) {
    std::string text =
        ".TH CVANE 1 \"\" \"Crisp Vane\" \"User commands\"\n.SH NAME\ncvane \\- virtual wind tunnel without a window\n"
        ".SH SYNOPSIS\n.B cvane\n.I COMMAND\n.RI [ ARGUMENTS ]\n.RB [ \\-\\-json ]\n.SH DESCRIPTION\n"
        "From a surface file to coefficients and pressures. Most commands work on a campaign, a folder that holds "
        "settings, grids, runs and results. With\n.B \\-\\-json\na command prints one JSON object a line: news while "
        "it works, then its outcome or an error.\n.SH COMMANDS\n";
    for (const auto& action : actions()) {
        text += fmt::format(".SS \"{}", roff(action.name));
        for (const auto& a : action.arguments)
            if (a.positional) text += fmt::format(fmt::runtime(a.required ? " {}" : " [{}]"), roff(a.name));
        text += fmt::format("\"\n{}.\n", roff(action.help));
        for (const auto& a : action.arguments) {
            if (a.positional && a.name == "campaign") continue;
            text += fmt::format(
                ".TP\n.B {}{}\n{}{}\n", a.positional ? "" : "\\-\\-", roff(a.name), roff(a.help),
                a.oneOf.empty() ? "" : fmt::format(" ({})", roff(fmt::format("{}", fmt::join(a.oneOf, ", ")))));
        }
    }
    text +=
        ".SH EXIT STATUS\n.TP\n.B 0\ndone and settled\n.TP\n.B 1\na point failed or diverged\n.TP\n.B 2\nbad input\n"
        ".TP\n.B 3\na point ended unsteady\n.TP\n.B 4\nstopped\n.SH SEE ALSO\n.BR crisp\\-vane (1),\n"
        ".BR cvane\\-solve (1)\n";
    return {{{"page", text}}, text, 0};
}
}  // namespace

std::vector<Action> manualActions() {
    return {{"manual", "this program's page for man", {}, manual}};
}

}  // namespace cvane::command
