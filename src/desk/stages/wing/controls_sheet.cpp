#include "desk/stages/wing/controls_sheet.h"

#include <QMenu>
#include <QVBoxLayout>

#include "base/errors.h"
#include "base/number_list.h"

namespace cvane::desk {
namespace {
bool hasControl(const wing::Aircraft& a, const std::string& name) {
    for (const auto& s : a.surfaces)
        for (const auto& c : s.controls)
            if (c.name == name) return true;
    return false;
}
}  // namespace

ControlsSheet::ControlsSheet(EditAircraft edit) : edit_(std::move(edit)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    table_ = new CellTable("controls", tr("Controls"),
                           tr("Parts of the surface that turn about a hinge line: where they begin and end along it, "
                              "their hinge in "
                              "chords, their angle with the trailing edge towards the lower side, and whether they "
                              "turn the other "
                              "way on the port half, as ailerons do"));
    column->addWidget(table_);
    connect(table_, &CellTable::typed, this, &ControlsSheet::typed);
    auto* row = new QHBoxLayout;
    auto* more = rowButton(this, row, tr("Add a control"), "addControl", tr("To the chosen surface"), {});
    auto* menu = new QMenu(more);
    menu->addAction(tr("Flap, elevator or rudder"), this, [this] { add(false); });
    menu->addAction(tr("Aileron"), this, [this] { add(true); });
    more->setMenu(menu);
    rowButton(this, row, tr("Take out"), "removeControl", tr("The chosen control"), [this] { takeOut(); });
    column->addLayout(row);
}

void ControlsSheet::fill(const wing::Aircraft& a, std::size_t surface, const ShownLength& length) {
    surface_ = surface;
    length_ = length;
    std::vector<QStringList> rows;
    for (const auto& c : a.surfaces[surface].controls)
        rows.push_back({QString::fromStdString(c.name), inCell(c.from / length.inSI), inCell(c.to / length.inSI),
                        inCell(c.hinge), inCell(c.angle_deg), c.against ? "true" : "false"});
    table_->fill({tr("name\n"), tr("from\n%1").arg(length.name), tr("to\n%1").arg(length.name), tr("hinge\nchords"),
                  tr("angle\ndeg"), tr("opposed\n")},
                 rows, 1);
}

void ControlsSheet::add(bool against) {
    edit_(tr("add a control"), [&](wing::Aircraft& a) {
        auto& s = a.surfaces[surface_];
        const bool whole = surface_ > 0;  // of a tail or a fin it runs from end to end
        const double half = s.stations.back().along;
        wing::Control c;
        c.name = freeName(against              ? "aileron"
                          : s.roll_deg == 90.0 ? "rudder"
                          : whole              ? "elevator"
                                               : "flap",
                          [&](const std::string& n) { return hasControl(a, n); });
        c.from = whole ? 0.0 : against ? 0.6 * half : 0.1 * half;
        c.to = whole ? half : against ? 0.95 * half : 0.55 * half;
        c.against = against;
        // Beside those that are there.
        for (const auto& other : s.controls)
            if (other.from < c.to && c.from < other.to) c.from = std::max(c.from, other.to);
        if (!(c.from < c.to))
            throw base::InputError("there is no room for another control.", s.name,
                                   "Make one that is there shorter first.");
        s.controls.push_back(c);
    });
}

void ControlsSheet::takeOut() {
    const int row = table_->currentRow();
    edit_(tr("take a control out"), [&](wing::Aircraft& a) {
        auto& controls = a.surfaces[surface_].controls;
        if (row < 0 || row >= static_cast<int>(controls.size()))
            throw base::InputError("no control is chosen.", a.surfaces[surface_].name, "Click a line of the table.");
        controls.erase(controls.begin() + row);
    });
}

void ControlsSheet::typed(int row, int column, const QString& text) {
    edit_(tr("change a control"), [&](wing::Aircraft& a) {
        auto& c = a.surfaces[surface_].controls[static_cast<std::size_t>(row)];
        const auto value = [&] { return base::numberIn(text.toStdString(), c.name); };
        switch (column) {
            case 0:
                if (text.toStdString() != c.name && hasControl(a, text.toStdString()))
                    throw base::InputError("another control has this name.", text.toStdString(), "Give another one.");
                c.name = text.toStdString();
                break;
            case 1:
                c.from = value() * length_.inSI;
                break;
            case 2:
                c.to = value() * length_.inSI;
                break;
            case 3:
                c.hinge = value();
                break;
            case 4:
                c.angle_deg = value();
                break;
            default:
                c.against = text == "true";
        }
    });
}

}  // namespace cvane::desk
