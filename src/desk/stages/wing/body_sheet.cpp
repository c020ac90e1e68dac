#include "desk/stages/wing/body_sheet.h"

#include <QApplication>
#include <QClipboard>
#include <QFormLayout>
#include <QVBoxLayout>
#include <algorithm>

#include "base/errors.h"
#include "base/number_list.h"
#include "desk/table_text.h"

namespace cvane::desk {
namespace {
constexpr int kNarrow = 20;  // of a field that stands with others [pixels]
}  // namespace

BodySheet::BodySheet(EditAircraft edit) : edit_(std::move(edit)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    auto* row = new QHBoxLayout;
    bodies_ = new QComboBox;
    bodies_->setObjectName("body");
    bodies_->setAccessibleName(tr("Body"));
    bodies_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    bodies_->setMinimumContentsLength(6);
    row->addWidget(bodies_, 1);
    rowButton(this, row, tr("Add"), "addBody", tr("A drop along the root of the wing, to be changed"),
              [this] { add(); });
    rowButton(this, row, tr("Take out"), "removeBody", tr("The chosen body"), [this] { takeOut(); });
    column->addLayout(row);
    connect(bodies_, &QComboBox::currentIndexChanged, this, [this](int i) {
        if (filling_ || i < 0) return;
        body_ = static_cast<std::size_t>(i);
        show();
    });
    one_ = new QWidget;
    auto* inner = new QVBoxLayout(one_);
    inner->setContentsMargins(0, 0, 0, 0);
    frames_ = new CellTable("frames", tr("Frames"),
                            tr("Cross-sections from nose to tail: superellipses of this width and height. A power of 2 "
                               "is an ellipse, "
                               "a higher one is fuller; a width of 0 is a point"));
    connect(frames_, &CellTable::typed, this, &BodySheet::typed);
    inner->addWidget(frames_);
    auto* tools = new QHBoxLayout;
    rowButton(this, tools, tr("Insert"), "insertFrame", tr("A frame behind the chosen one"), [this] { insertFrame(); });
    rowButton(this, tools, tr("Remove"), "removeFrame", tr("The chosen frame"), [this] { removeFrame(); });
    rowButton(this, tools, tr("Copy"), "copyFrames", tr("The table, for a spreadsheet"),
              [this] { QApplication::clipboard()->setText(tableText(*frames_)); });
    inner->addLayout(tools);
    auto* where = new QHBoxLayout;
    for (std::size_t k = 0; k < 3; ++k) {
        auto* box = new QDoubleSpinBox;
        box->setObjectName(std::array{"bodyX", "bodyY", "bodyZ"}[k]);
        box->setAccessibleName(QStringList{tr("Body at x"), tr("Body at y"), tr("Body at z")}[static_cast<int>(k)]);
        box->setToolTip(tr("Where the body stands: its frames are measured from there"));
        box->setRange(-1000.0, 1000.0);
        box->setDecimals(4);
        box->setKeyboardTracking(false);
        box->setButtonSymbols(QAbstractSpinBox::NoButtons);
        box->setMinimumWidth(kNarrow);
        connect(box, &QDoubleSpinBox::valueChanged, this, [this, k](double v) {
            if (!filling_)
                edit_(tr("move a body"), [&](wing::Aircraft& a) {
                    a.bodies[body_].place[static_cast<Eigen::Index>(k)] = v * length_.inSI;
                });
        });
        place_[k] = box;
        where->addWidget(box);
    }
    auto* form = new QFormLayout;
    form->addRow(tr("Stands at"), where);
    mirrored_ = new QCheckBox(tr("Mirrored"));
    mirrored_->setObjectName("bodyMirrored");
    mirrored_->setToolTip(tr("The same on the port side"));
    form->addRow(mirrored_);
    connect(mirrored_, &QCheckBox::toggled, this, [this](bool on) {
        if (!filling_) edit_(tr("mirror a body"), [&](wing::Aircraft& a) { a.bodies[body_].mirrored = on; });
    });
    inner->addLayout(form);
    column->addWidget(one_);
}

void BodySheet::fill(const wing::Aircraft& a, const ShownLength& length) {
    aircraft_ = a;
    length_ = length;
    body_ = std::min(body_, a.bodies.empty() ? 0 : a.bodies.size() - 1);
    filling_ = true;
    bodies_->clear();
    for (const auto& b : a.bodies) bodies_->addItem(QString::fromStdString(b.name));
    bodies_->setCurrentIndex(a.bodies.empty() ? -1 : static_cast<int>(body_));
    filling_ = false;
    show();
}

void BodySheet::show() {
    one_->setVisible(!aircraft_.bodies.empty());
    if (aircraft_.bodies.empty()) return;
    const auto& b = aircraft_.bodies[body_];
    const double u = length_.inSI;
    filling_ = true;
    for (std::size_t k = 0; k < 3; ++k) place_[k]->setValue(b.place[static_cast<Eigen::Index>(k)] / u);
    mirrored_->setChecked(b.mirrored);
    filling_ = false;
    std::vector<QStringList> rows;
    for (const auto& f : b.stations)
        rows.push_back({inCell(f.x / u), inCell(f.z / u), inCell(f.width / u), inCell(f.height / u), inCell(f.power)});
    frames_->fill({tr("x\n%1").arg(length_.name), tr("z\n%1").arg(length_.name), tr("width\n%1").arg(length_.name),
                   tr("height\n%1").arg(length_.name), tr("power\n")},
                  rows, 2);
}

void BodySheet::add() {
    edit_(tr("add a body"), [&](wing::Aircraft& a) {
        const auto& root = a.surfaces.front().stations.front();
        wing::Body b;
        b.name = freePartName("body", a);
        b.place = a.surfaces.front().place;
        // Widths over the largest, at places over the length; the wing stands where it is widest.
        constexpr double kLength = 4.0, kWidth = 0.4, kAhead = 1.2;  // in root chords
        for (const auto& [t, w] : {std::pair{0.0, 0.0},
                                   {0.02, 0.35},
                                   {0.08, 0.66},
                                   {0.18, 0.9},
                                   {0.32, 1.0},
                                   {0.5, 0.94},
                                   {0.7, 0.68},
                                   {0.88, 0.33},
                                   {1.0, 0.08}})
            b.stations.push_back(
                {root.chord * (kLength * t - kAhead), 0.0, kWidth * root.chord * w, kWidth * root.chord * w, 2.0});
        a.bodies.push_back(b);
        body_ = a.bodies.size() - 1;
    });
}

void BodySheet::takeOut() {
    edit_(tr("take a body out"), [&](wing::Aircraft& a) {
        if (a.bodies.empty()) throw base::InputError("there is no body.", a.name, "Add one first.");
        a.bodies.erase(a.bodies.begin() + static_cast<std::ptrdiff_t>(body_));
        body_ = 0;
    });
}

void BodySheet::insertFrame() {
    const int row = std::max(0, frames_->currentRow());
    edit_(tr("insert a frame"), [&](wing::Aircraft& a) {
        auto& frames = a.bodies[body_].stations;
        const auto i = std::min(static_cast<std::size_t>(row), frames.size() - 2);
        const auto &f = frames[i], &g = frames[i + 1];
        frames.insert(frames.begin() + static_cast<std::ptrdiff_t>(i) + 1,
                      {0.5 * (f.x + g.x), 0.5 * (f.z + g.z), 0.5 * (f.width + g.width), 0.5 * (f.height + g.height),
                       0.5 * (f.power + g.power)});
    });
}

void BodySheet::removeFrame() {
    const int row = frames_->currentRow();
    edit_(tr("take a frame out"), [&](wing::Aircraft& a) {
        auto& frames = a.bodies[body_].stations;
        if (row < 0 || frames.size() <= 2)
            throw base::InputError("a body has two frames at least, and one must be chosen to be taken out.",
                                   a.bodies[body_].name, "Click a line of the table.");
        frames.erase(frames.begin() + row);
    });
}

void BodySheet::typed(int row, int column, const QString& text) {
    edit_(tr("change a frame"), [&](wing::Aircraft& a) {
        auto& f = a.bodies[body_].stations[static_cast<std::size_t>(row)];
        const double value = base::numberIn(text.toStdString(), a.bodies[body_].name);
        double* const fields[] = {&f.x, &f.z, &f.width, &f.height};
        if (column < 4)
            *fields[column] = value * length_.inSI;
        else
            f.power = value;
    });
}

}  // namespace cvane::desk
