#include "desk/stages/study_panel.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

#include "base/errors.h"
#include "command/action.h"
#include "desk/look.h"

namespace cvane::desk {

StudyPanel::StudyPanel(Document& d, RunQueue& q) : QGroupBox(tr("Grid convergence study")), document_(d), queue_(q) {
    pool_.setMaxThreadCount(1);
    auto* column = new QVBoxLayout(this);
    auto* row = new QHBoxLayout;
    budgets_ = new QLineEdit;
    budgets_->setObjectName("studyBudgets");
    budgets_->setAccessibleName(tr("Budgets of the study"));
    budgets_->setToolTip(
        tr("Budgets of cells with commas, two or more. Empty: a quarter, half and all of the grid\u2019s"));
    budgets_->setClearButtonEnabled(true);
    row->addWidget(new QLabel(tr("Budgets")));
    row->addWidget(budgets_, 1);
    column->addLayout(row);
    auto* buttons = new QHBoxLayout;
    start_ = new QPushButton(tr("Study the selected point"));
    start_->setObjectName("startStudy");
    start_->setToolTip(
        tr("Runs the point on a grid of each budget, the coarsest first. What is there already is not run again"));
    stop_ = new QPushButton(tr("Stop"));
    stop_->setObjectName("stopStudy");
    stop_->setToolTip(tr("What has been computed is kept; the next study goes on from there"));
    buttons->addWidget(start_, 1);
    buttons->addWidget(stop_);
    column->addLayout(buttons);
    words_ = new QLabel;
    words_->setObjectName("studyWords");
    words_->setWordWrap(true);
    words_->setProperty("role", "note");
    words_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    column->addWidget(words_);
    connect(start_, &QPushButton::clicked, this, &StudyPanel::start);
    connect(stop_, &QPushButton::clicked, this, [this] {
        job_.cancel();
        words_->setText(tr("Stopping after this iteration."));
    });
    d.when(Change::Settings | Change::Campaign, this, [this] {
        const int all = document_.settings().grid.cellBudget;
        budgets_->setPlaceholderText(QString("%1, %2, %3").arg(all / 4).arg(all / 2).arg(all));
    });
    d.when(Change::Campaign, this, [this] {
        job_.forget();
        value_ = nullptr;
        words_->clear();
    });
    d.when(Change::Selection | Change::Points, this, [this] { refresh(); });
    connect(&q, &RunQueue::changed, this, &StudyPanel::refresh);
    refresh();
}

StudyPanel::~StudyPanel() {
    job_.forget();
    pool_.waitForDone();
}

void StudyPanel::refresh() {
    // Two solvers at a time would take twice as long each.
    start_->setEnabled(document_.selected().has_value() && !running() && !queue_.busy());
    stop_->setEnabled(running());
}

void StudyPanel::start() {
    if (!document_.selected()) return;
    nlohmann::json asked = {
        {"campaign", document_.base().folder().string()},
        {"point", document_.selected()->name()},
        {"ranks", queue_.ranks()},
        {"budgets",
         (budgets_->text().trimmed().isEmpty() ? budgets_->placeholderText() : budgets_->text()).toStdString()}};
    words_->setText(tr("Looking at what is there."));
    job_.start(
        [this, asked](const Job<Told>::Wanted& wanted) {
            Told told;
            // What is going on, in one line that does not grow.
            const auto say = [this](const QString& line) {
                QMetaObject::invokeMethod(
                    this,
                    [this, line] {
                        if (running()) words_->setText(line);
                    },
                    Qt::QueuedConnection);
            };
            try {
                told.value = command::perform("study", asked, [&](const nlohmann::json& news) {
                                 if (news.contains("doing"))
                                     say(QString::fromStdString(news["doing"]));
                                 else if (news.contains("iteration"))
                                     say(tr("%1%2, iteration %3 of at most %4: CD %5")
                                             .arg(QString::fromStdString(news.value("point", "")),
                                                  news.value("coarse", false) ? tr(", coarse grid") : QString())
                                             .arg(news.value("iteration", 0))
                                             .arg(news.value("most", 0))
                                             .arg(news.value("CD", 0.0), 0, 'f', 5));
                                 else if (news.contains("warning"))
                                     told.error += QString::fromStdString(news["warning"]) + "\n";
                                 return wanted();
                             }).value;
            } catch (const base::Cancelled&) {
                told.error = tr("Stopped. What has been computed is kept.");
            } catch (const std::exception& e) {
                told.error = e.what();
            }
            return told;
        },
        [this](const Told& told) { done(told); });
    refresh();
    emit changed();
}

void StudyPanel::done(const Told& told) {
    QString text;
    if (told.value.is_object() && told.value.contains("grids") && told.value["grids"].size() > 1) {
        value_ = told.value;
        for (const char* name : {"CD", "CL"}) {
            const auto& of = value_.at(name);
            const double band = of.at("band");
            if (of.at("order").is_null())
                text += tr("%1 approaches no one value yet: \u00b1 %2 on the finest.\n").arg(name).arg(band, 0, 'f', 5);
            else if (of.at("extrapolated").is_null())
                text += tr("%1 shows order %2, too far from 1 to 2 to be carried on: \u00b1 %3 on the finest.\n")
                            .arg(name)
                            .arg(of.at("order").get<double>(), 0, 'f', 1)
                            .arg(band, 0, 'f', 5);
            else
                text += tr("%1 approaches %2 with order %3: \u00b1 %4 on the finest.\n")
                            .arg(name)
                            .arg(of.at("extrapolated").get<double>(), 0, 'f', 5)
                            .arg(of.at("order").get<double>(), 0, 'f', 1)
                            .arg(band, 0, 'f', 5);
        }
    }
    if (!told.error.isEmpty()) text += told.error.trimmed();
    words_->setText(text.isEmpty() ? tr("Fewer than two grids have a settled flow: nothing can be said of the cells.")
                                   : text.trimmed());
    document_.refreshReports();
    refresh();
    emit changed();
}

bool StudyPanel::hasPlots() const {
    return value_.is_object() && document_.selected() && value_.value("point", "") == document_.selected()->name();
}

void StudyPanel::plot(Plot& drag, Plot& lift) const {
    for (const auto& [plot, name] : {std::pair{&drag, "CD"}, std::pair{&lift, "CL"}}) {
        plot->begin(tr("size of the cells, over the finest"), name);
        std::vector<double> size, value, band;
        for (const auto& g : value_.at("grids")) {
            size.push_back(g.at("size"));
            value.push_back(g.at(name));
            band.push_back(0.0);
        }
        const auto& of = value_.at(name);
        band.back() = of.at("band");
        plot->add(tr("computed, \u00b1 on the finest"), size, value, look::accent, 1, band);
        if (!of.at("extrapolated").is_null())
            plot->add(tr("approached"), {0.0, size.back()}, {of.at("extrapolated"), value.back()}, look::calm, 2);
        plot->finish();
    }
}

}  // namespace cvane::desk
