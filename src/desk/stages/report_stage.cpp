#include "desk/stages/report_stage.h"

#include <QHBoxLayout>
#include <algorithm>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/store/table.h"
#include "command/action.h"
#include "command/report_sections.h"
#include "desk/save_file.h"

namespace cvane::desk {

ReportStage::ReportStage(Document& d, Middle& m) : Stage(d, m) {
    pool_.setMaxThreadCount(1);
    makeSheet();
    makePlan();
    words_ = note();
    words_->setObjectName("reportTable");
    words_->setFont(QFont("monospace"));
    auto* out = section(tr("Take out"));
    const auto button = [&](const QString& label, const QString& suggested,
                            const std::function<void(const QString&)>& write) {
        auto* b = new QPushButton(label);
        out->addRow(b);
        connect(b, &QPushButton::clicked, this, [this, label, suggested, write] {
            if (!document_.isOpen()) return;
            const QString file = askWhereToSave(
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
    document_.when(Change::Values, this, [this] {
        QString t;
        for (const auto& r : document_.reports()) {
            t += QString("%1 m/s %2\u00b0 %3\u00b0  %4")
                     .arg(r.point.condition.speed)
                     .arg(r.point.condition.alpha_deg)
                     .arg(r.point.condition.beta_deg)
                     .arg(QString::fromStdString(r.stateWords()));
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

ReportStage::~ReportStage() {
    job_.forget();
    previewJob_.forget();
    pool_.waitForDone();
}

void ReportStage::makePlan() {
    auto* form = section(tr("Report"));
    title_ = new QLineEdit;
    title_->setObjectName("reportTitle");
    form->addRow(tr("Title"), title_);
    sections_ = new QListWidget;
    sections_->setObjectName("reportSections");
    sections_->setAccessibleName(tr("Sections of the report"));
    sections_->setDragDropMode(QAbstractItemView::InternalMove);
    sections_->setFixedHeight(8 * sections_->fontMetrics().lineSpacing() + 8);
    sections_->setToolTip(tr("Ticked sections are written, in this order; drag them to another place"));
    form->addRow(sections_);
    text_ = new QPlainTextEdit;
    text_->setObjectName("reportText");
    text_->setAccessibleName(tr("Text of the section"));
    text_->setPlaceholderText(tr("Words at the head of the chosen section"));
    text_->setFixedHeight(4 * text_->fontMetrics().lineSpacing());
    form->addRow(text_);
    auto* row = new QWidget;
    auto* buttons = new QHBoxLayout(row);
    buttons->setContentsMargins(0, 0, 0, 0);
    write_ = new QPushButton(tr("Write it (PDF)\u2026"));
    write_->setObjectName("writeReport");
    stop_ = new QPushButton(tr("Stop"));
    stop_->setEnabled(false);
    buttons->addWidget(write_, 1);
    buttons->addWidget(stop_);
    form->addRow(row);
    said_ = note();
    said_->setObjectName("reportSaid");
    form->addRow(said_);
    connect(title_, &QLineEdit::editingFinished, this, &ReportStage::keepPlan);
    connect(sections_, &QListWidget::itemChanged, this, &ReportStage::keepPlan);
    connect(sections_->model(), &QAbstractItemModel::rowsMoved, this, &ReportStage::keepPlan);
    connect(sections_, &QListWidget::currentRowChanged, this, &ReportStage::showText);
    connect(text_, &QPlainTextEdit::textChanged, this, [this] {
        if (filling_ || !sections_->currentItem()) return;
        sections_->currentItem()->setData(Qt::UserRole + 1, text_->toPlainText());
    });
    connect(stop_, &QPushButton::clicked, this, [this] { job_.cancel(); });
    connect(write_, &QPushButton::clicked, this, [this] {
        if (!document_.isOpen()) return;
        const QString file =
            askWhereToSave(middle_.window(), tr("Report"),
                           QString::fromStdString(document_.base().folder().parent_path().string()) + "/report.pdf",
                           tr("PDF (*.pdf)"));
        if (!file.isEmpty()) writeReport(file);
    });
    document_.when(Change::Campaign, this, [this] { readPlan(); });
    pages_ = new ReportPages;
    middle_.addWidget(pages_);
    constexpr int kOnceAtRest_ms = 1200;
    soon_.setSingleShot(true);
    soon_.setInterval(kOnceAtRest_ms);
    connect(&soon_, &QTimer::timeout, this, &ReportStage::preview);
    // A point that has come to its end, other reference values, another picture.
    document_.when(Change::Settings | Change::Values | Change::Campaign, this, [this] { stale_ = true; });
}

void ReportStage::readPlan() {
    nlohmann::json plan = nlohmann::json::object();
    const auto file = document_.base().folder() / command::kReportPlan;
    try {
        if (std::filesystem::exists(file)) plan = base::readJson(file);
    } catch (const base::InputError& e) {
        emit document_.problem(e.what());
    }
    filling_ = true;
    const auto title = plan.is_object() && plan.contains("title") && plan["title"].is_string()
                           ? plan["title"].get<std::string>()
                           : document_.base().settings.name;
    title_->setText(QString::fromStdString(title));
    sections_->clear();
    auto known = command::reportSections();
    const auto add = [&](const command::ReportSection& s, bool ticked, const QString& text) {
        auto* item = new QListWidgetItem(QString::fromStdString(s.title), sections_);
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setData(Qt::UserRole, QString::fromStdString(s.id));
        item->setData(Qt::UserRole + 1, text);
        item->setCheckState(ticked ? Qt::Checked : Qt::Unchecked);
    };
    const bool own = plan.is_object() && plan.contains("sections") && plan["sections"].is_array();
    if (own)
        for (const auto& s : plan["sections"]) {
            const auto id = s.is_object() ? s.value("id", "") : std::string();
            const auto at = std::find_if(known.begin(), known.end(), [&](const auto& k) { return k.id == id; });
            if (at == known.end()) continue;
            add(*at, true, QString::fromStdString(s.value("text", "")));
            known.erase(at);
        }
    for (const auto& s : known) add(s, !own, {});
    filling_ = false;
    sections_->setCurrentRow(0);
    showText();
}

void ReportStage::keepPlan() {
    if (filling_ || !document_.isOpen()) return;
    nlohmann::json plan = {{"title", title_->text().toStdString()}, {"sections", nlohmann::json::array()}};
    for (int i = 0; i < sections_->count(); ++i) {
        const auto* item = sections_->item(i);
        if (item->checkState() != Qt::Checked) continue;
        nlohmann::json one = {{"id", item->data(Qt::UserRole).toString().toStdString()}};
        if (const auto text = item->data(Qt::UserRole + 1).toString(); !text.trimmed().isEmpty())
            one["text"] = text.toStdString();
        plan["sections"].push_back(one);
    }
    try {
        base::replaceFile(document_.base().folder() / command::kReportPlan, plan.dump(2) + "\n");
        stale_ = true;
        if (current_) soon_.start();
    } catch (const base::InputError& e) {
        emit document_.problem(e.what());
    }
}

void ReportStage::showText() {
    filling_ = true;
    text_->setPlainText(sections_->currentItem() ? sections_->currentItem()->data(Qt::UserRole + 1).toString()
                                                 : QString());
    filling_ = false;
}

ReportStage::Told ReportStage::write(const QString& file, const std::string& campaign,
                                     const Job<Told>::Wanted& wanted) {
    try {
        const auto made = command::perform(
            "report", {{"campaign", campaign}, {"out", file.toStdString()}}, [&](const nlohmann::json& news) {
                if (news.contains("doing")) {
                    const QString line = tr("%1 (%2 %)")
                                             .arg(QString::fromStdString(news["doing"]))
                                             .arg(100.0 * news.value("progress", 0.0), 0, 'f', 0);
                    QMetaObject::invokeMethod(
                        this,
                        [this, line] {
                            if (job_.running() || previewJob_.running()) said_->setText(line);
                        },
                        Qt::QueuedConnection);
                }
                return wanted();
            });
        return {tr("%1 pages in %2.").arg(made.value.value("pages", 0)).arg(file), true};
    } catch (const base::Cancelled&) {
        return {tr("Stopped; nothing was written.")};
    } catch (const std::exception& e) {
        return {QString(e.what())};
    }
}

void ReportStage::writeReport(const QString& file) {
    if (job_.running()) return;
    write_->setEnabled(false);
    stop_->setEnabled(true);
    job_.start([this, file, campaign = document_.base().folder().string()](
                   const Job<Told>::Wanted& wanted) { return write(file, campaign, wanted); },
               [this](const Told& told) {
                   said_->setText(told.text);
                   write_->setEnabled(true);
                   stop_->setEnabled(false);
               });
}

// The pages as they would be printed now; what was on its way before is given up.
void ReportStage::preview() {
    if (!document_.isOpen() || !current_ || job_.running()) return;
    previewJob_.cancel();
    const QString file = scratch_.filePath(QString("%1.pdf").arg(++previewNumber_));
    stale_ = false;
    previewJob_.start([this, file, campaign = document_.base().folder().string()](
                          const Job<Told>::Wanted& wanted) { return write(file, campaign, wanted); },
                      [this, file](const Told& told) {
                          if (!told.written) {
                              said_->setText(told.text);
                              return;
                          }
                          if (pages_->open(file)) said_->setText(tr("%1 pages.").arg(pages_->pages()));
                          QFile::remove(scratch_.filePath(QString("%1.pdf").arg(previewNumber_ - 1)));
                          if (current_) show();
                      });
}

QString ReportStage::keyFigure() const {
    return tr("tables, pictures");
}
Stage::State ReportStage::state() const {
    return State::Ready;
}
void ReportStage::show() {
    if (stale_ && document_.isOpen()) soon_.start();
    if (pages_->pages() > 0) middle_.setCurrentWidget(pages_);
}

}  // namespace cvane::desk
