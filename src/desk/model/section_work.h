#pragma once
#include <QObject>
#include <QTimer>
#include <mutex>

#include "campaign/steps/section_stage.h"
#include "desk/model/document.h"

namespace cvane::desk {

/// Polars of the open campaign's sections: those that are stored at once, the others as they are computed, away from
/// the window's thread.
class SectionWork : public QObject {
    Q_OBJECT
  public:
    explicit SectionWork(Document& document);

    struct Curve {
        campaign::PolarAsked asked;
        std::vector<section::PolarPoint> points;  ///< in the order of the angles; of those that are known
        std::vector<section::PolarPoint> before;  ///< the polar that this one took the place of, for comparison
        bool done() const { return points.size() == asked.what.values.size(); }
    };
    const std::vector<Curve>& curves() const { return curves_; }
    bool running() const { return job_.running(); }
    /// Of the points that are asked for. 1 when all are there.
    double share() const;
    void stop();
    /// Computes what is missing, if a stop has left something.
    void goOn();

    /// What is drawn of a section at one angle.
    struct View {
        std::string section;
        section::Contour outline;
        section::PointFigures figures;
        section::Distribution distribution;
        QString trouble;  ///< why there is none
    };
    const View& view() const { return view_; }
    /// Asks for the flow at an angle [rad]; `viewed` follows. The last one asked for counts.
    void look(const std::string& section, double reynolds, double alpha);

  signals:
    void changed();  ///< curves; at most ten times a second
    void viewed();

  private:
    void listCurves();
    void start();
    void takeFresh();
    Document& document_;
    std::vector<Curve> curves_;
    View view_;
    std::mutex mutex_;
    std::vector<std::pair<std::string, section::PolarPoint>> fresh_;  ///< by key; guarded by mutex_
    QTimer timer_;
    QThreadPool pool_;
    Job<QString> job_{*this, pool_};
    Job<View> viewJob_{*this, pool_};
};

}  // namespace cvane::desk
