#pragma once
#include <QApplication>
#include <QColor>
#include <QWidget>

namespace cvane::desk {

enum class Theme { System, Light, Dark };

/// Colours of the window: paper, ink and one warm accent for what is current. Text in `ink`, `faint`, `accent` or
/// `warn` on `paper`, `sheet` or `raised` has a contrast of 4.5 at least.
namespace look {
struct Colours {
    QColor paper, sheet, raised, ink, faint, line, accent, onAccent, calm, warn;
    QColor body;  ///< of a section's inside
};
const Colours& coloursOf(bool dark);

/// Those of the theme that is on; `applyTheme` changes them.
inline QColor paper = coloursOf(false).paper, sheet = coloursOf(false).sheet, ink = coloursOf(false).ink,
              faint = coloursOf(false).faint, line = coloursOf(false).line, accent = coloursOf(false).accent,
              calm = coloursOf(false).calm, body = coloursOf(false).body, warn = coloursOf(false).warn;
bool isDark();

/// Colours of curves in their order, apart in lightness too.
QColor curve(std::size_t i);
/// A little of a colour on the sheet, for the ground of a tile.
QColor wash(const QColor& c);
/// Ratio of the relative luminances of two colours (WCAG 2.1), from 1 to 21.
double contrast(const QColor& a, const QColor& b);
}  // namespace look

/// Draws a widget in another role of the style: "note", "warn", "alarm" or "" for none.
void setRole(QWidget& widget, const char* role);

/// Style and language rules, and the theme that the user chose.
void applyLook(QApplication& app);
/// System: that of the desktop, as far as its palette tells.
void applyTheme(QApplication& app, Theme theme);

}  // namespace cvane::desk
