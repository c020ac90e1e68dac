#include "cli/screen.h"

#include <fmt/format.h>
#include <unistd.h>

namespace cvane::cli {
using nlohmann::json;

std::string line(const json& j) {
    return j.dump(-1, ' ', false, json::error_handler_t::replace) + "\n";
}

void tell(const json& news, bool forPrograms, const base::TimeLeft& left) {
    const bool terminal = ::isatty(STDOUT_FILENO) != 0;
    if (forPrograms) {
        if (!news.empty()) fmt::print("{}", line(news));
    } else if (news.contains("text")) {
        fmt::print("{}", news["text"].get<std::string>());
    } else if (news.contains("warning")) {
        fmt::print(stderr, "{}\n", news["warning"].get<std::string>());
    } else if (news.contains("progress") && terminal) {
        const double fraction = news["progress"].get<double>();
        fmt::print("\r{:3.0f} %  {:<40} {:<24}{}", 100.0 * fraction, news["doing"].get<std::string>(),
                   left.words(fraction), fraction >= 1.0 ? "\n" : "");
    } else if (news.contains("iteration") && terminal) {
        const double seconds = news["left_s"].get<double>();
        const bool inTime = news.value("in_time", false);
        fmt::print("\r  {} {:5d}   CL {:9.5f}   CD {:9.5f}   {:<24}",
                   news["coarse"].get<bool>() ? "coarse grid, iteration"
                   : inTime                   ? "          step of time"
                                              : "             iteration",
                   news["iteration"].get<int>(), news["CL"].get<double>(), news["CD"].get<double>(),
                   seconds > 0.0 ? base::TimeLeft::wordsFor(seconds) : "");
    }
    std::fflush(stdout);
}

int fail(bool forPrograms, const char* id, const std::string& sentence, const base::InputError* input, int code) {
    if (forPrograms) {
        json error = {{"id", id}, {"sentence", sentence}};
        if (input)
            error.update({{"what", input->problem()}, {"where", input->where()}, {"what_to_do", input->whatToDo()}});
        fmt::print("{}", line({{"error", error}}));
    } else {
        fmt::print(stderr, "{}\n", sentence);
    }
    return code;
}

}  // namespace cvane::cli
