#pragma once
#include <QObject>
#include <QTimer>
#include <mutex>

#include "campaign/steps/section_stage.h"
#include "desk/model/document.h"

namespace cvane::desk {

/// Polars of the open campaign's sections: those that are stored at once, the others as they are computed, away from
/// the window's thread. In the field sections are solved when they are asked for.
class SectionWork : public QObject {
    Q_OBJECT
  public:
    explicit SectionWork(Document& document);

    struct Curve {
        campaign::PolarAsked asked;
        bool field = false;                              ///< solved in the field; else by panels
        std::vector<section::PolarPoint> points;         ///< in the order of the angles; of those that are known
        std::vector<section::PolarPoint> before;         ///< the polar that this one took the place of, for comparison
        std::vector<campaign::SectionFieldPoint> walls;  ///< of the field, as the points
        bool done() const { return field || points.size() == asked.what.values.size(); }
    };
    const std::vector<Curve>& curves() const { return curves_; }
    bool running() const { return job_.running(); }
    /// Of the panels' points that are asked for. 1 when all are there.
    double share() const;
    void stop();
    /// Computes what is missing, if a stop has left something.
    void goOn();

    /// Solves a section in the field at the campaign's angles and Reynolds numbers; what is settled is kept.
    void solveInField(const std::string& section);
    void stopField() { fieldJob_.cancel(); }
    bool fieldRunning() const { return fieldJob_.running(); }
    QString fieldWords() const { return fieldWords_; }

    /// What is drawn of a section at one angle.
    struct View {
        std::string section;
        double reynolds = 0.0;
        section::Contour outline;
        section::PointFigures figures;
        section::Distribution distribution;
        QString trouble;  ///< why there is none
    };
    const View& view() const { return view_; }
    /// Asks for the flow at an angle [rad]; `viewed` follows. The last one asked for counts.
    void look(const std::string& section, double reynolds, double alpha);
    /// The field's point that is nearest to what is viewed, within a quarter of a degree; null: none.
    const campaign::SectionFieldPoint* fieldView() const;

    /// Cells about a section as they are in the field: corners in chords.
    using Cells = std::vector<std::array<Eigen::Vector2f, 4>>;
    /// Makes the grid of a section; `gridded` follows, unless it cannot be made (a problem is said).
    void makeGrid(const std::string& section);
    const Cells& cells() const { return cells_; }

  signals:
    void changed();  ///< curves; at most ten times a second
    void viewed();
    void gridded();
    void fieldMoved();  ///< its words, or whether it runs

  private:
    void listCurves(bool anew);
    void listFields();
    void start();
    void takeFresh();
    Document& document_;
    campaign::SectionSettings listed_;  ///< of the curves
    std::vector<Curve> curves_;         ///< by panels first, then in the field
    View view_;
    Cells cells_;
    QString fieldWords_;
    std::mutex mutex_;
    std::vector<std::pair<std::string, section::PolarPoint>> fresh_;  ///< by key; guarded by mutex_
    QString freshWords_;                                              ///< guarded by mutex_
    bool freshField_ = false;                                         ///< guarded by mutex_
    QTimer timer_;
    QThreadPool pool_;
    Job<QString> job_{*this, pool_}, fieldJob_{*this, pool_};
    Job<View> viewJob_{*this, pool_};
    struct Gridded {
        Cells cells;
        QString trouble;
    };
    Job<Gridded> gridJob_{*this, pool_};
};

}  // namespace cvane::desk
