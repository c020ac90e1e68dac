#include "desk/stages/wing/propeller_sheet.h"

#include <QApplication>
#include <QClipboard>
#include <QVBoxLayout>

#include "base/errors.h"
#include "base/number_list.h"
#include "desk/table_text.h"

namespace cvane::desk {
namespace {
enum Column { kName, kThrust, kDiameter, kX, kY, kZ, kMirrored, kTurns, kHub, kAxis };
}  // namespace

PropellerSheet::PropellerSheet(EditAircraft edit) : edit_(std::move(edit)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    table_ = new CellTable("propellers", tr("Propellers"),
                           tr("Discs that push the air: their slipstreams blow the surfaces behind them, here by "
                              "momentum theory and in the field as they are. Coefficients are without their thrust"));
    connect(table_, &CellTable::typed, this, &PropellerSheet::typed);
    column->addWidget(table_);
    auto* row = new QHBoxLayout;
    rowButton(this, row, tr("Add"), "addPropeller", tr("One ahead of the wing, to be changed"), [this] { add(); });
    rowButton(this, row, tr("Take out"), "removePropeller", tr("The chosen propeller"), [this] { takeOut(); });
    rowButton(this, row, tr("Copy"), "copyPropellers", tr("The table, for a spreadsheet"),
              [this] { QApplication::clipboard()->setText(tableText(*table_)); });
    column->addLayout(row);
}

void PropellerSheet::fill(const wing::Aircraft& a, const ShownLength& length) {
    length_ = length;
    const double u = length.inSI;
    std::vector<QStringList> rows;
    for (const auto& p : a.propellers)
        rows.push_back({QString::fromStdString(p.name), inCell(p.thrust), inCell(p.diameter / u),
                        inCell(p.centre.x() / u), inCell(p.centre.y() / u), inCell(p.centre.z() / u),
                        p.mirrored ? "true" : "false", inCell(p.rpm), inCell(p.hub / u),
                        QString("%1 %2 %3").arg(p.axis.x()).arg(p.axis.y()).arg(p.axis.z())});
    const auto in = [&](const QString& words) { return words.arg(length.name); };
    table_->fill({tr("name\n"), tr("thrust\nN"), in(tr("diameter\n%1")), in(tr("x\n%1")), in(tr("y\n%1")),
                  in(tr("z\n%1")), tr("mirrored\n"), tr("turns\nrpm"), in(tr("hub\n%1")), tr("pushes\nx y z")},
                 rows, 1);
    table_->horizontalHeaderItem(kThrust)->setToolTip(tr("Of each; below 0 it brakes"));
    table_->horizontalHeaderItem(kMirrored)->setToolTip(tr("The same on the port side, turning the other way"));
    table_->horizontalHeaderItem(kTurns)->setToolTip(
        tr("Right-handed about the way in which it pushes; 0: the slipstream does not turn"));
    table_->horizontalHeaderItem(kAxis)->setToolTip(tr("The way in which it pushes the air"));
}

void PropellerSheet::add() {
    edit_(tr("add a propeller"), [](wing::Aircraft& a) {
        const auto& wing = a.surfaces.front();
        const double chord = wing.stations.front().chord;
        wing::Propeller p;
        p.name = freePartName("propeller", a);
        p.centre = wing.place - Vec3(0.5 * chord, 0.0, 0.0);
        p.diameter = chord;
        a.propellers.push_back(p);
    });
}

void PropellerSheet::takeOut() {
    const int row = table_->currentRow();
    edit_(tr("take a propeller out"), [row](wing::Aircraft& a) {
        if (row < 0 || row >= static_cast<int>(a.propellers.size()))
            throw base::InputError("no propeller is chosen.", a.name, "Click a line of the table.");
        a.propellers.erase(a.propellers.begin() + row);
    });
}

void PropellerSheet::typed(int row, int column, const QString& text) {
    edit_(tr("change a propeller"), [&](wing::Aircraft& a) {
        auto& p = a.propellers[static_cast<std::size_t>(row)];
        const auto number = [&] { return base::numberIn(text.toStdString(), p.name); };
        const double u = length_.inSI;
        switch (column) {
            case kName:
                p.name = text.toStdString();
                break;
            case kThrust:
                p.thrust = number();
                break;
            case kDiameter:
                p.diameter = number() * u;
                break;
            case kX:
            case kY:
            case kZ:
                p.centre[column - kX] = number() * u;
                break;
            case kMirrored:
                p.mirrored = text == "true";
                break;
            case kTurns:
                p.rpm = number();
                break;
            case kHub:
                p.hub = number() * u;
                break;
            case kAxis: {
                const auto parts = base::numbersIn(text.simplified().replace(' ', ',').toStdString(), p.name);
                if (parts.size() != 3)
                    throw base::InputError("the way in which it pushes is not three numbers.", p.name,
                                           "Type them with spaces, as 1 0 0.");
                p.axis = Vec3(parts[0], parts[1], parts[2]);
                break;
            }
            default:
                break;
        }
    });
}

}  // namespace cvane::desk
