#include "desk/stages/report_stage.h"

#include <QFileDialog>
#include <QPushButton>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/store/table.h"

namespace cvane::desk {

ReportStage::ReportStage(Document& d, Middle& m) : Stage(d, m) {
    makeSheet();
    words_ = note();
    words_->setObjectName("reportTable");
    words_->setFont(QFont("monospace"));
    auto* out = section(tr("Take out"));
    const auto button = [&](const QString& label, const QString& suggested, std::function<void(const QString&)> write) {
        auto* b = new QPushButton(label);
        out->addRow(b);
        connect(b, &QPushButton::clicked, this, [this, label, suggested, write] {
            if (!document_.isOpen()) return;
            const QString file = QFileDialog::getSaveFileName(
                middle_.window(), label,
                QString::fromStdString(document_.campaign().folder().parent_path().string()) + "/" + suggested);
            if (file.isEmpty()) return;
            try {
                write(file);
            } catch (const base::InputError& e) {
                emit document_.problem(e.what());
            }
        });
    };
    button(tr("Table for a spreadsheet (CSV)\u2026"), "points.csv",
           [this](const QString& f) { base::exportFile(f.toStdString(), campaign::csvTable(document_.reports())); });
    button(tr("Everything (JSON)\u2026"), "points.json", [this](const QString& f) {
        base::exportFile(f.toStdString(), campaign::jsonTable(document_.reports()).dump(2) + "\n");
    });
    button(tr("Picture of the 3D view (PNG)\u2026"), "view.png", [this](const QString& f) {
        if (!middle_.canvas().savePicture(f))
            throw base::InputError("the picture cannot be written.", f.toStdString(), "Choose another folder.");
    });
    button(tr("Plots of the last stage (PDF)\u2026"), "plots.pdf", [this](const QString& f) {
        if (!middle_.upper().savePdf(f))
            throw base::InputError("the plots cannot be written.", f.toStdString(), "Choose another folder.");
    });
    column_->addWidget(note(tr("Points so far:")));
    column_->addWidget(words_);
    column_->addStretch(1);
    document_.when(Change::Points, this, [this] {
        QString t;
        for (const auto& r : document_.reports()) {
            t += QString("%1 m/s %2\u00b0 %3\u00b0  %4")
                     .arg(r.point.condition.speed)
                     .arg(r.point.condition.alpha_deg)
                     .arg(r.point.condition.beta_deg)
                     .arg(QString::fromStdString(campaign::nameOf(r.state)));
            if (r.result)
                t += QString("  CL %1 \u00b1 %2  CD %3 \u00b1 %4")
                         .arg(r.result->coefficients.CL, 0, 'f', 4)
                         .arg(r.result->trust().CL, 0, 'f', 4)
                         .arg(r.result->coefficients.CD, 0, 'f', 4)
                         .arg(r.result->trust().CD, 0, 'f', 4);
            t += "\n";
        }
        words_->setText(t);
    });
}

QString ReportStage::keyFigure() const {
    return tr("tables, pictures");
}
Stage::State ReportStage::state() const {
    return State::Ready;
}
void ReportStage::show() {}

}  // namespace cvane::desk
