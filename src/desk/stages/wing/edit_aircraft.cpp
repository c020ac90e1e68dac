#include "desk/stages/wing/edit_aircraft.h"

#include <fmt/format.h>

#include <algorithm>

namespace cvane::desk {

QPushButton* rowButton(QWidget* of, QBoxLayout* row, const QString& words, const char* name, const QString& tip,
                       const std::function<void()>& does) {
    auto* b = new QPushButton(words);
    b->setObjectName(name);
    b->setToolTip(tip);
    constexpr int kNarrow = 20;  // [pixels]
    b->setMinimumWidth(kNarrow);
    row->addWidget(b);
    if (does) QObject::connect(b, &QPushButton::clicked, of, does);
    return b;
}

std::string freeName(const std::string& wanted, const std::function<bool(const std::string&)>& taken) {
    std::string name = wanted;
    for (int n = 2; taken(name); ++n) name = fmt::format("{} {}", wanted, n);
    return name;
}

std::string freePartName(const std::string& wanted, const wing::Aircraft& a) {
    return freeName(wanted, [&](const std::string& name) {
        const auto among = [&](const auto& all) {
            return std::any_of(all.begin(), all.end(), [&](const auto& x) { return x.name == name; });
        };
        return among(a.surfaces) || among(a.bodies) || among(a.propellers);
    });
}

}  // namespace cvane::desk
