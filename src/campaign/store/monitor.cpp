#include "campaign/store/monitor.h"

#include <cstdlib>
#include <fstream>
#include <sstream>

namespace cvane::campaign {

const std::vector<double>* Monitor::column(const std::string& name) const {
    for (std::size_t i = 0; i < names.size(); ++i)
        if (names[i] == name) return &columns[i];
    return nullptr;
}

Monitor readMonitor(const std::filesystem::path& folder) {
    Monitor m;
    std::ifstream in(folder / "monitor.csv");
    std::string line;
    if (!std::getline(in, line)) return m;
    std::istringstream head(line);
    for (std::string name; std::getline(head, name, ',');) m.names.push_back(name);
    m.columns.resize(m.names.size());
    while (std::getline(in, line)) {
        std::vector<double> row;
        const char* c = line.c_str();
        for (char* end = nullptr; row.size() < m.names.size(); c = end + 1) {
            row.push_back(std::strtod(c, &end));
            if (*end != ',') break;
        }
        if (row.size() != m.names.size()) continue;  // a line that is still being written
        for (std::size_t i = 0; i < row.size(); ++i) m.columns[i].push_back(row[i]);
    }
    return m;
}

}  // namespace cvane::campaign
