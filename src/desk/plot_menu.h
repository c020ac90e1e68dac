#pragma once
#include <QString>

namespace cvane::desk {

class Plot;

/// Writes a plot as .pdf, .svg or .png, by the end of the name. @return whether it could be written
bool savePlot(Plot& plot, const QString& file);
/// The numbers of its curves for a spreadsheet: for each a name, then x, y and the bands where there are some.
QString tableOf(Plot& plot);

}  // namespace cvane::desk
