#include "desk/model/document.h"

#include <algorithm>
#include <chrono>

#include "base/errors.h"
#include "base/time_left.h"
#include "base/units.h"
#include "campaign/settings/variants.h"
#include "campaign/store/model_source.h"
#include "campaign/store/stored_grid.h"
#include "desk/model/change_settings.h"

namespace cvane::desk {

Document::Document(QObject* parent) : QObject(parent) {
    // Files, model and grid at once, and one to spare: they wait for the disk more than they compute.
    constexpr int kThreads = 4;
    pool_.setMaxThreadCount(kThreads);
    connect(&watcher_, &QFileSystemWatcher::fileChanged, this, &Document::fileChanged);
    connect(&watcher_, &QFileSystemWatcher::directoryChanged, this, &Document::fileChanged);
}

Document::~Document() {
    forgetJobs();
    pool_.waitForDone();
}

void Document::forgetJobs() {
    gridJob_.forget();
    modelJob_.forget();
    toPlaced_.clear();
    healthJob_.forget();
    checkJob_.forget();
    loadJob_.forget();
    reportsJob_.forget();
}

void Document::tell(Changes what) {
    const Telling now(*this);
    toTell_ |= what;
}

void Document::told() {
    if (--telling_ > 0) return;
    const Changes what = toTell_;
    toTell_ = {};
    if (what) emit changed(what);
}

void Document::open(const QString& folder) {
    const Telling once(*this);
    try {
        base_ = std::make_unique<campaign::Campaign>(campaign::Campaign::open(folder.toStdString()));
    } catch (const std::exception& e) {
        emit problem(e.what());
        return;
    }
    forgetJobs();
    undo_.clear();
    configuration_.clear();
    setUp_.clear();
    placed_.reset();
    imported_.reset();
    health_.reset();
    remarks_.clear();
    grid_.reset();
    geometry_.reset();
    gridFile_.clear();
    gridCurrent_ = false;
    lastHeights_.reset();
    selected_.reset();
    reports_.clear();
    reportsKnown_ = reportsAgain_ = false;
    book_ = std::make_shared<campaign::MeasureBook>();
    if (const auto watched = watcher_.files() + watcher_.directories(); !watched.isEmpty())
        watcher_.removePaths(watched);
    watcher_.addPath(QString::fromStdString((base_->folder() / "campaign.json").string()));
    look();
    listPoints();
    tell(Change::Campaign | Change::Settings | Change::Grid | Change::Points | Change::Values | Change::Selection |
         Change::Model);
    startModelJob();
}

void Document::create(const QString& folder, const QString& modelFile, const QString& unit,
                      std::optional<double> facetTolerance) {
    try {
        if (modelFile.isEmpty())
            campaign::Campaign::createEmpty(folder.toStdString());
        else
            campaign::Campaign::create(folder.toStdString(), modelFile.toStdString(), unit.toStdString(),
                                       facetTolerance);
    } catch (const std::exception& e) {
        emit problem(e.what());
        return;
    }
    open(folder);
}

void Document::look() {
    const auto has = [](const std::vector<campaign::Variant>& all, const std::string& name) {
        return std::any_of(all.begin(), all.end(), [&](const auto& v) { return v.name == name; });
    };
    if (!has(base_->settings.configurations, configuration_)) configuration_.clear();
    if (!has(base_->settings.setUps, setUp_)) setUp_.clear();
    seen_ = std::make_unique<campaign::Campaign>(
        selected_ ? base_->of(campaign::Point{selected_->condition, configuration_, setUp_})
                  : base_->of(configuration_, setUp_));
}

// A symmetric model's half gives way to the whole in a wind from aside, and back.
void Document::lookAsSelected() {
    if (!isOpen() || base_->settings.modelExtent != campaign::ModelExtent::HalfWhereSymmetric) return;
    const bool half = settings().tunnel.halfModel;
    look();
    if (half == settings().tunnel.halfModel) return;
    tell(Change::Settings);
    startModelJob();
}

void Document::lookAt(const std::string& configuration, const std::string& setUp) {
    const Telling once(*this);
    if (!isOpen() || (configuration == configuration_ && setUp == setUp_)) return;
    const auto before = settings();
    configuration_ = configuration;
    setUp_ = setUp;
    look();
    if (selected_ && (selected_->configuration != configuration_ || selected_->setUp != setUp_)) {
        // The same condition of what is looked at now.
        selected_ = campaign::Point{selected_->condition, configuration_, setUp_, selected_->method};
        tell(Change::Selection);
    }
    tell(Change::Settings);
    if (before.model == settings().model && before.tunnel.halfModel == settings().tunnel.halfModel)
        checkAll();
    else
        startModelJob();
}

void Document::change(const QString& intent, const campaign::Settings& next, const QString& place) {
    const Telling once(*this);
    if (!isOpen() || next == settings()) return;
    try {
        campaign::checkRanges(next, "");
        push(intent, campaign::withVariantChanged(base_->settings, configuration_, setUp_, next), place);
    } catch (const std::exception& e) {
        emit problem(e.what());
        tell(Change::Settings);  // fields go back to what holds
    }
}

void Document::changeBase(const QString& intent, const campaign::Settings& next, const QString& place) {
    const Telling once(*this);
    if (!isOpen() || next == base_->settings) return;
    try {
        campaign::checkRanges(next, "");
        push(intent, next, place);
    } catch (const std::exception& e) {
        emit problem(e.what());
        tell(Change::Settings);
    }
}

void Document::push(const QString& intent, const campaign::Settings& next, const QString& place) {
    // Taken first: what cannot be saved must not enter the list of what can be undone.
    const auto before = base_->settings;
    if (gridCurrent_) lastHeights_ = campaign::keptHeightsWind(settings());
    auto kept = next;
    campaign::keepFirstHeights(*base_, kept);
    if (!take(kept)) return;
    undo_.push(new ChangeSettings(*this, intent, before, kept, place));
}

bool Document::take(const campaign::Settings& next) {
    const Telling once(*this);
    const auto seenBefore = settings();
    const auto before = base_->settings;
    base_->settings = next;
    try {
        base_->save();
        look();
    } catch (const std::exception& e) {
        base_->settings = before;
        look();
        emit problem(e.what());
        tell(Change::Settings);
        return false;
    }
    tell(Change::Settings);
    listPoints();
    // A name, or reference values, change neither the surface nor what it measures.
    const auto shapeOf = [](campaign::Settings s) {
        for (auto& p : s.model.parts) p.name = p.id(), p.source.clear();
        return std::pair(s.model, s.tunnel.halfModel);
    };
    if (shapeOf(seenBefore) == shapeOf(settings())) {
        if (placed_ && !(seenBefore.model == settings().model)) {
            auto named = std::make_shared<shape::Surface>(*placed_);
            for (std::size_t i = 0; i < std::min(named->parts.size(), settings().model.parts.size()); ++i)
                named->parts[i] = settings().model.parts[i];
            placed_ = std::move(named);
            ++modelGeneration_;
            tell(Change::Model);
        }
        checkAll();
    } else {
        startModelJob();
    }
    return true;
}

void Document::fileChanged() {
    const Telling once(*this);
    if (!isOpen()) return;
    const QString file = QString::fromStdString((base_->folder() / "campaign.json").string());
    if (!watcher_.files().contains(file)) watcher_.addPath(file);  // it was replaced in one step
    if (!base_->changedOnDisk()) return;
    try {
        auto read = campaign::Campaign::open(base_->folder());
        *base_ = std::move(read);
        undo_.clear();
        look();
        listPoints();
        tell(Change::Settings);
        startModelJob();
        emit problem(tr("Another program has changed the campaign; it was read again."));
    } catch (const std::exception& e) {
        emit problem(e.what());
    }
}

void Document::startModelJob() {
    if (!seen_->hasModel()) return;
    QString file;
    try {
        file = QString::fromStdString(campaign::sourceOf(*seen_)->sum() + "|" + settings().model.file + "|" +
                                      settings().model.unit);
    } catch (const base::InputError&) {
        // It is read all the same, and what is wrong with it said.
    }
    const auto known = imported_ && file == importedFrom_ ? imported_ : nullptr;
    modelJob_.start(
        [known, c = *seen_, book = book_](const auto&) {
            ModelOutcome out;
            try {
                out.imported = known ? known : std::make_shared<const shape::Surface>(campaign::sourceOf(c)->surface());
                out.placed =
                    std::make_shared<const shape::Surface>(campaign::placedModel(*out.imported, c.settings.model));
                out.measures = campaign::measure(c, *out.placed);
                book->note(c, out.measures);
            } catch (const std::exception& e) {
                out.error = e.what();
            }
            return out;
        },
        [this, file](const ModelOutcome& out) {
            if (out.error.isEmpty()) importedFrom_ = file;
            modelJobDone(out);
        });
}

void Document::whenPlaced(std::function<void()> act) {
    if (!modelReady()) return;
    toPlaced_.push_back(std::move(act));
    actPlaced();
}

void Document::actPlaced() {
    while (!toPlaced_.empty() && !placing()) {
        const auto act = std::move(toPlaced_.front());
        toPlaced_.pop_front();
        act();
    }
}

void Document::modelJobDone(const ModelOutcome& out) {
    if (!out.error.isEmpty()) toPlaced_.clear();
    takeModel(out);
    actPlaced();
}

void Document::takeModel(const ModelOutcome& out) {
    const Telling once(*this);
    if (!out.error.isEmpty()) {
        emit problem(out.error);
        return;
    }
    const bool fresh = out.imported != imported_ || !health_;
    imported_ = out.imported;
    placed_ = out.placed;
    ++modelGeneration_;
    measures_ = out.measures;
    tell(Change::Model);
    checkAll();
    if (fresh) startHealthJob();
}

void Document::startHealthJob() {
    health_.reset();
    healthJob_.start(
        [s = imported_](const auto& wanted) -> std::optional<shape::Health> {
            try {
                return shape::checkHealth(*s, [&](double, std::string_view) { return wanted(); });
            } catch (const base::Cancelled&) {
                return {};
            }
        },
        [this](std::optional<shape::Health> h) {
            health_ = std::move(h);
            if (health_) tell(Change::Health);
        });
}

void Document::checkAll() {
    const Telling once(*this);
    if (!modelReady()) return;
    reference_ = campaign::resolveReference(settings().reference, measures(), settings().tunnel.halfModel);
    checkJob_.start(
        [c = *seen_, m = measures_](const auto&) {
            Checked out;
            try {
                out.remarks = campaign::preflight(c, m);
                out.gridFile = campaign::gridFile(c);
                out.gridCurrent = campaign::gridIsCurrent(c);
            } catch (const std::exception& e) {
                out.remarks.push_back({true, e.what()});
            }
            return out;
        },
        [this](const Checked& c) { takeChecked(c); });
    reportsJob_.forget();  // what is being read is of settings before
    refreshReports();
    tell(Change::Settings);
}

void Document::takeChecked(const Checked& c) {
    const Telling once(*this);
    remarks_ = c.remarks;
    const bool was = gridCurrent_;
    gridCurrent_ = c.gridCurrent;
    if (c.gridFile != gridFile_ || (gridCurrent_ && !grid_)) {
        gridFile_ = c.gridFile;
        grid_.reset();
        geometry_.reset();
        std::error_code ec;
        if (std::filesystem::exists(gridFile_, ec)) loadGrid();
        tell(Change::Grid);
    } else if (was != gridCurrent_) {
        tell(Change::Grid);
    }
    tell(Change::Checks);
}

void Document::loadGrid() {
    loadJob_.start(
        [file = gridFile_](const auto&) -> LoadedGrid {
            try {
                auto g = std::make_shared<const grid::Grid>(campaign::readGrid(file));
                auto geo = std::make_shared<const grid::Geometry>(grid::geometryOf(*g));
                return {g, geo};
            } catch (const std::exception&) {
                return {};
            }
        },
        [this](const LoadedGrid& loaded) {
            std::tie(grid_, geometry_) = loaded;
            ++gridGeneration_;
            if (!grid_) emit problem(tr("The stored grid cannot be read: it is damaged. Make the grid again."));
            tell(Change::Grid);
        });
}

std::optional<Vec3> Document::heightsThatKeepTheGrid() const {
    if (!isOpen() || gridCurrent_ || !lastHeights_ || !campaign::heightsFollowWind(settings())) return std::nullopt;
    auto kept = *seen_;
    kept.settings.schedule.heightsWind = lastHeights_;
    return campaign::gridIsCurrent(kept) ? lastHeights_ : std::nullopt;
}

void Document::makeGrid() {
    if (isOpen()) makeGridOf(*seen_);
}

void Document::makeGridOf(const campaign::Campaign& seen) {
    const Telling once(*this);
    if (!isOpen() || gridRunning()) return;
    if (!base_->hasModel()) {
        emit problem(tr("This campaign has no model: it is for sections."));
        return;
    }
    gridJob_.start(
        [this, c = seen](const auto& wanted) -> QString {
            auto last = std::chrono::steady_clock::now() - std::chrono::seconds(1);
            const base::TimeLeft left;
            try {
                campaign::makeGrid(c, [&](double fraction, std::string_view doing) {
                    const auto now = std::chrono::steady_clock::now();
                    if (now - last > std::chrono::milliseconds(100) || fraction >= 1.0) {
                        last = now;
                        const std::string rest = left.words(fraction);
                        emit gridProgressed(fraction,
                                            QString::fromUtf8(doing.data(), static_cast<qsizetype>(doing.size())) +
                                                (rest.empty() ? QString() : ", " + QString::fromStdString(rest)));
                    }
                    return wanted();
                });
            } catch (const base::Cancelled&) {
                return {};
            } catch (const std::exception& e) {
                return e.what();
            }
            return {};
        },
        [this](const QString& error) {
            const Telling once(*this);
            if (!error.isEmpty()) emit problem(error);
            gridCurrent_ = campaign::gridIsCurrent(*seen_);
            checkAll();
            tell(Change::Grid);
        });
    tell(Change::Grid);
}

}  // namespace cvane::desk
