#include "desk/stages/typed_values.h"

#include <QStringList>
#include <cmath>

namespace cvane::desk {

QString textOf(const Vec3& v) {
    return QString("%1 %2 %3").arg(v.x(), 0, 'g', 5).arg(v.y(), 0, 'g', 5).arg(v.z(), 0, 'g', 5);
}

bool readVector(const QString& text, Vec3& v) {
    const auto words = text.simplified().replace(',', ' ').split(' ', Qt::SkipEmptyParts);
    if (words.size() != 3) return false;
    Vec3 read;
    for (int k = 0; k < 3; ++k)
        if (!readNumber(words[k], read[k])) return false;
    v = read;
    return true;
}

bool readNumber(const QString& text, double& v) {
    bool ok = false;
    const double read = text.toDouble(&ok);
    if (!ok || !std::isfinite(read)) return false;
    v = read;
    return true;
}

bool readPositive(const QString& text, double& v) {
    double read = 0.0;
    if (!readNumber(text, read) || !(read > 0.0)) return false;
    v = read;
    return true;
}

}  // namespace cvane::desk
