// The headless program: every action of the program for scripts. It parses, calls and prints; what is done is in
// src/command. Exit codes: 0 done and settled, 1 a point failed or diverged, 2 bad input or usage, 3 a point ended
// unsteady, 4 stopped by the user.
#include <fmt/format.h>
#include <signal.h>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <atomic>
#include <map>

#include "base/errors.h"
#include "base/time_left.h"
#include "cli/screen.h"
#include "command/action.h"

using namespace cvane;
using nlohmann::json;

namespace {

std::atomic<bool> interrupted{false};

/// What was typed for one action, by the names of its arguments.
struct Typed {
    CLI::App* app = nullptr;
    std::map<std::string, std::string> text;
    std::map<std::string, std::vector<std::string>> texts;
    std::map<std::string, double> number;
    std::map<std::string, std::vector<double>> numbers;
    std::map<std::string, bool> flag;
};

void declare(Typed& t, const command::Action& action) {
    using enum command::Argument::Kind;
    for (const auto& a : action.arguments) {
        const std::string name = a.positional ? a.name : "--" + a.name;
        CLI::Option* option = nullptr;
        switch (a.kind) {
            case Text:
            case Output:
                option = t.app->add_option(name, t.text[a.name], a.help);
                break;
            case Texts:
                option = t.app->add_option(name, t.texts[a.name], a.help);
                break;
            case Number:
            case Whole:
                option = t.app->add_option(name, t.number[a.name], a.help);
                break;
            case Numbers:
                option = t.app->add_option(name, t.numbers[a.name], a.help)->expected(a.count > 0 ? a.count : -1);
                break;
            case Flag:
                option = t.app->add_flag(name, t.flag[a.name], a.help);
                break;
        }
        if (a.required) option->required();
    }
}

json argumentsOf(const Typed& t, const command::Action& action) {
    using enum command::Argument::Kind;
    json out = json::object();
    for (const auto& a : action.arguments) {
        if (t.app->count(a.positional ? a.name : "--" + a.name) == 0) continue;
        switch (a.kind) {
            case Text:
            case Output:
                out[a.name] = t.text.at(a.name);
                break;
            case Texts:
                out[a.name] = t.texts.at(a.name);
                break;
            case Number:
            case Whole:
                out[a.name] = t.number.at(a.name);
                break;
            case Numbers:
                out[a.name] = t.numbers.at(a.name);
                break;
            case Flag:
                out[a.name] = t.flag.at(a.name);
                break;
        }
    }
    return out;
}

/// Of an action whose own --json takes a file: with "-" it writes its value to the screen, and so its errors.
bool writesJson(const command::Action& action) {
    return std::any_of(action.arguments.begin(), action.arguments.end(),
                       [](const auto& a) { return a.name == "json"; });
}

/// Whether JSON is wanted, of a command line that may be wrong.
bool asksForJson(int argc, char** argv) {
    return std::any_of(argv + 1, argv + argc, [](const char* word) { return std::string_view(word) == "--json"; });
}

}  // namespace

int main(int argc, char** argv) {
    CLI::App app{"Crisp Vane without a window: from a surface file to coefficients and pressures"};
    app.require_subcommand(1);
    bool forPrograms = false;
    std::map<std::string, Typed> typed;
    for (const auto& action : command::actions()) {
        Typed& t = typed[action.name];
        t.app = app.add_subcommand(action.name, action.help);
        if (!writesJson(action))
            t.app->add_flag("--json", forPrograms, "one JSON object a line: news, then the outcome or the error");
        declare(t, action);
    }
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        if (e.get_exit_code() != 0 && asksForJson(argc, argv)) return cli::fail(true, "usage", e.what(), nullptr, 2);
        return app.exit(e) == 0 ? 0 : 2;
    }

    struct sigaction act {};
    act.sa_handler = [](int) { interrupted = true; };
    sigaction(SIGINT, &act, nullptr);
    sigaction(SIGTERM, &act, nullptr);
    bool errorsInJson = forPrograms;
    try {
        for (const auto& action : command::actions()) {
            if (!typed[action.name].app->parsed()) continue;
            const bool onScreen = writesJson(action) && typed[action.name].text["json"] == "-";
            errorsInJson = forPrograms || onScreen;
            const base::TimeLeft left;
            const auto outcome =
                command::perform(action.name, argumentsOf(typed[action.name], action), [&](const json& news) {
                    cli::tell(news, forPrograms, left);
                    return !interrupted.load();
                });
            fmt::print("{}",
                       forPrograms ? cli::line({{"outcome", outcome.value}, {"code", outcome.code}}) : outcome.text);
            return outcome.code;
        }
        return 2;
    } catch (const base::Cancelled&) {
        return cli::fail(errorsInJson, "stopped", "Stopped; nothing half-made is left.", nullptr, 4);
    } catch (const base::InputError& e) {
        return cli::fail(errorsInJson, "input", e.what(), &e, 2);
    } catch (const std::exception& e) {
        return cli::fail(errorsInJson, "internal", fmt::format("Something went wrong: {}", e.what()), nullptr, 1);
    }
}
