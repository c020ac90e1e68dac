#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>
#include <map>
#include <regex>
#include <set>

// What each folder of src may include, besides itself. Linking alone does not stop an #include.
TEST(Folders, IncludeOnlyWhatStandsBelowThem) {
    const std::map<std::string, std::set<std::string>> allowed{
        {"base", {}},
        {"air", {"base"}},
        {"shape", {"base"}},
        {"vehicle", {"base", "shape"}},
        {"solid", {"base", "shape"}},
        {"panels", {"base", "air", "shape"}},
        {"section", {"base", "air", "shape"}},
        {"wing", {"base", "air", "shape", "section"}},
        {"lifting", {"base", "air", "shape", "section", "wing"}},
        {"grid", {"base", "shape"}},
        {"flow", {"base", "grid", "air", "shape"}},
        {"field", {"base", "grid", "air", "shape"}},
        {"readout", {"base", "flow", "field", "grid", "air", "shape"}},
        {"report", {"base"}},
        {"campaign",
         {"base", "air", "shape", "vehicle", "solid", "panels", "section", "wing", "lifting", "grid", "flow", "field",
          "readout"}},
        {"solve", {"base", "campaign"}},
        {"command",
         {"view", "base", "air", "shape", "vehicle", "solid", "panels", "section", "wing", "lifting", "grid", "flow",
          "field", "readout", "report", "campaign"}},
        {"cli", {"base", "command"}},
        {"view", {"base", "air", "grid", "field", "readout", "lifting", "campaign"}},
        {"desk",
         {"view", "field", "base", "air", "shape", "vehicle", "solid", "section", "wing", "lifting", "grid", "flow",
          "field", "readout", "report", "campaign", "command"}},
    };
    const std::regex include("^\\s*#include\\s+[<\"]([^>\"]+)[>\"]");
    int lines = 0;
    for (const auto& [folder, below] : allowed)
        for (const auto& entry :
             std::filesystem::recursive_directory_iterator(std::string(CVANE_SOURCE) + "/src/" + folder)) {
            if (entry.path().extension() != ".h" && entry.path().extension() != ".cpp") continue;
            std::ifstream in(entry.path());
            for (std::string line; std::getline(in, line);) {
                std::smatch m;
                if (!std::regex_search(line, m, include)) continue;
                ++lines;
                const std::string target = m[1];
                // Setting reports in type is the one place besides the window that draws with its library.
                if (folder != "desk" && entry.path().string().find("/report/paper/") == std::string::npos) {
                    const bool ofQt =
                        target.size() > 1 && target[0] == 'Q' && (target[1] == 't' || std::isupper(target[1]));
                    EXPECT_FALSE(ofQt || (target.starts_with("vtk") && folder != "view") ||
                                 target.starts_with("qcustomplot"))
                        << entry.path() << " includes " << target;
                }
                const auto slash = target.find('/');
                if (slash == std::string::npos || !allowed.contains(target.substr(0, slash))) continue;
                const std::string other = target.substr(0, slash);
                EXPECT_TRUE(other == folder || below.contains(other)) << entry.path() << " includes " << target;
            }
        }
    EXPECT_GT(lines, 200);
}
