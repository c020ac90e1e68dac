#pragma once
#include <QApplication>
#include <QColor>

namespace cvane::desk {

/// Colours of the window: paper, ink and one warm accent for what is current.
namespace look {
inline const QColor paper(0xf7, 0xf4, 0xec), sheet(0xff, 0xfd, 0xf8), ink(0x26, 0x2b, 0x33), faint(0x8b, 0x86, 0x7a),
    line(0xd9, 0xd3, 0xc4), accent(0xc2, 0x55, 0x1c), calm(0x3f, 0x6f, 0x77);
}

/// Colours of curves in their order, apart in lightness too.
namespace look {
QColor curve(std::size_t i);
}

void applyLook(QApplication& app);

}  // namespace cvane::desk
