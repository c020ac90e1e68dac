#pragma once
#include <QString>

#include "base/vec3.h"

namespace cvane::desk {

/// Values that are typed into tables and lines. Reading returns false and leaves the value alone when the text does not
/// fit.
QString textOf(const Vec3& v);
bool readVector(const QString& text, Vec3& v);
bool readNumber(const QString& text, double& v);
bool readPositive(const QString& text, double& v);

}  // namespace cvane::desk
