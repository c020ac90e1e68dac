#pragma once
#include <QFutureWatcher>
#include <QObject>
#include <QUndoStack>
#include <atomic>
#include <memory>

#include "campaign/campaign.h"
#include "campaign/folder_lock.h"
#include "campaign/grid_stage.h"
#include "campaign/model_stage.h"
#include "campaign/preflight.h"
#include "campaign/run_files.h"
#include "shape/health.h"

namespace cvane::desk {

/// What was found out about the placed model away from the window's thread.
struct ModelFacts {
    std::shared_ptr<const shape::Surface> placed;
    campaign::ModelMeasures measures;
    QString error;
};

/// The open campaign and all that the parts of the window share. Parts change settings through `change`, one call for each
/// intent of the user, and hear of changes by signals; they do not know each other.
class Document : public QObject {
    Q_OBJECT
  public:
    explicit Document(QObject* parent = nullptr);
    ~Document() override;

    bool isOpen() const { return campaign_ != nullptr; }
    void open(const QString& folder);                                                ///< failures arrive by problem()
    void create(const QString& folder, const QString& modelFile, const QString& unit);

    const campaign::Campaign& campaign() const { return *campaign_; }
    const campaign::Settings& settings() const { return campaign_->settings; }
    /// Replaces the settings under the user's words for it; saved at once, undone by undoStack().
    void change(const QString& intent, const campaign::Settings& next);
    QUndoStack& undoStack() { return undo_; }

    bool modelReady() const { return facts_.placed != nullptr; }
    const shape::Surface& placed() const { return *facts_.placed; }
    const campaign::ModelMeasures& measures() const { return facts_.measures; }
    const air::Reference& reference() const { return reference_; }
    const std::vector<campaign::Remark>& remarks() const { return remarks_; }
    const std::optional<shape::Health>& health() const { return health_; }

    bool gridCurrent() const { return isOpen() && gridCurrent_; }
    /// From makeGrid() until its end has been told by gridChanged(): a thread that is over but not yet heard of is still running.
    bool gridRunning() const { return gridRunning_; }
    std::shared_ptr<const grid::Grid> grid() const { return grid_; }                 ///< of the present settings, once loaded
    std::shared_ptr<const grid::Geometry> geometry() const { return geometry_; }
    void makeGrid();
    void cancelGrid() { cancelGrid_ = true; }

    const std::vector<campaign::PointReport>& reports() const { return reports_; }
    bool reportsKnown() const { return reportsKnown_; }                               ///< how all points stand has been read
    int selected() const { return selected_; }                                       ///< index into reports, -1: none
    const campaign::PointReport* selectedReport() const;
    void select(int index);
    /// Reads the points' files away from the window's thread; reportsChanged() follows.
    void refreshReports();

  signals:
    void opened();
    void settingsChanged();
    void modelChanged();
    void healthKnown();
    void gridProgressed(double fraction, const QString& doing);
    void gridChanged();
    void reportsChanged();
    void selectionChanged();
    void problem(const QString& sentence);

  private:
    friend class ChangeSettings;
    void take(const campaign::Settings& next);
    void startModelJob();
    void modelJobDone();
    void loadGrid();
    void checkAll();
    void reportsRead();
    void takeReports(std::vector<campaign::PointReport> reports);

    std::unique_ptr<campaign::Campaign> campaign_;
    std::unique_ptr<campaign::FolderLock> lock_;
    std::shared_ptr<const shape::Surface> imported_;
    QString importedFrom_;
    ModelFacts facts_;
    air::Reference reference_;
    std::vector<campaign::Remark> remarks_;
    std::optional<shape::Health> health_;
    std::shared_ptr<const grid::Grid> grid_;
    std::shared_ptr<const grid::Geometry> geometry_;
    std::filesystem::path gridFile_;  ///< of the present settings
    bool gridCurrent_ = false, modelJobAgain_ = false;
    std::atomic<bool> cancelGrid_{false}, leaving_{false};
    QFutureWatcher<std::pair<std::shared_ptr<const shape::Surface>, ModelFacts>> modelJob_;
    QFutureWatcher<shape::Health> healthJob_;
    QFutureWatcher<QString> gridJob_;
    bool gridRunning_ = false;
    using LoadedGrid = std::pair<std::shared_ptr<const grid::Grid>, std::shared_ptr<const grid::Geometry>>;
    QFutureWatcher<LoadedGrid> loadJob_;
    QFutureWatcher<std::vector<campaign::PointReport>> reportsJob_;
    bool reportsAgain_ = false, reportsKnown_ = false;
    std::vector<campaign::PointReport> reports_;
    int selected_ = -1;
    QUndoStack undo_;
};

}  // namespace cvane::desk
