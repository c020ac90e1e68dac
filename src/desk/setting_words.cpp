#include "desk/setting_words.h"

#include <algorithm>
#include <vector>

#include "campaign/settings/fields.h"

namespace cvane::desk {

QString withLabels(const QString& text) {
    // The longest first: a name may begin like another.
    static const auto names = [] {
        std::vector<std::pair<QString, QString>> out;
        for (const auto& g : campaign::settingGroups())
            for (const auto& r : g.rows)
                if (!r.label.empty())
                    out.emplace_back(QString::fromStdString(g.name + "." + r.name), QString::fromStdString(r.label));
        std::sort(out.begin(), out.end(), [](auto& a, auto& b) { return a.first.size() > b.first.size(); });
        return out;
    }();
    QString out = text;
    for (const auto& [name, label] : names) out.replace(name, label);
    return out;
}

}  // namespace cvane::desk
