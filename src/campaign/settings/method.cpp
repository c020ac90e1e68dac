#include "campaign/settings/method.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.h"
#include "base/text.h"
#include "campaign/settings/schedule.h"

namespace cvane::campaign {

const MethodName& nameOf(Method method) {
    return *std::find_if(kMethods.begin(), kMethods.end(), [&](const auto& m) { return m.method == method; });
}

Method methodNamed(const std::string& id) {
    std::string all;
    for (const auto& m : kMethods) {
        if (m.id == id) return m.method;
        all += all.empty() ? m.id : fmt::format(", {}", m.id);
    }
    throw base::InputError(fmt::format("\"{}\" is no method.", base::printable(id)), "method",
                           fmt::format("Choose one of: {}.", all));
}

std::vector<Method> listOf(Methods methods) {
    switch (methods) {
        case Methods::Field:
            return {Method::Field};
        case Methods::LiftingSurface:
            return {Method::LiftingSurface};
        case Methods::Both:
            return {Method::LiftingSurface, Method::Field};
        case Methods::Panels:
            return {Method::Panels};
        case Methods::PanelsAndField:
            return {Method::Panels, Method::Field};
        case Methods::All:
            return {Method::LiftingSurface, Method::Panels, Method::Field};
    }
    return {};
}

}  // namespace cvane::campaign
