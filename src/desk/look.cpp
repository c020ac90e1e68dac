#include "desk/look.h"

#include <QLocale>
#include <QPalette>
#include <QStyleFactory>
#include <clocale>

namespace cvane::desk {

QColor look::curve(std::size_t i) {
    static const QColor all[] = {QColor(0xc2, 0x55, 0x1c), QColor(0x2f, 0x5d, 0x7c), QColor(0x6b, 0x8e, 0x23),
                                 QColor(0x7a, 0x3b, 0x69), QColor(0xb8, 0x8a, 0x1e), QColor(0x26, 0x2b, 0x33),
                                 QColor(0x3f, 0x8f, 0x86), QColor(0xa0, 0x3a, 0x3a)};
    return all[i % std::size(all)];
}

void applyLook(QApplication& app) {
    // Qt takes the desktop's language over for the whole process; with a decimal comma the C library would read the 1.5
    // of a surface file as 1. Lists are typed with commas, too.
    std::setlocale(LC_NUMERIC, "C");
    QLocale::setDefault(QLocale(QLocale::English, QLocale::UnitedStates));
    app.setStyle(QStyleFactory::create("Fusion"));
    QPalette p;
    p.setColor(QPalette::Window, look::paper);
    p.setColor(QPalette::Base, look::sheet);
    p.setColor(QPalette::AlternateBase, look::paper);
    p.setColor(QPalette::Button, QColor(0xee, 0xe9, 0xdd));
    for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText}) p.setColor(role, look::ink);
    p.setColor(QPalette::Highlight, look::accent);
    p.setColor(QPalette::Link, look::accent);
    p.setColor(QPalette::HighlightedText, Qt::white);
    p.setColor(QPalette::PlaceholderText, look::faint);
    for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
        p.setColor(QPalette::Disabled, role, look::faint);
    app.setPalette(p);
    app.setStyleSheet(
        "QToolTip { color: #262b33; background: #fffdf8; border: 1px solid #d9d3c4; }"
        "QGroupBox { border: none; border-top: 1px solid #d9d3c4; margin-top: 1.1em; padding-top: 0.3em; font-weight: "
        "600; }"
        "QGroupBox::title { subcontrol-origin: margin; left: 0; padding-right: 6px; color: #262b33; }"
        "QPushButton { padding: 4px 10px; } QPushButton:default { font-weight: 600; }"
        "QLabel[role='note'] { color: #6d6859; } QLabel[role='warn'] { color: #a33c0d; }");
}

}  // namespace cvane::desk
