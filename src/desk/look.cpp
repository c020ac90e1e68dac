#include "desk/look.h"

#include <QLocale>
#include <QPalette>
#include <QStyle>
#include <QStyleFactory>
#include <algorithm>
#include <clocale>
#include <cmath>

#include "desk/start/user_settings.h"
#include "report/inks.h"

namespace cvane::desk {
namespace {
constexpr QColor kEveningField{0x36, 0x3b, 0x43};
bool dark = false;

// The desktop's own palette, before ours takes its place.
bool systemIsDark(const QApplication& app) {
    static const bool was = [&app] {
        const QPalette p = app.palette();
        return p.color(QPalette::WindowText).lightness() > p.color(QPalette::Window).lightness();
    }();
    return was;
}

double luminance(const QColor& c) {
    const auto linear = [](double v) { return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
    return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
}
}  // namespace

const look::Colours& look::coloursOf(bool night) {
    static const Colours day{.paper = {0xf7, 0xf4, 0xec},
                             .sheet = {0xff, 0xfd, 0xf8},
                             .raised = {0xee, 0xe9, 0xdd},
                             .ink = report::kInk,
                             .faint = report::kFaintInk,
                             .line = report::kLineInk,
                             .accent = {0xb0, 0x49, 0x14},
                             .onAccent = {0xff, 0xff, 0xff},
                             .calm = {0x3f, 0x6f, 0x77},
                             .warn = {0xa3, 0x3c, 0x0d},
                             .body = {0xef, 0xe9, 0xdb}};
    static const Colours evening{.paper = {0x1d, 0x20, 0x25},
                                 .sheet = {0x26, 0x2a, 0x30},
                                 .raised = {0x32, 0x37, 0x3e},
                                 .ink = {0xe9, 0xe4, 0xd8},
                                 .faint = {0xae, 0xa8, 0x9b},
                                 .line = {0x48, 0x4e, 0x57},
                                 .accent = {0xf0, 0x92, 0x57},
                                 .onAccent = {0x1d, 0x20, 0x25},
                                 .calm = {0x82, 0xb8, 0xbf},
                                 .warn = {0xff, 0xa8, 0x7d},
                                 .body = {0x3a, 0x3d, 0x40}};
    return night ? evening : day;
}

bool look::isDark() {
    return dark;
}

QColor look::curve(std::size_t i) {
    static const QColor night[] = {{0xf0, 0x92, 0x57}, {0x7f, 0xb3, 0xdb}, {0xa9, 0xca, 0x62}, {0xcf, 0x92, 0xbe},
                                   {0xe0, 0xb7, 0x55}, {0xe9, 0xe4, 0xd8}, {0x6e, 0xc7, 0xbc}, {0xe6, 0x86, 0x86}};
    static_assert(std::size(night) == std::size(report::kCurveInks));
    return dark ? night[i % std::size(night)] : QColor(report::curveInk(i));
}

QColor look::wash(const QColor& c) {
    constexpr float kShare = 0.16f;
    const auto mix = [](float a, float b) { return (1.0f - kShare) * a + kShare * b; };
    return QColor::fromRgbF(mix(sheet.redF(), c.redF()), mix(sheet.greenF(), c.greenF()),
                            mix(sheet.blueF(), c.blueF()));
}

double look::contrast(const QColor& a, const QColor& b) {
    const double of[] = {luminance(a), luminance(b)};
    return (std::max(of[0], of[1]) + 0.05) / (std::min(of[0], of[1]) + 0.05);
}

void applyTheme(QApplication& app, Theme theme) {
    dark = theme == Theme::Dark || (theme == Theme::System && systemIsDark(app));
    const look::Colours& c = look::coloursOf(dark);
    look::paper = c.paper, look::sheet = c.sheet, look::ink = c.ink, look::faint = c.faint, look::line = c.line;
    look::accent = c.accent, look::calm = c.calm, look::body = c.body, look::warn = c.warn;
    QPalette p(c.raised, c.paper);
    p.setColor(QPalette::Window, c.paper);
    p.setColor(QPalette::Base, c.sheet);
    p.setColor(QPalette::AlternateBase, c.paper);
    p.setColor(QPalette::Button, c.raised);
    p.setColor(QPalette::ToolTipBase, c.sheet);
    p.setColor(QPalette::Mid, c.line);
    for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText, QPalette::ToolTipText})
        p.setColor(role, c.ink);
    p.setColor(QPalette::Highlight, c.accent);
    p.setColor(QPalette::HighlightedText, c.onAccent);
    p.setColor(QPalette::Link, c.accent);
    p.setColor(QPalette::LinkVisited, c.accent);
    p.setColor(QPalette::PlaceholderText, c.faint);
    for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
        p.setColor(QPalette::Disabled, role, c.faint);
    app.setPalette(p);
    // The style's own outline of a field is darker than its ground, which cannot be seen on a dark one.
    QPalette fields = p;
    if (dark) fields.setColor(QPalette::Base, kEveningField);
    for (const char* kind : {"QLineEdit", "QAbstractSpinBox"}) app.setPalette(fields, kind);
    app.setStyleSheet(QString("QToolTip { color: %1; background: %2; border: 1px solid %3; }"
                              "QGroupBox { border: none; border-top: 1px solid %3; margin-top: 1.1em; padding-top: "
                              "0.3em; font-weight: 600; }"
                              "QGroupBox::title { subcontrol-origin: margin; left: 0; padding-right: 6px; color: %1; }"
                              "QPushButton { padding: 4px 10px; } QPushButton:default { font-weight: 600; }"
                              "QLabel[role='note'] { color: %4; } QLabel[role='warn'] { color: %5; } "
                              "QLabel[role='alarm'] { color: %5; font-weight: 600; }"
                              "QFrame[role='card'] { background: %2; border: 1px solid %7; border-radius: 6px; }"
                              "QPushButton[role='step'] { border: none; border-left: 4px solid transparent; "
                              "text-align: left; padding: 2px 8px; background: transparent; }"
                              "QPushButton[role='step']:hover { background: %6; }"
                              "QPushButton[role='step']:focus { border: 1px dotted %4; }"
                              "QPushButton[role='step']:checked { border-left: 4px solid %7; background: %2; "
                              "font-weight: 600; }"
                              "QPushButton[role='way'] { text-align: left; padding: 6px 14px; }")
                          .arg(c.ink.name(), c.sheet.name(), c.line.name(), c.faint.name(), c.warn.name(),
                               c.raised.name(), c.accent.name()));
}

void setRole(QWidget& widget, const char* role) {
    if (widget.property("role").toString() == role) return;
    widget.setProperty("role", role);
    widget.style()->unpolish(&widget);
    widget.style()->polish(&widget);
}

void applyLook(QApplication& app) {
    // Qt takes the desktop's language over for the whole process; with a decimal comma the C library would read the 1.5
    // of a surface file as 1. Lists are typed with commas, too.
    std::setlocale(LC_NUMERIC, "C");
    QLocale::setDefault(QLocale(QLocale::English, QLocale::UnitedStates));
    systemIsDark(app);
    app.setStyle(QStyleFactory::create("Fusion"));
    applyTheme(app, UserSettings::theme());
}

}  // namespace cvane::desk
