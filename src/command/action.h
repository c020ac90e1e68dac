#pragma once
#include <functional>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace cvane::command {

/// What an action takes, by the name of its field in JSON and of its option on the command line.
struct Argument {
    enum class Kind {
        Text,
        Texts,
        Number,
        Numbers,
        Whole,
        Flag,
        Output  ///< a text: the file that is written, which may not be one that a campaign keeps; "-": the screen
    };
    std::string name;
    Kind kind = Kind::Text;
    std::string help;
    bool required = false;
    bool positional = false;              ///< on the command line without a name before it
    int count = 0;                        ///< of Numbers: how many; 0: any
    std::vector<std::string> oneOf = {};  ///< of Text: the only ones that are taken; empty: any
    double low = -1e300, high = 1e300;
};

/// What an action leads to: for programs, for people, for a shell.
struct Outcome {
    nlohmann::json value = nlohmann::json::object();
    std::string text;
    int code = 0;  ///< 0 done, 1 a point failed, 3 a point ended unsteady, 4 stopped by the user
};

/// Called with one JSON object a piece of news: {"progress": 0.3, "doing": "..."}, {"text": "..."}, {"warning": "..."},
/// {"point": .., "iteration": .., "CL": .., "CD": ..}. False asks the action to stop.
using Talk = std::function<bool(const nlohmann::json&)>;

/// Something that the program does, with JSON in and out; every window and command line goes through these.
struct Action {
    std::string name, help;
    std::vector<Argument> arguments;
    std::function<Outcome(const nlohmann::json& arguments, const Talk& talk)> run;
};

const std::vector<Action>& actions();

/// Checks the arguments and does it. Throws InputError: no such action, an argument that is missing, unknown or not
/// what it should be, and what the action refuses; Cancelled when the talk asked it to stop and nothing is left of it.
Outcome perform(const std::string& action, const nlohmann::json& arguments, const Talk& talk = {});

}  // namespace cvane::command
