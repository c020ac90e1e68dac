#pragma once
#include <QFileSystemWatcher>
#include <QObject>
#include <QThreadPool>
#include <QUndoStack>
#include <deque>
#include <functional>
#include <memory>

#include "campaign/plan/preflight.h"
#include "campaign/steps/grid_stage.h"
#include "campaign/steps/reports.h"
#include "desk/model/job.h"
#include "shape/health.h"

namespace cvane::desk {

/// What has changed of a document; one signal may tell of several.
enum class Change : unsigned {
    Campaign = 1,    ///< another one is open
    Settings = 2,    ///< of the base or of what is looked at; which configuration and set-up those are
    Model = 4,       ///< the placed model and its measures
    Health = 8,      ///< what is wrong with its surface
    Grid = 16,       ///< whether there is one, whether one is being made, which is loaded
    Points = 32,     ///< which there are, how they stand: iterations of one that runs, too
    Selection = 64,  ///< which of them is selected
    Checks = 128,    ///< what the preflight list says
    Values = 256     ///< which points there are, their states and results; comes with Points
};
Q_DECLARE_FLAGS(Changes, Change)
Q_DECLARE_OPERATORS_FOR_FLAGS(Changes)

/// The open campaign and all that the parts of the window share. Parts change settings through `change`, one call for
/// each intent of the user, and hear of changes by `changed`; they do not know each other.
class Document : public QObject {
    Q_OBJECT
  public:
    explicit Document(QObject* parent = nullptr);
    ~Document() override;

    bool isOpen() const { return base_ != nullptr; }
    void open(const QString& folder);  ///< failures arrive by problem()
    /// Without a model file it is for work on sections.
    void create(const QString& folder, const QString& modelFile, const QString& unit,
                std::optional<double> facetTolerance = {});

    /// Calls `then` after each change of one of these.
    template <class Then>
    void when(Changes which, QObject* context, Then then) {
        connect(this, &Document::changed, context, [which, then](Changes what) {
            if (what & which) then();
        });
    }

    /// As the configuration and set-up that are looked at make them.
    const campaign::Campaign& campaign() const { return *seen_; }
    const campaign::Settings& settings() const { return isOpen() ? seen_->settings : none_; }
    const campaign::Campaign& base() const { return *base_; }
    const std::string& configuration() const { return configuration_; }
    const std::string& setUp() const { return setUp_; }
    void lookAt(const std::string& configuration, const std::string& setUp);

    /// Takes settings as they shall be of what is looked at, under the user's words for the change; what differs goes
    /// into the configuration, the set-up or the base. Saved at once, undone by undoStack(). Settings out of their
    /// range are refused by problem().
    /// @param place  name of the stage on which it was made, for undo to lead there
    void change(const QString& intent, const campaign::Settings& next, const QString& place = {});
    /// The same for the base: which configurations and set-ups there are.
    void changeBase(const QString& intent, const campaign::Settings& next, const QString& place = {});
    QUndoStack& undoStack() { return undo_; }
    QThreadPool& pool() { return pool_; }

    bool modelReady() const { return isOpen() && placed_ != nullptr; }
    /// Does what needs to know where the model stands: at once, or after it has been placed as the settings say now. A
    /// second click never reads what was measured before the first. Without a model nothing is done.
    void whenPlaced(std::function<void()> act);
    /// The model is on its way to another place: placed() and measures() are of the model as it stood before the last
    /// change.
    bool placing() const { return modelJob_.running(); }
    const shape::Surface& placed() const { return *placed_; }
    std::shared_ptr<const shape::Surface> placedShared() const { return placed_; }
    int modelGeneration() const {
        return modelGeneration_;
    }  ///< another one each time that the placed surface is another
    int gridGeneration() const { return gridGeneration_; }  ///< the same of the loaded grid
    const campaign::ModelMeasures& measures() const { return measures_; }
    const air::Reference& reference() const { return reference_; }
    grid::Tunnel tunnel() const { return campaign::tunnelFor(settings(), measures()); }  ///< as the grid has it
    const std::vector<campaign::Remark>& remarks() const { return remarks_; }
    const std::optional<shape::Health>& health() const { return health_; }

    bool gridCurrent() const { return isOpen() && gridCurrent_; }
    /// From makeGrid() until its end has been told.
    bool gridRunning() const { return gridJob_.running(); }
    std::shared_ptr<const grid::Grid> grid() const { return grid_; }  ///< of the present settings, once loaded
    std::shared_ptr<const grid::Geometry> geometry() const { return geometry_; }
    /// The file that the grid at hand is from. Right after another build is looked at it is still that of the one
    /// before: what the settings would name is another grid's file then.
    const std::filesystem::path& gridFile() const { return gridFile_; }
    /// The wind of first heights with which the last grid would be that of the present settings again, where it is the
    /// wind alone that took it away.
    std::optional<Vec3> heightsThatKeepTheGrid() const;
    void makeGrid();
    void makeGridOf(const campaign::Campaign& seen);  ///< of another point than those that are looked at
    void cancelGrid() { gridJob_.cancel(); }

    const std::vector<campaign::PointReport>& reports() const { return reports_; }
    bool reportsKnown() const { return reportsKnown_; }                         ///< how all points stand has been read
    const campaign::PointReport* reportOf(const campaign::Point& point) const;  ///< null: no such point
    const campaign::PointReport* selectedReport() const { return selected_ ? reportOf(*selected_) : nullptr; }
    const std::optional<campaign::Point>& selected() const { return selected_; }
    /// Selects a point, and looks at its configuration and set-up.
    void select(const campaign::Point& point);
    /// Those that are looked at together, the selected one first; it alone where nothing was picked with it.
    std::vector<campaign::Point> picked() const;
    void pick(std::vector<campaign::Point> points);
    /// Reads the points' files away from the window's thread; a change of Points follows.
    void refreshReports();
    /// Looks at the folder again: grid, points, checks.
    void refreshAll() { checkAll(); }
    /// What its models measure, for work away from the window's thread.
    std::shared_ptr<campaign::MeasureBook> book() const { return book_; }

  signals:
    void changed(Changes what);
    void gridProgressed(double fraction, const QString& doing);
    void problem(const QString& sentence);
    void said(const QString& sentence);      ///< news that are no trouble
    void undoneAt(const QString& place);     ///< a change made on that stage was undone or done again
    void stageWanted(const QString& title);  ///< the user follows a word of advice to that stage
    void placeWanted(const Vec3& place);     ///< the user wants to see what is there [m]

  private:
    friend class ChangeSettings;
    struct ModelOutcome {
        std::shared_ptr<const shape::Surface> imported, placed;
        campaign::ModelMeasures measures;
        QString error;
    };
    struct Checked {
        std::vector<campaign::Remark> remarks;
        std::filesystem::path gridFile;
        bool gridCurrent = false;
    };
    using LoadedGrid = std::pair<std::shared_ptr<const grid::Grid>, std::shared_ptr<const grid::Geometry>>;

    /// While one lives changes are gathered; the end of the outermost sends them as one signal.
    class Telling {
      public:
        explicit Telling(Document& d) : document_(d) { ++document_.telling_; }
        ~Telling() { document_.told(); }
        Telling(const Telling&) = delete;
        Telling& operator=(const Telling&) = delete;

      private:
        Document& document_;
    };
    void tell(Changes what);
    void told();
    bool take(const campaign::Settings& next);
    void push(const QString& intent, const campaign::Settings& next, const QString& place);
    void look();  ///< makes what is looked at out of the base
    void lookAsSelected();
    void startModelJob();
    void modelJobDone(const ModelOutcome& outcome);
    void takeModel(const ModelOutcome& outcome);
    void actPlaced();
    void startHealthJob();
    void checkAll();
    void takeChecked(const Checked& checked);
    void loadGrid();
    void forgetJobs();
    void listPoints();
    void fileChanged();

    const campaign::Settings none_;  ///< of no campaign
    std::unique_ptr<campaign::Campaign> base_, seen_;
    std::string configuration_, setUp_;
    std::shared_ptr<campaign::MeasureBook> book_ = std::make_shared<campaign::MeasureBook>();
    std::shared_ptr<const shape::Surface> imported_, placed_;
    QString importedFrom_;
    campaign::ModelMeasures measures_;
    air::Reference reference_;
    std::vector<campaign::Remark> remarks_;
    std::optional<shape::Health> health_;
    std::shared_ptr<const grid::Grid> grid_;
    std::shared_ptr<const grid::Geometry> geometry_;
    std::filesystem::path gridFile_;
    bool gridCurrent_ = false;
    std::optional<Vec3> lastHeights_;  ///< of the last grid that was current
    std::vector<campaign::PointReport> reports_;
    bool reportsKnown_ = false, reportsAgain_ = false;
    std::optional<campaign::Point> selected_;
    std::vector<campaign::Point> picked_;
    int modelGeneration_ = 0, gridGeneration_ = 0;
    std::deque<std::function<void()>> toPlaced_;  ///< of whenPlaced(), in their order
    QUndoStack undo_;
    Changes toTell_;
    int telling_ = 0;
    QFileSystemWatcher watcher_;
    QThreadPool pool_;
    Job<ModelOutcome> modelJob_{*this, pool_};
    Job<std::optional<shape::Health>> healthJob_{*this, pool_};
    Job<Checked> checkJob_{*this, pool_};
    Job<LoadedGrid> loadJob_{*this, pool_};
    Job<QString> gridJob_{*this, pool_};
    Job<std::vector<campaign::PointReport>> reportsJob_{*this, pool_};
};

}  // namespace cvane::desk
