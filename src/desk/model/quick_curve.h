#pragma once
#include <QObject>

#include "desk/model/document.h"
#include "desk/model/job.h"
#include "lifting/runs.h"

namespace cvane::desk {

/// Lift and induced drag over the schedule's angles before anything has been run: the lifting surface of the aircraft
/// that was built here, or of a flat surface of the model's outline from above. Of a model that is no wing there is
/// none.
class QuickCurve : public QObject {
    Q_OBJECT
  public:
    explicit QuickCurve(Document& document);
    ~QuickCurve() override;
    struct Points {
        std::vector<double> alpha_deg, CL, CD;  ///< on the campaign's reference area; CD without profile drag
        bool ofOutline = false;
    };
    /// Looks for the present settings' curve unless it is there: whoever shows it asks.
    void wanted();
    /// Null: none, or not yet.
    const std::shared_ptr<const Points>& points() const { return points_; }

  signals:
    void moved();

  private:
    /// What a curve is of.
    struct Of {
        std::optional<wing::Aircraft> aircraft;
        lifting::Asked asked;
        int model = 0;  ///< its generation
        double area = 0.0;
        bool operator==(const Of&) const = default;
    };
    Document& document_;
    std::optional<Of> of_;
    QThreadPool pool_;
    std::shared_ptr<const Points> points_;
    Job<std::shared_ptr<const Points>> job_{*this, pool_};
};

}  // namespace cvane::desk
