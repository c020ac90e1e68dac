#include "desk/start/new_model_dialog.h"

#include <QDialogButtonBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "base/units.h"
#include "shape/import.h"
#include "solid/solid_file.h"

namespace cvane::desk {
namespace {
// Lengths [m] of models that people bring: from a bench model to an airliner.
constexpr double kUsualLow = 0.1, kUsualHigh = 20.0;

QString length(double metres) {
    return metres < 0.01 ? NewModelDialog::tr("%1 mm").arg(1e3 * metres, 0, 'g', 3)
                         : NewModelDialog::tr("%1 m").arg(metres, 0, 'g', 4);
}

// What a file of solids holds in words, and how many facets three tolerances lead to.
void readSolids(const std::string& path, QString& words, std::vector<std::pair<double, std::size_t>>& facetsBy,
                std::optional<std::pair<Box, Box>>& airAndModel) {
    const solid::SolidFile file(path);
    Box model;
    words =
        file.bodies().size() == 1
            ? NewModelDialog::tr("One body, %1 long.").arg(length(file.size()))
            : NewModelDialog::tr("%1 bodies, the model %2 long.").arg(file.bodies().size()).arg(length(file.size()));
    for (const auto& b : file.bodies()) {
        const QString name = QString::fromStdString(b.name);
        if (b.holdsTheOthers)
            words += NewModelDialog::tr(
                         " \u201c%1\u201d is a box around all others, %2 by %3 by %4: it is left out of the air.")
                         .arg(name, length(b.box.size().x()), length(b.box.size().y()), length(b.box.size().z()));
        if (!b.holdsTheOthers) {
            model.add(b.box.low);
            model.add(b.box.high);
        }
        if (b.isSheet) words += NewModelDialog::tr(" \u26a0 \u201c%1\u201d is a sheet and encloses nothing.").arg(name);
    }
    for (const auto& b : file.bodies())
        if (b.holdsTheOthers) airAndModel = std::pair(b.box, model);
    for (const auto& f : file.facetChoices()) facetsBy.emplace_back(f.tolerance, f.count);
}
}  // namespace

NewModelDialog::NewModelDialog(const QString& file, QWidget* parent) : QDialog(parent), file_(file) {
    setWindowTitle(tr("New campaign from %1").arg(QFileInfo(file).fileName()));
    auto* column = new QVBoxLayout(this);
    says_ = new QLabel(tr("Reading the surface\u2026"));
    says_->setWordWrap(true);
    column->addWidget(says_);
    question_ = new QLabel(tr("Surface files do not say in which unit they are. Which of these sizes is it?"));
    question_->setWordWrap(true);
    column->addWidget(question_);
    units_ = new QTableWidget(0, 4);
    units_->setObjectName("unitChoice");
    units_->setAccessibleName(tr("Unit of the file"));
    units_->setHorizontalHeaderLabels({tr("Unit"), tr("Length along x"), tr("Width along y"), tr("Height along z")});
    units_->verticalHeader()->hide();
    units_->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    units_->setSelectionBehavior(QAbstractItemView::SelectRows);
    units_->setSelectionMode(QAbstractItemView::SingleSelection);
    units_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    for (const auto& u : base::lengthUnits()) {
        const int row = units_->rowCount();
        units_->insertRow(row);
        units_->setItem(row, 0, new QTableWidgetItem(QString::fromUtf8(u.symbol.data())));
        for (int k = 1; k < 4; ++k) units_->setItem(row, k, new QTableWidgetItem("\u2026"));
    }
    units_->setMinimumSize(460, 30 * (units_->rowCount() + 1));
    column->addWidget(units_);
    asTunnel_ = new QCheckBox(tr("Tunnel as large as the box of air"));
    asTunnel_->setObjectName("tunnelAsTheBox");
    asTunnel_->setToolTip(
        tr("Ahead, behind, to the sides, above and below; without a tick the tunnel is the usual one"));
    asTunnel_->hide();
    column->addWidget(asTunnel_);
    auto* form = new QFormLayout;
    auto* place = new QHBoxLayout;
    const QFileInfo info(file);
    folder_ = new QLineEdit(info.absolutePath() + "/" + info.completeBaseName() + ".cvane");
    folder_->setObjectName("campaignFolder");
    auto* choose = new QPushButton(tr("Elsewhere\u2026"));
    connect(choose, &QPushButton::clicked, this, &NewModelDialog::chooseFolder);
    place->addWidget(folder_, 1);
    place->addWidget(choose);
    form->addRow(tr("Campaign\u2019s folder"), place);
    column->addLayout(form);
    buttons_ = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    buttons_->button(QDialogButtonBox::Ok)->setText(tr("Make the campaign"));
    auto* make = buttons_->button(QDialogButtonBox::Ok);
    make->setMinimumWidth(make->fontMetrics().horizontalAdvance(make->text()) * 3 / 2 + 40);  // it is drawn bold
    make->setEnabled(false);
    column->addWidget(buttons_);
    connect(buttons_, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons_, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(units_, &QTableWidget::cellDoubleClicked, this, [this] {
        if (buttons_->button(QDialogButtonBox::Ok)->isEnabled()) accept();
    });
    job_.start(
        [path = file.toStdString()](const auto&) {
            Read out;
            try {
                if (solid::isSolidFile(path)) {
                    readSolids(path, out.bodies, out.facetsBy, out.airAndModel);
                    return out;
                }
                const auto s = shape::readSurface(path, 1.0);
                out.bounds = s.bounds();
                out.parts = static_cast<int>(s.parts.size());
                out.facets = static_cast<int>(s.facets.size());
            } catch (const std::exception& e) {
                out.error = e.what();
            }
            return out;
        },
        [this](const Read& read) { show(read); });
}

NewModelDialog::~NewModelDialog() {
    job_.forget();
    pool_.waitForDone();
}

void NewModelDialog::show(const Read& read) {
    if (!read.error.isEmpty()) {
        says_->setText("\u26a0 " + read.error);
        return;
    }
    if (!read.facetsBy.empty()) {
        says_->setText(read.bodies);
        airAndModel_ = read.airAndModel;
        asTunnel_->setVisible(airAndModel_.has_value());
        question_->setText(tr("The file says its unit. How far may facets stand off its curved faces?"));
        units_->setAccessibleName(tr("Facet tolerance"));
        units_->setColumnCount(2);
        units_->setHorizontalHeaderLabels({tr("Facet tolerance"), tr("Facets")});
        units_->setRowCount(static_cast<int>(read.facetsBy.size()));
        for (int row = 0; row < units_->rowCount(); ++row) {
            const auto& [tolerance, facets] = read.facetsBy[static_cast<std::size_t>(row)];
            tolerances_.push_back(tolerance);
            units_->setItem(row, 0, new QTableWidgetItem(length(tolerance)));
            units_->setItem(row, 1, new QTableWidgetItem(QString("%L1").arg(facets)));
        }
        units_->selectRow(1);
        units_->setFocus();
        buttons_->button(QDialogButtonBox::Ok)->setEnabled(true);
        return;
    }
    says_->setText(tr("%1 facets in %2 parts.").arg(read.facets).arg(read.parts));
    const Vec3 size = read.bounds.size();
    int usual = -1;
    for (int row = 0; row < units_->rowCount(); ++row) {
        const double unit = base::lengthUnits()[static_cast<std::size_t>(row)].inSI;
        for (int k = 0; k < 3; ++k) units_->item(row, k + 1)->setText(length(unit * size[k]));
        const double longest = unit * size.maxCoeff();
        // Metres before the others, where the size is usual in both.
        if (longest >= kUsualLow && longest <= kUsualHigh && (usual < 0 || unit == 1.0)) usual = row;
    }
    units_->selectRow(std::max(usual, 0));
    units_->setFocus();
    buttons_->button(QDialogButtonBox::Ok)->setEnabled(true);
}

QString NewModelDialog::unit() const {
    if (!tolerances_.empty()) return "m";
    const int row = std::max(0, units_->currentRow());
    return units_->item(row, 0)->text();
}

std::optional<double> NewModelDialog::facetTolerance() const {
    if (tolerances_.empty()) return std::nullopt;
    return tolerances_[static_cast<std::size_t>(std::clamp(units_->currentRow(), 0, units_->rowCount() - 1))];
}

std::optional<std::pair<Box, Box>> NewModelDialog::airAndModel() const {
    return asTunnel_->isChecked() ? airAndModel_ : std::nullopt;
}

QString NewModelDialog::folder() const {
    return folder_->text().trimmed();
}

void NewModelDialog::chooseFolder() {
    const auto chosen = QFileDialog::getSaveFileName(this, tr("Campaign folder"), folder_->text());
    if (!chosen.isEmpty()) folder_->setText(chosen);
}

}  // namespace cvane::desk
