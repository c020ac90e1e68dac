#pragma once
#include <array>
#include <string>

namespace cvane::campaign {

/// How the flow of a point is found.
enum class Method { Field, LiftingSurface, Panels };

struct MethodName {
    Method method;
    const char* id;     ///< in files, commands and names of points
    const char* shown;  ///< to people
};
/// All there are, in the order in which they are shown. Each has a runner (campaign/methods/runner.h).
inline constexpr std::array kMethods{MethodName{Method::Field, "field", "field"},
                                     MethodName{Method::LiftingSurface, "lifting_surface", "lifting surface"},
                                     MethodName{Method::Panels, "panels", "panels"}};

const MethodName& nameOf(Method method);
/// Throws InputError: there is none of this id; it lists those that there are.
Method methodNamed(const std::string& id);

}  // namespace cvane::campaign
