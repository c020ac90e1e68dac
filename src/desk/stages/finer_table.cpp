#include "desk/stages/finer_table.h"

#include <QHeaderView>
#include <QMenu>
#include <QPushButton>
#include <QVBoxLayout>

#include "desk/stages/typed_values.h"

namespace cvane::desk {
namespace {
constexpr int kWhat = 0, kFrom = 1, kTo = 2, kRadius = 3, kCell = 4;
}  // namespace

FinerTable::FinerTable(Document& d, Canvas& canvas) : document_(d) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    table_ = new QTableWidget(0, 5);
    table_->setObjectName("finerTable");
    table_->setAccessibleName(tr("Refinement regions"));
    table_->setHorizontalHeaderLabels({tr("what"), tr("from, m"), tr("to, m"), tr("radius, m"), tr("cell, m")});
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    table_->verticalHeader()->hide();
    table_->setFixedHeight(110);
    table_->setToolTip(
        tr("Middle or corner as three numbers. For a part, the last column is how many times its cells are halved."));
    column->addWidget(table_);
    auto* row = new QHBoxLayout;
    auto* add = new QPushButton(tr("Add"));
    add->setObjectName("addFiner");
    auto* menu = new QMenu(add);
    menu->addAction(tr("Box"), this, [this] { addPlace(grid::FinerPlace::Shape::Box); });
    menu->addAction(tr("Ball"), this, [this] { addPlace(grid::FinerPlace::Shape::Ball); });
    menu->addAction(tr("Cylinder"), this, [this] { addPlace(grid::FinerPlace::Shape::Cylinder); });
    menu->addAction(tr("Part"), this, [this] { addPart(); });
    add->setMenu(menu);
    auto* remove = new QPushButton(tr("Take out"));
    remove->setObjectName("removeFiner");
    row->addWidget(add);
    auto* place = new QPushButton(tr("Drag in view"));
    place->setObjectName("dragFiner");
    place->setToolTip(
        tr("Then draw the chosen region with the mouse, in a view along an axis: a box or a ball around the rectangle, "
           "a cylinder along its longer side. Its depth stays."));
    row->addWidget(place);
    row->addWidget(remove);
    connect(place, &QPushButton::clicked, this, [this, &canvas] {
        const int row = table_->currentRow();
        if (!document_.isOpen() || row < 0 ||
            static_cast<std::size_t>(row) >= document_.settings().grid.finerPlaces.size())
            emit document_.problem(
                tr("No region is chosen. Add a box, ball or cylinder, or click its line in the table, then drag."));
        else
            canvas.placeByDragging();
    });
    connect(&canvas, &Canvas::dragged, this, &FinerTable::placeInView);
    column->addLayout(row);
    connect(remove, &QPushButton::clicked, this, &FinerTable::removeRow);
    connect(table_, &QTableWidget::cellChanged, this, &FinerTable::edited);
    document_.when(Change::Settings, this, [this] { fill(); });
}

void FinerTable::fill() {
    if (!document_.isOpen()) return;
    const QSignalBlocker quiet(table_);
    const auto& g = document_.settings().grid;
    table_->setRowCount(static_cast<int>(g.finerPlaces.size() + g.finerParts.size()));
    const auto put = [this](int row, int column, const QString& text, bool editable) {
        auto* item = new QTableWidgetItem(text);
        if (!editable) item->setFlags(item->flags() & ~Qt::ItemIsEditable);
        table_->setItem(row, column, item);
    };
    int row = 0;
    for (const auto& p : g.finerPlaces) {
        using S = grid::FinerPlace::Shape;
        put(row, kWhat, p.shape == S::Box ? tr("box") : p.shape == S::Ball ? tr("ball") : tr("cylinder"), false);
        put(row, kFrom, textOf(p.from), true);
        put(row, kTo, p.shape == S::Ball ? QString() : textOf(p.to), p.shape != S::Ball);
        put(row, kRadius, p.shape == S::Box ? QString() : QString::number(p.radius, 'g', 5), p.shape != S::Box);
        put(row, kCell, QString::number(p.cell, 'g', 5), true);
        ++row;
    }
    for (const auto& [name, levels] : g.finerParts) {
        put(row, kWhat, QString::fromStdString(name), false);
        for (const int c : {kFrom, kTo, kRadius}) put(row, c, {}, false);
        put(row, kCell, tr("halved %1").arg(levels), true);
        ++row;
    }
}

void FinerTable::change(const QString& intent, const std::function<void(grid::GridSettings&)>& how) {
    if (!document_.isOpen()) return;
    auto s = document_.settings();
    how(s.grid);
    document_.change(intent, s);
}

void FinerTable::edited(int row, int column) {
    const QString text = table_->item(row, column)->text();
    const auto places = document_.settings().grid.finerPlaces.size();
    bool ok = false;
    if (static_cast<std::size_t>(row) < places) {
        auto p = document_.settings().grid.finerPlaces[static_cast<std::size_t>(row)];
        ok = column == kFrom ? readVector(text, p.from)
             : column == kTo ? readVector(text, p.to)
                             : readPositive(text, column == kRadius ? p.radius : p.cell);
        if (ok)
            change(tr("change a refinement region"),
                   [&](grid::GridSettings& g) { g.finerPlaces[static_cast<std::size_t>(row)] = p; });
    } else {
        const QString digits = text.section(' ', -1);
        const int levels = digits.toInt(&ok);
        ok = ok && levels >= 0 && levels <= 6;
        const auto name = table_->item(row, kWhat)->text().toStdString();
        if (ok) change(tr("change a part's refinement"), [&](grid::GridSettings& g) { g.finerParts[name] = levels; });
    }
    if (!ok)
        emit document_.problem(tr("\"%1\" does not fit there. Type three numbers for a place, one above zero for a "
                                  "length, 0 to 6 for halvings.")
                                   .arg(text));
    fill();
}

// A new place starts around the middle of the model, where it can be seen and moved.
void FinerTable::addPlace(grid::FinerPlace::Shape shape) {
    if (!document_.modelReady()) return;
    const Box b = document_.measures().bounds;
    const double size = b.size().maxCoeff();
    grid::FinerPlace p{shape, b.centre() - 0.15 * b.size(), b.centre() + 0.15 * b.size(), 0.1 * size, size / 200.0};
    if (shape == grid::FinerPlace::Shape::Ball) p.from = b.centre();
    change(tr("add a refinement region"), [&](grid::GridSettings& g) { g.finerPlaces.push_back(p); });
    table_->setCurrentCell(static_cast<int>(document_.settings().grid.finerPlaces.size()) - 1, kFrom);
}

void FinerTable::placeInView(const Vec3& from, const Vec3& to, int axis) {
    const int row = table_->currentRow();
    if (row < 0 || static_cast<std::size_t>(row) >= document_.settings().grid.finerPlaces.size()) return;
    grid::FinerPlace p = document_.settings().grid.finerPlaces[static_cast<std::size_t>(row)];
    const Vec3 low = from.cwiseMin(to), high = from.cwiseMax(to), middle = 0.5 * (low + high);
    const int u = (axis + 1) % 3, v = (axis + 2) % 3;
    const double across = high[u] - low[u], along = high[v] - low[v];
    switch (p.shape) {
        case grid::FinerPlace::Shape::Box: {
            const Box old = p.bounds();
            p.from = low;
            p.to = high;
            p.from[axis] = old.low[axis];
            p.to[axis] = old.high[axis];
            break;
        }
        case grid::FinerPlace::Shape::Ball:
            p.from[u] = middle[u];
            p.from[v] = middle[v];
            p.radius = 0.5 * std::max(across, along);
            break;
        case grid::FinerPlace::Shape::Cylinder: {
            const int length = across > along ? u : v;
            const double depth = 0.5 * (p.from[axis] + p.to[axis]);
            p.from = p.to = middle;
            p.from[length] = low[length];
            p.to[length] = high[length];
            p.from[axis] = p.to[axis] = depth;
            p.radius = 0.5 * std::min(across, along);
            break;
        }
    }
    change(tr("place cells in the view"),
           [&](grid::GridSettings& g) { g.finerPlaces[static_cast<std::size_t>(row)] = p; });
    table_->setCurrentCell(row, kFrom);
}

void FinerTable::addPart() {
    if (!document_.isOpen()) return;
    for (const auto& part : document_.settings().model.parts)
        if (!document_.settings().grid.finerParts.contains(part.name)) {
            change(tr("refine a part"), [&](grid::GridSettings& g) { g.finerParts[part.name] = 1; });
            return;
        }
}

void FinerTable::removeRow() {
    const int row = table_->currentRow();
    if (row < 0) return;
    const auto name = table_->item(row, kWhat)->text().toStdString();
    change(tr("take out a refinement region"), [&](grid::GridSettings& g) {
        if (static_cast<std::size_t>(row) < g.finerPlaces.size())
            g.finerPlaces.erase(g.finerPlaces.begin() + row);
        else
            g.finerParts.erase(name);
    });
}

}  // namespace cvane::desk
