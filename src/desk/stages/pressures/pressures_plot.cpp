// Pressures along planes as plots.
#include <algorithm>
#include <array>
#include <cmath>

#include "air/gas.h"
#include "base/errors.h"
#include "desk/look.h"
#include "desk/stages/pressures/pressures_stage.h"

namespace cvane::desk {

void PressuresStage::plotOutline(const readout::PressureStation& s) {
    auto& bottom = middle_.lower();
    // In the plane of the cut; the arrows are as long as the pressure differs from the free stream's.
    const int axis = static_cast<int>(current().axis);
    const int right = axis == 0 ? 1 : 0, up = axis == 2 ? 1 : 2;
    bottom.begin(QString("%1 [m]").arg(kAxes[right]), QString("%1 [m]").arg(kAxes[up]));
    double largest = 0.0;
    for (const auto& sample : s.samples) largest = std::max(largest, std::abs(sample.Cp));
    const double scale = largest > 0.0 ? 0.15 * s.chord / largest : 0.0;
    bool named = false;
    for (const auto& piece : s.outlines) {
        std::vector<double> x, y;
        std::array<std::vector<double>, 2> fromX, fromY;  // of suction, of pressure
        // Which side of the piece the air is on: to the left of its way, or to the right.
        double area = 0.0;
        for (std::size_t k = 0; k + 1 < piece.size(); ++k)
            area += piece[k].place[right] * piece[k + 1].place[up] - piece[k + 1].place[right] * piece[k].place[up];
        const double side = area > 0.0 ? -1.0 : 1.0;
        const auto step = std::max<std::size_t>(1, piece.size() / 90);
        for (std::size_t k = 0; k < piece.size(); ++k) {
            const auto &p = piece[k], &before = piece[k > 0 ? k - 1 : 0],
                       &after = piece[std::min(k + 1, piece.size() - 1)];
            x.push_back(p.place[right]);
            y.push_back(p.place[up]);
            const double tx = after.place[right] - before.place[right], ty = after.place[up] - before.place[up],
                         length = std::hypot(tx, ty);
            if (k % step != 0 || !(length > 0.0)) continue;
            const double nx = -side * ty / length, ny = side * tx / length, reach = scale * std::abs(p.Cp);
            auto &ax = fromX[p.Cp < 0.0 ? 0 : 1], &ay = fromY[p.Cp < 0.0 ? 0 : 1];
            for (const double end : {0.0, reach}) {
                ax.push_back(p.place[right] + end * nx);
                ay.push_back(p.place[up] + end * ny);
            }
            ax.push_back(std::nan(""));
            ay.push_back(std::nan(""));
        }
        bottom.addStrokes(named ? QString() : tr("suction"), fromX[0], fromY[0], look::curve(0));
        bottom.addStrokes(named ? QString() : tr("pressure"), fromX[1], fromY[1], look::curve(1));
        bottom.add(named ? QString() : tr("outline"), x, y, look::ink, 0);
        named = true;
    }
    bottom.finish();
    bottom.keepProportions();
}

void PressuresStage::plotOutside() {
    const auto data = outside_->data();
    if (!data) return;
    const int x = std::max(0, data->columnOf({"x/c", "x_c", "x", "x/h"}));
    int Cp = data->columnOf({"Cp", "pressure coefficient"});
    if (Cp < 0) Cp = x == 1 ? 0 : 1;
    middle_.upper().add(QString::fromStdString(data->name), data->columns[static_cast<std::size_t>(x)].values,
                        data->columns[static_cast<std::size_t>(Cp)].values, look::ink, 4);
}

bool PressuresStage::takeTable(const QString& file) {
    outside_->take(file);
    return true;
}

// Across the plot, where the suction comes near to it: below that Cp the flow is supersonic.
void PressuresStage::plotSonic(const std::vector<Reading>& all) {
    const auto* r = document_.selectedReport();
    if (!r || !r->result || !r->result->readings().compressible || !(r->result->wind.mach() < 1.0)) return;
    const double sonic = air::criticalPressureCoefficient(r->result->wind.mach(), r->result->wind.air.ratioOfHeats());
    const int over = along_->currentIndex();
    double low = 1e300, high = -1e300, least = 0.0;
    for (const auto& reading : all)
        for (const auto& s : reading.station.samples) {
            const double x = over == 0 ? s.fraction : s.place[over - 1];
            low = std::min(low, x), high = std::max(high, x), least = std::min(least, s.Cp);
        }
    if (high > low && least < 0.7 * sonic)
        middle_.upper().add(tr("critical Cp %1").arg(sonic, 0, 'f', 3), {low, high}, {sonic, sonic}, look::ink, 2);
}

void PressuresStage::plot() {
    const auto all = readings();
    auto &top = middle_.upper(), &bottom = middle_.lower();
    const auto plane = current();
    const int over = along_->currentIndex();
    top.begin(over == 0 ? (plane.axis == Plane::Axis::X ? "z/h" : "x/c") : QString("%1 [m]").arg(kAxes[over - 1]),
              "Cp");
    const bool friction = below_->currentIndex() == 1;
    if (friction) bottom.begin(top.xAxis->label(), "Cf");
    std::size_t colour = 0;
    std::size_t places = 0;
    for (const auto& r : all) {
        const QColor ink = look::curve(colour++);
        bool named = false;
        places += r.station.samples.size();
        for (const auto& piece : r.station.outlines) {
            std::vector<double> x, Cp, Cf;
            for (const auto& s : piece) {
                x.push_back(over == 0 ? s.fraction : s.place[over - 1]);
                Cp.push_back(s.Cp);
                Cf.push_back(s.Cf);
            }
            const QString name = named ? QString() : r.name;
            top.add(name, x, Cp, ink, 0);
            if (friction) bottom.add(name, x, Cf, ink, 0);
            named = true;
        }
    }
    plotOutside();
    plotSonic(all);
    // Suction upwards, as sections are read in this trade.
    top.finish(true);
    if (friction)
        bottom.finish();
    else if (!all.empty())
        plotOutline(all.front().station);
    middle_.showPlots(true);
    if (places == 0) {
        words_->setText(tr("The plane %1 misses the model.").arg(wordsOf(plane)));
        return;
    }
    words_->setText(provisionalNote() + (what_->currentIndex() == 2
                                             ? tr("%1 planes, %2 places.").arg(all.size()).arg(places)
                                             : tr("%1: %2 places; the cut is %3 m long.")
                                                   .arg(wordsOf(plane))
                                                   .arg(places)
                                                   .arg(all.front().station.chord, 0, 'g', 4)));
}

}  // namespace cvane::desk
