#include "campaign/store/monitor.h"

#include <algorithm>
#include <cstdlib>
#include <fstream>
#include <iterator>
#include <sstream>

#include "base/errors.h"
#include "campaign/store/run_order.h"
#include "readout/re_reference.h"

namespace cvane::campaign {

const std::vector<double>* Monitor::column(const std::string& name) const {
    for (std::size_t i = 0; i < names.size(); ++i)
        if (names[i] == name) return &columns[i];
    return nullptr;
}

Monitor readMonitor(const std::filesystem::path& folder) {
    Monitor m;
    std::error_code ec;
    if (!std::filesystem::is_regular_file(folder / "monitor.csv", ec)) return m;
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

Monitor readMonitor(const std::filesystem::path& folder, const air::Reference& to) {
    Monitor m = readMonitor(folder);
    flow::Case c;
    try {
        c = readOrder(folder).flowCase;
    } catch (const base::InputError&) {
        return m;  // the order is damaged, which the point's message says
    }
    std::vector<double>* columns[std::size(air::kNamedCoefficients)];
    for (std::size_t k = 0; k < std::size(columns); ++k) {
        const auto it = std::find(m.names.begin(), m.names.end(), air::kNamedCoefficients[k].name);
        if (it == m.names.end()) return m;
        columns[k] = &m.columns[static_cast<std::size_t>(it - m.names.begin())];
    }
    if (!(c.reference.area > 0.0 && to.area > 0.0 && to.length > 0.0 && to.span > 0.0)) return m;
    for (std::size_t i = 0; i < columns[0]->size(); ++i) {
        air::Coefficients row;
        for (std::size_t k = 0; k < std::size(columns); ++k) row.*air::kNamedCoefficients[k].member = (*columns[k])[i];
        row = readout::onReference(row, c.wind, c.reference, to);
        for (std::size_t k = 0; k < std::size(columns); ++k) (*columns[k])[i] = row.*air::kNamedCoefficients[k].member;
    }
    return m;
}

}  // namespace cvane::campaign
