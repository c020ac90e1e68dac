#pragma once
#include <filesystem>
#include <string>
#include <vector>

namespace cvane::paper {

/// A heading and the line of the contents that names it. Places are shares of the page from its top left corner.
struct Heading {
    std::string text;
    int level = 1;
    struct Place {
        std::size_t page = 0;  ///< from 0
        double top = 0.0, bottom = 0.0, left = 0.0, right = 1.0;
    };
    Place line, self;
};

/// Makes the lines of the contents lead to their headings, and gives the file the same as an outline beside its pages.
/// Throws InputError: a file that cannot be read or written.
void linkHeadings(const std::filesystem::path& pdf, const std::vector<Heading>& headings);

}  // namespace cvane::paper
