#include "desk/document.h"

#include <QtConcurrent>
#include <chrono>

#include "base/errors.h"
#include "base/time_left.h"
#include "base/units.h"
#include "campaign/points.h"
#include "grid/cgns_file.h"
#include "shape/import.h"

namespace cvane::desk {

/// One intent of the user, undone and redone as a whole.
class ChangeSettings : public QUndoCommand {
  public:
    ChangeSettings(Document& d, const QString& intent, campaign::Settings before, campaign::Settings after)
        : QUndoCommand(intent), document_(d), before_(std::move(before)), after_(std::move(after)) {}
    void undo() override { document_.take(before_); }
    void redo() override { document_.take(after_); }

  private:
    Document& document_;
    campaign::Settings before_, after_;
};

Document::Document(QObject* parent) : QObject(parent) {
    connect(&reportsJob_, &QFutureWatcherBase::finished, this, &Document::reportsRead);
    connect(&modelJob_, &QFutureWatcherBase::finished, this, &Document::modelJobDone);
    connect(&healthJob_, &QFutureWatcherBase::finished, this, [this] {
        if (leaving_) return;
        health_ = healthJob_.result();
        emit healthKnown();
    });
    connect(&gridJob_, &QFutureWatcherBase::finished, this, [this] {
        gridRunning_ = false;
        const QString error = gridJob_.result();
        if (!error.isEmpty()) emit problem(error);
        checkAll();
        emit gridChanged();
    });
    connect(&loadJob_, &QFutureWatcherBase::finished, this, [this] {
        std::tie(grid_, geometry_) = loadJob_.result();
        emit gridChanged();
    });
}

Document::~Document() {
    leaving_ = true;
    cancelGrid_ = true;
    reportsJob_.waitForFinished();
    modelJob_.waitForFinished();
    healthJob_.waitForFinished();
    gridJob_.waitForFinished();
    loadJob_.waitForFinished();
}

void Document::open(const QString& folder) {
    try {
        auto c = std::make_unique<campaign::Campaign>(campaign::Campaign::open(folder.toStdString()));
        auto lock = std::make_unique<campaign::FolderLock>(c->folder());
        cancelGrid_ = true;
        gridJob_.waitForFinished();
        campaign_ = std::move(c);
        lock_ = std::move(lock);
    } catch (const base::InputError& e) {
        emit problem(e.what());
        return;
    }
    undo_.clear();
    facts_ = {};
    grid_.reset();
    geometry_.reset();
    gridFile_.clear();
    imported_.reset();
    health_.reset();
    selected_ = -1;
    reports_.clear();
    reportsKnown_ = false;
    emit opened();
    emit settingsChanged();
    startModelJob();
}

void Document::create(const QString& folder, const QString& modelFile, const QString& unit) {
    try {
        campaign::Campaign::create(folder.toStdString(), modelFile.toStdString(), unit.toStdString());
    } catch (const base::InputError& e) {
        emit problem(e.what());
        return;
    }
    open(folder);
}

void Document::change(const QString& intent, const campaign::Settings& next) {
    if (!isOpen() || next == settings()) return;
    undo_.push(new ChangeSettings(*this, intent, settings(), next));
}

void Document::take(const campaign::Settings& next) {
    const bool model = !(next.model == settings().model) || next.tunnel.halfModel != settings().tunnel.halfModel;
    const auto before = settings();
    campaign_->settings = next;
    try {
        campaign_->save();
    } catch (const base::InputError& e) {
        campaign_->settings = before;
        emit problem(e.what());
    }
    emit settingsChanged();
    if (model)
        startModelJob();
    else
        checkAll();
}

void Document::startModelJob() {
    if (modelJob_.isRunning()) {
        modelJobAgain_ = true;
        return;
    }
    const QString file = QString::fromStdString(campaign_->modelFile().string() + "|" + settings().model.unit);
    const bool known = imported_ && file == importedFrom_;
    importedFrom_ = file;
    modelJob_.setFuture(QtConcurrent::run([imported = known ? imported_ : nullptr, c = *campaign_]() mutable {
        std::pair<std::shared_ptr<const shape::Surface>, ModelFacts> out;
        try {
            if (!imported)
                imported = std::make_shared<const shape::Surface>(shape::readSurface(c.modelFile(), base::unitNamed(base::lengthUnits(), c.settings.model.unit).inSI));
            out.first = imported;
            out.second.placed = std::make_shared<const shape::Surface>(campaign::placedModel(*imported, c.settings.model));
            out.second.measures = campaign::measure(*out.second.placed, c.settings.tunnel.halfModel);
        } catch (const std::exception& e) {
            out.second.error = e.what();
        }
        return out;
    }));
}

void Document::modelJobDone() {
    if (leaving_) return;
    auto [imported, facts] = modelJob_.result();
    if (modelJobAgain_) {
        modelJobAgain_ = false;
        imported_ = imported;
        startModelJob();
        return;
    }
    if (!facts.error.isEmpty()) {
        emit problem(facts.error);
        return;
    }
    const bool fresh = imported != imported_ || !health_;
    imported_ = imported;
    facts_ = facts;
    checkAll();
    emit modelChanged();
    if (fresh && !healthJob_.isRunning())
        healthJob_.setFuture(QtConcurrent::run([this, s = imported_] {
            try {
                return shape::checkHealth(*s, [this](double, std::string_view) { return !leaving_; });
            } catch (const base::Cancelled&) {
                return shape::Health{};
            }
        }));
}

void Document::checkAll() {
    if (!modelReady()) return;
    reference_ = campaign::resolveReference(settings().reference, measures(), settings().tunnel.halfModel);
    remarks_ = campaign::preflight(*campaign_, measures());
    const auto file = campaign::gridFile(*campaign_);
    std::error_code ec;
    gridCurrent_ = std::filesystem::exists(file, ec);
    if (file != gridFile_ || (gridCurrent_ && !grid_)) {
        gridFile_ = file;
        grid_.reset();
        geometry_.reset();
        if (gridCurrent_) loadGrid();
        emit gridChanged();
    }
    refreshReports();
    emit settingsChanged();
}

void Document::loadGrid() {
    loadJob_.setFuture(QtConcurrent::run([file = gridFile_]() -> LoadedGrid {
        try {
            auto g = std::make_shared<const grid::Grid>(grid::readCgns(file));
            auto geo = std::make_shared<const grid::Geometry>(grid::geometryOf(*g));
            return {g, geo};
        } catch (const std::exception&) {
            return {};
        }
    }));
}

void Document::makeGrid() {
    if (!isOpen() || gridRunning_) return;
    cancelGrid_ = false;
    gridRunning_ = true;
    gridJob_.setFuture(QtConcurrent::run([this, c = *campaign_]() -> QString {
        auto last = std::chrono::steady_clock::now() - std::chrono::seconds(1);
        const base::TimeLeft left;
        try {
            campaign::makeGrid(c, [&](double fraction, std::string_view doing) {
                const auto now = std::chrono::steady_clock::now();
                if (now - last > std::chrono::milliseconds(100) || fraction >= 1.0) {
                    last = now;
                    const std::string rest = left.words(fraction);
                    emit gridProgressed(fraction, QString::fromUtf8(doing.data(), static_cast<qsizetype>(doing.size())) + (rest.empty() ? QString() : ", " + QString::fromStdString(rest)));
                }
                return !cancelGrid_;
            });
        } catch (const base::Cancelled&) {
            return {};
        } catch (const std::exception& e) {
            return e.what();
        }
        return {};
    }));
    emit gridChanged();
}

const campaign::PointReport* Document::selectedReport() const {
    return selected_ >= 0 && selected_ < static_cast<int>(reports_.size()) ? &reports_[static_cast<std::size_t>(selected_)] : nullptr;
}

void Document::select(int index) {
    if (index == selected_) return;
    selected_ = index;
    emit selectionChanged();
}

void Document::refreshReports() {
    if (!modelReady()) return;
    // Which points there are is known at once; how they stand is read from their files.
    std::vector<campaign::PointReport> listed;
    try {
        for (const auto& p : campaign::pointsOf(settings().schedule)) {
            const auto known = std::find_if(reports_.begin(), reports_.end(), [&](const auto& r) { return r.point == p; });
            listed.push_back(known != reports_.end() ? *known : campaign::PointReport{});
            listed.back().point = p;
        }
    } catch (const base::InputError&) {
        // The preflight list names what is wrong with the schedule.
    }
    const bool changed = !std::equal(listed.begin(), listed.end(), reports_.begin(), reports_.end(), [](const auto& a, const auto& b) { return a.point == b.point; });
    if (changed) {
        reportsKnown_ = false;
        takeReports(std::move(listed));
    }
    if (reportsJob_.isRunning()) {
        reportsAgain_ = true;
        return;
    }
    std::vector<campaign::Point> points;
    for (const auto& r : reports_) points.push_back(r.point);
    reportsJob_.setFuture(QtConcurrent::run([c = *campaign_, points = std::move(points), reference = reference_] {
        std::vector<campaign::PointReport> reports;
        for (const auto& p : points) reports.push_back(campaign::reportOf(c, p, reference));
        return reports;
    }));
}

void Document::reportsRead() {
    if (leaving_) return;
    if (reportsAgain_) {
        // Settings or files have changed since: what was read may belong to another campaign.
        reportsAgain_ = false;
        refreshReports();
        return;
    }
    reportsKnown_ = true;
    takeReports(reportsJob_.result());
}

void Document::takeReports(std::vector<campaign::PointReport> reports) {
    const std::size_t before = reports_.size();
    reports_ = std::move(reports);
    if (selected_ >= static_cast<int>(reports_.size()) || (selected_ < 0 && !reports_.empty()) || before != reports_.size()) {
        selected_ = reports_.empty() ? -1 : std::clamp(selected_, 0, static_cast<int>(reports_.size()) - 1);
        emit selectionChanged();
    }
    emit reportsChanged();
}

}  // namespace cvane::desk
