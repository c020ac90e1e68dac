#pragma once
#include <iostream>
#include <nlohmann/json.hpp>

namespace cvane::campaign {

/// One JSON line of the solver's output, which whoever started it reads: progress.jsonl.
inline void say(const nlohmann::json& line) {
    std::cout << line.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace) << std::endl;
}

}  // namespace cvane::campaign
